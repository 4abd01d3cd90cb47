/** The eight parts in the order of work. */
export const parts = [
  { part: 'rig', name: 'Rig' },
  { part: 'sense', name: 'Sense' },
  { part: 'move', name: 'Move' },
  { part: 'program', name: 'Program' },
  { part: 'check', name: 'Check' },
  { part: 'simulate', name: 'Simulate' },
  { part: 'prove', name: 'Prove' },
  { part: 'log', name: 'Log' },
] as const

export type Part = (typeof parts)[number]['part']
