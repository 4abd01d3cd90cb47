/** The pages, each fetched when it is opened. */
export const pages = {
  rig: () => import('../parts/rig/RigPage'),
  sense: () => import('../parts/sense/SensePage'),
  'sense/card': () => import('../parts/sense/CardPage'),
  move: () => import('../parts/move/MovePage'),
  program: () => import('../parts/program/ProgramPage'),
  'program/script': () => import('../parts/program/ScriptPage'),
  'program/chart': () => import('../parts/program/ChartPage'),
  'program/table': () => import('../parts/program/TablePage'),
  'program/history': () => import('../parts/program/HistoryPage'),
  'program/walk': () => import('../parts/program/WalkPage'),
  check: () => import('../parts/check/CheckPage'),
  'check/others': () => import('../parts/check/OthersPage'),
  simulate: () => import('../parts/simulate/SimulatePage'),
  help: () => import('../parts/help/HelpPage'),
  prove: () => import('../parts/prove/ProvePage'),
  log: () => import('../parts/log/LogPage'),
}
