import { useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, unwrap, type Schemas } from '../../app/api'
import { partKey, useAnswered, useRig } from '../../app/rig'
import { useEdit } from '../../app/edit'

const count = (n: number) => n.toLocaleString('en-GB').replaceAll(',', '\u202f')

/** How far all that may happen to the programs was gone through; deeper on demand, and stopped. */
export function Explored() {
  const { rig } = useRig()
  const answered = useAnswered()
  const key = [...partKey(rig.id, 'check', rig.copy), 'exploration']
  const exploration = useQuery({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/exploration', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
    refetchInterval: (q) => (q.state.data?.running ? 500 : false),
  })
  const known = (now: Schemas['ExplorationView']) => answered(key, now)
  const deeper = useEdit({
    call: () => unwrap(client.POST('/api/rigs/{id}/exploration', { params: { path: { id: rig.id } }, body: { copy: rig.copy } })),
    said: null,
    done: known,
    but: key,
    aloud: true,
  })
  const stop = useEdit({
    call: () => unwrap(client.DELETE('/api/rigs/{id}/exploration', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
    said: null,
    done: known,
    but: key,
    aloud: true,
  })
  if (!exploration.data) return null
  const { far, running } = exploration.data
  return (
    <section aria-label="Gone through" className="explored">
      <h2 className="small-head">All that may happen</h2>
      {far.states === 0 && !running ? (
        <p className="fine muted">{far.bound ?? 'It was not gone through.'}</p>
      ) : (
        <>
          <p className="fine" aria-live="polite">
            <span className="mono">{count(far.states)}</span> {far.states === 1 ? 'state' : 'states'} in up to{' '}
            <span className="mono">{far.depth}</span> {far.depth === 1 ? 'event' : 'events'}
            {running ? ', and on…' : far.complete ? ': all there are.' : ', and there are more.'}
          </p>
          {far.bound && <p className="fine muted">{far.bound}</p>}
          <p className="fine muted">
            Any sensor may read anything at any moment. Times that begin together run out in their order, others in any. What is possible
            here need not happen on the table; what never is, does not.
          </p>
        </>
      )}
      {running ? (
        <Button className="no-print" onClick={() => stop.keep(undefined)} disabled={stop.busy}>
          Stop here
        </Button>
      ) : (
        far.mayGoOn && (
          <Button className="no-print" onClick={() => deeper.keep(undefined)} disabled={deeper.busy}>
            Go deeper
          </Button>
        )
      )}
    </section>
  )
}
