import { Link, useParams } from 'react-router'
import Button from '@mui/material/Button'
import { Problem } from '../../app/api'
import { Tiles } from '../simulate/Tiles'
import { useChallenge } from './ChallengePage'
import { ClassFrame } from './ClassFrame'
import { FieldDrawing, FieldList } from './FieldDrawing'
import { NotThere } from './NotThere'
import { ScoreSheet } from './ScoreSheet'
import { Moment } from '../../shared/Moment'

/** A challenge on paper: task and rules, the field to scale with what it is built from, and a sheet to score on. */
export default function ChallengeSheetPage() {
  const { id = '' } = useParams()
  const view = useChallenge(id)
  if (view.error instanceof Problem) return <NotThere title={view.error.message} to="/challenges" back="Go to the challenges" />
  if (!view.data)
    return (
      <ClassFrame>
        <Moment />
      </ClassFrame>
    )
  const { challenge, field } = view.data
  return (
    <ClassFrame>
      <main className="page paper-sheet">
        <p className="row no-print">
          <Link to={`/challenges/${id}`}>{challenge.name}</Link>
          <Button onClick={() => window.print()}>Print</Button>
          {field.plan && <Tiles plan={field.plan} name={challenge.name} />}
        </p>
        <h1>Challenge: {challenge.name}</h1>
        <p className="lesson-task">{challenge.task}</p>
        <section>
          <h2>Rules</h2>
          <ol className="challenge-rules">
            {[...challenge.rules, ...field.sentences].map((r) => (
              <li key={r}>{r}</li>
            ))}
          </ol>
          {field.counts.length > 0 && (
            <>
              <h2>What counts</h2>
              <ul className="mono">
                {field.counts.map((c, i) => (
                  <li key={i}>{c}</li>
                ))}
              </ul>
            </>
          )}
          <p>A run lasts {field.limitS} s at most.</p>
        </section>
        <section className="exercise-back">
          <h1>The field of {challenge.name}</h1>
          {field.plan && <FieldDrawing plan={field.plan} name={challenge.name} />}
          {!challenge.together && <p>Two of it are built, one for each lane.</p>}
          <h2>What it is built from</h2>
          <FieldList parts={field.parts} />
          <p className="fine">Places are said from the lower left corner: to the right, then up, in mm.</p>
        </section>
        <section className="exercise-back">
          <h1>Score sheet: {challenge.name}</h1>
          <ScoreSheet
            unit={field.unit}
            by={challenge.by}
            touches={challenge.touches}
            falls={challenge.by !== 'stays' && challenge.fallCost > 0}
            heats={Array.from({ length: 12 }, () => null)}
          />
        </section>
      </main>
    </ClassFrame>
  )
}
