import { useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import { Link } from 'react-router'
import { client, sentencesOf, tabId, unwrap } from '../../app/api'
import { useProgress } from '../../app/live'
import { partKey, useAnswered, useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import { show } from '../../shared/format'

let asked = 0

/** What the runs of a revision teach: the range that follows, numbers they narrowed, what to measure next, or what would explain a surprise. */
export function Learnt({
  revision,
  scene,
  runs,
  open,
  called,
}: {
  revision: number
  scene: string
  runs: string
  open: boolean
  called: boolean
}) {
  const { rig, say } = useRig()
  const queries = useQueryClient()
  const answered = useAnswered()
  const [wanted, setWanted] = useState(open)
  const [job, setJob] = useState<string | null>(null)
  const key = [...partKey(rig.id, 'log', rig.copy), 'learnt', revision, scene, runs]
  const learnt = useQuery({
    queryKey: key,
    enabled: wanted,
    retry: false,
    queryFn: ({ signal }) => {
      const own = `learnt-${tabId}-${++asked}`
      setJob(own)
      return unwrap(
        client.GET('/api/rigs/{id}/log/learnt', {
          params: { path: { id: rig.id }, query: { copy: rig.copy, revision, scene, job: own } },
          signal,
        }),
      )
    },
  })
  const progress = useProgress(learnt.isFetching ? job : null)
  const take = useMutation({
    mutationFn: (number: string) =>
      unwrap(
        client.POST('/api/rigs/{id}/log/learnt/take', {
          params: { path: { id: rig.id } },
          body: { copy: rig.copy, revision, scene, number, by: tabId, job: `learnt-${tabId}-${++asked}` },
        }),
      ),
    onSuccess: async (view, number) => {
      await answered(key, view)
      void queries.invalidateQueries({ queryKey: ['part', rig.id] })
      say(`${number} is in Move now, narrowed. Undo takes it back.`)
    },
  })
  const view = learnt.data
  if (!wanted)
    return (
      <p className="log-ask no-print">
        <Button variant="text" onClick={() => setWanted(true)}>
          What did these runs teach?
        </Button>
      </p>
    )
  return (
    <section className="log-learnt" aria-label={`What revision ${revision}${scene ? `, ${scene},` : ''} teaches`} data-testid="learnt">
      <h3 className="small-head">What these runs teach</h3>
      {learnt.isFetching && !view && (
        <div className="row no-print">
          <LinearProgress
            variant={progress ? 'determinate' : 'indeterminate'}
            value={progress ? Math.min(100, (100 * progress.done) / progress.total) : 0}
            aria-label="Copies made up"
            style={{ flex: '1 1 160px', maxWidth: 320 }}
          />
          <span className="mono fine">
            {progress ? `${progress.done} of ${progress.total} more copies made up` : 'held against the copies of the proof…'}
          </span>
          <Button onClick={() => job && void client.DELETE('/api/jobs/{job}', { params: { path: { job } } })}>Stop</Button>
        </div>
      )}
      {learnt.isError && (
        <>
          <Faults sentences={sentencesOf(learnt.error)} />
          <Button variant="text" onClick={() => void learnt.refetch()}>
            Ask again
          </Button>
        </>
      )}
      {view && (
        <>
          <p data-testid="learnt-say">{view.say}</p>
          {view.numbers.length > 0 && (
            <table className="ruled">
              <thead>
                <tr>
                  <th scope="col">Number</th>
                  <th scope="col">Before</th>
                  <th scope="col">With these runs</th>
                  <th scope="col" className="no-print">
                    Move
                  </th>
                </tr>
              </thead>
              <tbody>
                {view.numbers.slice(0, 8).map((n) => (
                  <tr key={n.name}>
                    <th scope="row">
                      {n.name} <small className="muted">{n.kind}</small>
                    </th>
                    <td className="mono">
                      {show(n.was)} ± {show(n.wasSd, 2)} {n.unit}
                    </td>
                    <td className="mono">
                      {show(n.value)} ± {show(n.sd, 2)} {n.unit}
                    </td>
                    <td className="no-print">
                      {n.taken ? (
                        <Link to={`/rigs/${rig.id}/move?copy=${rig.copy}&view=trials&motion=${encodeURIComponent(n.motion ?? '')}`}>
                          in Move now
                        </Link>
                      ) : n.motion ? (
                        <Button disabled={take.isPending} onClick={() => take.mutate(n.name)} aria-label={`Take over ${n.name}`}>
                          Take over
                        </Button>
                      ) : (
                        <span className="fine muted">Move does not hold it</span>
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {take.isError && <Faults sentences={sentencesOf(take.error)} />}
          {(view.explaining.length > 0 || view.candidates.length > 0) && (
            <>
              <p>{called ? 'What would explain it:' : 'Seen beside that:'}</p>
              <ul>
                {view.candidates.map((c) => (
                  <li key={c}>{c}</li>
                ))}
                {view.explaining.slice(0, 5).map((n) => (
                  <li key={n.name}>{n.say}</li>
                ))}
              </ul>
            </>
          )}
          {view.next.length > 0 && (
            <p>
              <b>To measure next:</b> {view.next[0]} <Link to={`/rigs/${rig.id}/prove?copy=${rig.copy}`}>All that is in doubt</Link>
            </p>
          )}
        </>
      )}
    </section>
  )
}
