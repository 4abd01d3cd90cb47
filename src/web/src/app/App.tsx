import { lazy, Suspense } from 'react'
import { Navigate, Route, Routes } from 'react-router'
import { Home } from './Home'
import { Shell } from './Shell'
import { CheckPage } from '../parts/check/CheckPage'
import { LogPage } from '../parts/log/LogPage'

const RigPage = lazy(() => import('../parts/rig/RigPage'))
const SensePage = lazy(() => import('../parts/sense/SensePage'))
const CardPage = lazy(() => import('../parts/sense/CardPage'))
const MovePage = lazy(() => import('../parts/move/MovePage'))
const ProgramPage = lazy(() => import('../parts/program/ProgramPage'))
const ScriptPage = lazy(() => import('../parts/program/ScriptPage'))
const ChartPage = lazy(() => import('../parts/program/ChartPage'))
const HistoryPage = lazy(() => import('../parts/program/HistoryPage'))
const WalkPage = lazy(() => import('../parts/program/WalkPage'))
const SimulatePage = lazy(() => import('../parts/simulate/SimulatePage'))
const ProvePage = lazy(() => import('../parts/prove/ProvePage'))

export function App() {
  return (
    <Suspense fallback={<p className="page muted">One moment…</p>}>
      <Routes>
        <Route path="/" element={<Home />} />
        <Route path="/rigs/:id" element={<Shell />}>
          <Route index element={<Navigate to="program" replace />} />
          <Route path="rig" element={<RigPage />} />
          <Route path="rig/:view" element={<RigPage />} />
          <Route path="sense" element={<SensePage />} />
          <Route path="sense/card" element={<CardPage />} />
          <Route path="move" element={<MovePage />} />
          <Route path="program" element={<ProgramPage />} />
          <Route path="program/script" element={<ScriptPage />} />
          <Route path="program/chart" element={<ChartPage />} />
          <Route path="program/history" element={<HistoryPage />} />
          <Route path="program/walk" element={<WalkPage />} />
          <Route path="check" element={<CheckPage />} />
          <Route path="simulate" element={<SimulatePage />} />
          <Route path="prove" element={<ProvePage />} />
          <Route path="log" element={<LogPage />} />
        </Route>
        <Route
          path="*"
          element={
            <main className="page">
              <h1 className="page-title">There is nothing at this address</h1>
              <p>
                <a href="/">Go to the rigs</a>
              </p>
            </main>
          }
        />
      </Routes>
    </Suspense>
  )
}
