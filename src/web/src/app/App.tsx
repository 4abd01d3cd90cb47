import { Navigate, Route, Routes } from 'react-router'
import { useMe } from './me'
import { page } from './page'
import { pages } from './pages'
import { Shell } from './Shell'

const Home = page(pages.home)
const RigPage = page(pages.rig)
const SensePage = page(pages.sense)
const CardPage = page(pages['sense/card'])
const MovePage = page(pages.move)
const ProgramPage = page(pages.program)
const ScriptPage = page(pages['program/script'])
const ChartPage = page(pages['program/chart'])
const TablePage = page(pages['program/table'])
const HistoryPage = page(pages['program/history'])
const WalkPage = page(pages['program/walk'])
const OutsidePage = page(pages['program/outside'])
const OthersPage = page(pages['check/others'])
const CheckPage = page(pages.check)
const SimulatePage = page(pages.simulate)
const HelpPage = page(pages.help)
const ProvePage = page(pages.prove)
const LogPage = page(pages.log)
const MatchPage = page(pages['log/match'])

const ClassPage = page(pages.class)
const OneClassPage = page(pages['class/one'])
const ComparePage = page(pages['class/compare'])
const BoardPage = page(pages['class/board'])
const ProjectorPage = page(pages['class/projector'])
const ClassLessonsPage = page(pages['class/lessons'])
const CoursesPage = page(pages.courses)
const CoursePage = page(pages.course)
const LessonEditPage = page(pages['course/lesson'])
const LessonSheetPage = page(pages['course/sheet'])
const ChallengesPage = page(pages.challenges)
const ChallengePage = page(pages.challenge)
const ChallengeSheetPage = page(pages['challenge/sheet'])
const ClassHeatsPage = page(pages['class/heats'])
const HeatsPage = page(pages.heats)
const TeamHeatsPage = page(pages['heats/mine'])
const TrainPage = page(pages.train)
const LessonPage = page(pages.lesson)
const JoinPage = page(pages.join)
const JudgePage = page(pages.judge)

export function App() {
  const me = useMe()
  // Whoever has not joined joins first, whatever address was opened; a judge has one page.
  if (me.data?.who === 'stranger') return <JoinPage />
  if (me.data?.who === 'judge') return <JudgePage />
  // Nothing is asked for before it is known by whom; where that cannot be found out, the pages say so themselves.
  if (!me.data && me.failureCount === 0) return null
  return (
    <Routes>
      <Route path="/" element={<Home />} />
      <Route path="/help" element={<Navigate to="/help/guide" replace />} />
      <Route path="/help/:name" element={<HelpPage />} />
      <Route path="/class" element={<ClassPage />} />
      <Route path="/class/board" element={<BoardPage />} />
      <Route path="/class/projector" element={<ProjectorPage />} />
      <Route path="/class/:id/compare" element={<ComparePage />} />
      <Route path="/class/:id/lessons" element={<ClassLessonsPage />} />
      <Route path="/class/:id" element={<OneClassPage />} />
      <Route path="/courses" element={<CoursesPage />} />
      <Route path="/courses/:id" element={<CoursePage />} />
      <Route path="/courses/:id/:lesson" element={<LessonEditPage />} />
      <Route path="/challenges" element={<ChallengesPage />} />
      <Route path="/challenges/:id" element={<ChallengePage />} />
      <Route path="/challenges/:id/sheet" element={<ChallengeSheetPage />} />
      <Route path="/class/:id/heats" element={<ClassHeatsPage />} />
      <Route path="/class/:id/heats/:heats" element={<HeatsPage />} />
      <Route path="/heats" element={<TeamHeatsPage />} />
      <Route path="/train" element={<TrainPage />} />
      <Route path="/courses/:id/:lesson/sheet" element={<LessonSheetPage />} />
      <Route path="/lesson" element={<LessonPage />} />
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
        <Route path="program/table" element={<TablePage />} />
        <Route path="program/history" element={<HistoryPage />} />
        <Route path="program/walk" element={<WalkPage />} />
        <Route path="program/outside" element={<OutsidePage />} />
        <Route path="check" element={<CheckPage />} />
        <Route path="check/others" element={<OthersPage />} />
        <Route path="simulate" element={<SimulatePage />} />
        <Route path="prove" element={<ProvePage />} />
        <Route path="log" element={<LogPage />} />
        <Route path="log/match" element={<MatchPage />} />
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
  )
}
