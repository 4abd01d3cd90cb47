import { useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, unwrap, type Schemas } from '../../app/api'
import { partKey, useAnswered, useRig } from '../../app/rig'
import { useEdit } from '../../app/edit'

const count = (n: number) => n.toLocaleString('en-GB').replaceAll(',', '\u202f')

/** What runs of the bench came to, for the checks; stopped, and gone on with. */
export function Tried() {
  const { rig } = useRig()
  const answered = useAnswered()
  const key = [...partKey(rig.id, 'check', rig.copy), 'tries']
  const tries = useQuery({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/tries', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
    refetchInterval: (q) => (q.state.data?.settled ? false : q.state.data?.running ? 700 : 2000),
  })
  const known = (now: Schemas['TriesView']) => answered(key, now)
  const on = useEdit({
    call: () => unwrap(client.POST('/api/rigs/{id}/tries', { params: { path: { id: rig.id } }, body: { copy: rig.copy } })),
    said: null,
    done: known,
    but: key,
    aloud: true,
  })
  const stop = useEdit({
    call: () => unwrap(client.DELETE('/api/rigs/{id}/tries', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
    said: null,
    done: known,
    but: key,
    aloud: true,
  })
  if (!tries.data) return null
  const { running, settled, scenes, done, of, now } = tries.data
  return (
    <section aria-label="Tried in the bench" className="explored">
      <h2 className="small-head">Tried in the bench</h2>
      {scenes.length === 0 && !running && <p className="fine muted">Not tried yet: it runs once edits pause.</p>}
      <ul className="looked">
        {scenes.map((s) => (
          <li key={s.scene}>
            {s.scene}
            {!s.counts && <span className="muted">, not counted</span>}
            <small>
              {s.cannot ?? (
                <>
                  <span className="mono">{count(s.passes)}</span> of <span className="mono">{count(s.runs)}</span> pass, each on a made-up
                  copy.
                </>
              )}
            </small>
          </li>
        ))}
      </ul>
      <p className="fine muted" aria-live="polite">
        {running
          ? `Running${now ? `: ${now}` : ''}, ${count(done)} of ${count(of)} runs.`
          : settled && scenes.length > 0
            ? 'A risk that never showed is no more than good to know.'
            : ''}
      </p>
      {running ? (
        <Button className="no-print" onClick={() => stop.keep(undefined)} disabled={stop.busy}>
          Stop the runs
        </Button>
      ) : (
        !settled && (
          <Button className="no-print" onClick={() => on.keep(undefined)} disabled={on.busy}>
            {scenes.length === 0 ? 'Run it now' : 'Go on running'}
          </Button>
        )
      )}
    </section>
  )
}
