import { useMutation, useQueryClient } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { partKey, useRig } from '../../app/rig'
import { OnLine, useLine } from '../../shared/OnLine'

type Run = Schemas['WaitingRun']

/** Runs that began and ended by themselves, over the line: each waits for a word, as no machine knows whether it passed. */
export function Seen({ runs, onWord }: { runs: Run[]; onWord: (run: Run, passed: boolean) => void }) {
  const { rig, say } = useRig()
  const queries = useQueryClient()
  const line = useLine(2000)
  const told = useMutation({
    mutationFn: (what: 'start' | 'stop') =>
      unwrap(client.POST(`/api/rigs/{id}/line/${what}`, { params: { path: { id: rig.id } }, body: { copy: rig.copy, by: null } })),
    onSuccess: (answer) => {
      // What the answer says of the line may be older than what is known by now.
      void queries.invalidateQueries({ queryKey: partKey(rig.id, 'line', rig.copy) })
      if (answer.say.startsWith('It answers no')) say(answer.say)
    },
    onError: (e) => say(sentencesOf(e).join(' ')),
  })
  const drop = useMutation({
    mutationFn: (key: string) => unwrap(client.POST('/api/rigs/{id}/line/drop', { params: { path: { id: rig.id } }, body: { key } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: partKey(rig.id, 'log', rig.copy) }),
    onError: (e) => say(sentencesOf(e).join(' ')),
  })
  if ((!line || line.standing === 'none') && runs.length === 0) return null
  return (
    <section className="no-print" aria-label="On the line">
      <OnLine line={line} />
      {line?.standing === 'joined' && (
        <div className="row" style={{ margin: '4px 0 8px' }}>
          <Button onClick={() => told.mutate(line.running ? 'stop' : 'start')} disabled={told.isPending}>
            {line.running ? 'Stop the robot' : 'Let the robot start'}
          </Button>
          <span className="fine" role="status" data-testid="line-run">
            {line.running
              ? `It runs: ${line.programs.map((p) => p.state || 'ended').join(', ')}.`
              : 'A run is seen by itself, wherever it is started.'}
          </span>
        </div>
      )}
      {runs.length > 0 && (
        <ul className="items" data-testid="seen-runs">
          {runs.map((r, i) => (
            <li key={r.key} className="row" style={{ gap: '6px 12px', padding: '4px 0' }}>
              <span style={{ flex: '1 1 300px' }}>{r.say}</span>
              <Button variant="contained" onClick={() => onWord(r, true)} aria-label={`Seen run ${i + 1} passed`}>
                It passed
              </Button>
              <Button variant="outlined" onClick={() => onWord(r, false)} aria-label={`Seen run ${i + 1} failed`}>
                It failed
              </Button>
              <Button variant="text" onClick={() => drop.mutate(r.key)} disabled={drop.isPending} aria-label={`Seen run ${i + 1} was none`}>
                It was no run
              </Button>
            </li>
          ))}
        </ul>
      )}
    </section>
  )
}
