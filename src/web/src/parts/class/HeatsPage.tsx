import { useRef, useState } from 'react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate, useParams } from 'react-router'
import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import { client, Problem, sentencesOf, unwrap } from '../../app/api'
import { useProgress } from '../../app/live'
import { useFollowRoom } from '../../app/me'
import { Faults } from '../../shared/Faults'
import { Choose } from './Choose'
import { ClassFrame } from './ClassFrame'
import { ChanceTable, HeatTable } from './HeatTable'
import { HeatRounds, HeatTrace } from './HeatRounds'
import { score, useHeats, type Heat, type Heats } from './heats'
import { NotThere } from './NotThere'
import { ScoreHeat } from './ScoreHeat'
import { ScoreSheet } from './ScoreSheet'
import { Moment } from '../../shared/Moment'

/** Heats at the educator's: the table, what the bench says, scoring, and the teams' machines. */
export default function HeatsPage() {
  const { id = '', heats: number = '' } = useParams()
  const heats = useHeats(Number(number))
  // Progress of the bench comes by the same way as news of the room.
  useFollowRoom(true)
  if (heats.error instanceof Problem || !Number.isInteger(Number(number)))
    return <NotThere title={heats.error?.message ?? 'There are no such heats.'} to={`/class/${id}/heats`} back="Go to the heats" />
  return <ClassFrame>{heats.data ? <Running heats={heats.data} /> : <Moment />}</ClassFrame>
}

function Running({ heats }: { heats: Heats }) {
  const [chosen, setChosen] = useState<{ first: number; second: number } | null>(null)
  const open = (h: Heat) => !h.held && !h.off
  const all = heats.rounds.flatMap((r) => r.heats)
  const heat = all.find((h) => chosen && h.first === chosen.first && h.second === chosen.second && open(h)) ?? heats.next ?? null
  return (
    <main className="page heats">
      <p className="fine no-print">
        <Link to={`/class/${heats.class}/heats`}>Heats of the class</Link>
      </p>
      <h1 className="page-title">{heats.name}</h1>
      <p className="lead">{heats.task}</p>
      <details className="no-print">
        <summary>Rules</summary>
        <ol className="challenge-rules">
          {heats.rules.map((r) => (
            <li key={r}>{r}</li>
          ))}
        </ol>
      </details>
      <HeatTable heats={heats} />
      <Bench heats={heats} />
      <div className="no-print">
        {heat ? (
          <ScoreHeat key={`${heat.first} ${heat.second}`} heats={heats} heat={heat} />
        ) : (
          <p className="lead" role="status">
            All heats are held.
          </p>
        )}
      </div>
      <h2 className="small-head">Heats</h2>
      <HeatRounds heats={heats} chosen={heat} onChoose={setChosen} />
      <HeatTrace heats={heats} judging />
      <Machines heats={heats} />
      <section className="only-print exercise-back">
        <h1>Score sheet: {heats.name}</h1>
        <ScoreSheet
          unit={heats.unit}
          by={heats.by}
          touches={heats.touches}
          falls={heats.falls}
          heats={heats.rounds.flatMap((r) =>
            r.heats
              .filter((h) => !h.off)
              .map((h) => ({ round: r.number, names: [heats.teams[h.first]!.name, heats.teams[h.second]!.name] as [string, string] })),
          )}
        />
      </section>
    </main>
  )
}

/** All machines against each other in the bench, before they meet. */
function Bench({ heats }: { heats: Heats }) {
  const queries = useQueryClient()
  const [job, setJob] = useState<string | null>(null)
  const progress = useProgress(job)
  // Who goes away stops it: also while it only gathers the machines, and has no name yet to be stopped by.
  const going = useRef<AbortController>(null)
  const run = useMutation({
    mutationFn: (name: string) => {
      going.current = new AbortController()
      return unwrap(
        client.POST('/api/heats/{heats}/simulate', {
          params: { path: { heats: heats.id } },
          body: { job: name },
          signal: going.current.signal,
        }),
      )
    },
    onSettled: () => {
      setJob(null)
      return queries.invalidateQueries({ queryKey: ['room'] })
    },
  })
  const missing = heats.teams.filter((t) => t.missing !== '')
  return (
    <section aria-label="What the bench says">
      <h2 className="small-head">What the bench says</h2>
      {!heats.simulatedUtc && (
        <p className="muted">
          The bench can run all machines against each other before they meet: how likely each place is stands here then.
        </p>
      )}
      <ChanceTable heats={heats} />
      {heats.simulatedUtc && (
        <p className="fine muted">
          {heats.simulatedRuns} runs{heats.together ? ', both in one place' : ', each on a field of its own'}. In the middle:{' '}
          {heats.teams
            .filter((t) => !t.withdrawn)
            .map((t) => `${t.name} ${t.typical === null || t.typical === undefined ? 'does not count' : score(t.typical, heats.unit)}`)
            .join(', ')}
          .
        </p>
      )}
      {missing.map((t) => (
        <p key={t.name} className="fault">
          {t.name} cannot run in the bench: {t.missing}
        </p>
      ))}
      {run.isPending ? (
        <div className="row no-print">
          <LinearProgress
            variant="determinate"
            value={progress ? Math.min(100, (100 * progress.done) / progress.total) : 0}
            aria-label="Runs done"
            sx={{ flex: 1, maxWidth: 420 }}
          />
          <span className="fine mono">{progress ? `${progress.done} of ${progress.total}` : 'starting'}</span>
          <Button onClick={() => going.current?.abort()}>Stop</Button>
        </div>
      ) : (
        <p className="no-print">
          <Button
            onClick={() => {
              const name = crypto.getRandomValues(new Uint32Array(2)).join('-')
              setJob(name)
              run.mutate(name)
            }}
          >
            {heats.simulatedUtc ? 'Run them again in the bench' : 'Run all heats in the bench'}
          </Button>
        </p>
      )}
      {run.isError && <Faults sentences={going.current?.signal.aborted ? ['The bench was stopped.'] : sentencesOf(run.error)} />}
    </section>
  )
}

/** Whose machine is which, who withdraws, and taking out what nobody has scored. */
function Machines({ heats }: { heats: Heats }) {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const path = { heats: heats.id }
  const fresh = () => queries.invalidateQueries({ queryKey: ['room'] })
  const enter = useMutation({
    mutationFn: (body: { team: number; rig: string | null }) => unwrap(client.POST('/api/heats/{heats}/enter', { params: { path }, body })),
    onSettled: fresh,
  })
  const withdraw = useMutation({
    mutationFn: (body: { team: number; back: boolean }) => unwrap(client.POST('/api/heats/{heats}/withdraw', { params: { path }, body })),
    onSettled: fresh,
  })
  const drop = useMutation({
    mutationFn: () => unwrap(client.DELETE('/api/heats/{heats}', { params: { path } })),
    onSuccess: async () => {
      await navigate(`/class/${heats.class}/heats`)
      await fresh()
    },
  })
  return (
    <section aria-label="Teams and machines" className="no-print">
      <h2 className="small-head">Teams and machines</h2>
      <div className="wide" tabIndex={0} role="region" aria-label="Machines">
        <table className="ruled">
          <thead>
            <tr>
              <th scope="col">Team</th>
              <th scope="col">Its machine in the bench</th>
              <th scope="col">Re-runs had</th>
              <th scope="col">
                <span className="hidden-text">What can be done</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {heats.teams.map((t, i) => (
              <tr key={i}>
                <th scope="row">{t.name}</th>
                <td>
                  {t.rigs.length === 0 ? (
                    <span className="muted">no rig</span>
                  ) : (
                    <Choose
                      label={`Rig of ${t.name}`}
                      value={t.rig ?? ''}
                      onChange={(rig) => enter.mutate({ team: i, rig: rig || null })}
                      all={[['', 'none'], ...t.rigs.map((r): [string, string] => [r.id, r.name])]}
                    />
                  )}
                </td>
                <td className="mono">
                  {t.reruns} of {heats.reruns}
                </td>
                <td>
                  <Button
                    variant="text"
                    disabled={withdraw.isPending}
                    aria-label={t.withdrawn ? `${t.name} is back` : `${t.name} withdraws`}
                    onClick={() => withdraw.mutate({ team: i, back: t.withdrawn })}
                  >
                    {t.withdrawn ? 'Is back' : 'Withdraws'}
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {[enter, withdraw, drop].map((m, i) => m.isError && <Faults key={i} sentences={sentencesOf(m.error)} />)}
      <p className="row">
        <Button onClick={() => window.print()}>Print the results and a score sheet</Button>
        {heats.trace.length === 0 && (
          <Button variant="text" onClick={() => drop.mutate()}>
            Take these heats out
          </Button>
        )}
      </p>
    </section>
  )
}
