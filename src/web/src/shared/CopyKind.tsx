import Button from '@mui/material/Button'
import { useLocation, useNavigate } from 'react-router'
import { client, sentencesOf, tabId, unwrap } from '../app/api'
import { useEdit } from '../app/edit'
import { useRig } from '../app/rig'

/** What a copy is, in a word. */
export const kindWord = (c: { kind: string; asksKind: boolean }) =>
  c.asksKind ? 'real or stand-in?' : c.kind === 'real' ? 'real' : 'stand-in'

/** Adds the real copy and goes there: one press. */
export function useAddReal() {
  const { rig } = useRig()
  const navigate = useNavigate()
  const location = useLocation()
  return useEdit({
    call: () =>
      unwrap(client.POST('/api/rigs/{id}/copies', { params: { path: { id: rig.id } }, body: { team: rig.team, kind: 'real', by: tabId } })),
    once: true,
    said: (copy) => `Copy ${copy.number} is the real one. Its numbers are guesses until they are tried on the table.`,
    done: (copy) => void navigate({ pathname: location.pathname, search: `?copy=${copy.number}` }),
  })
}

/** Says plainly whether what is shown comes from a table or is simulated; a copy from before is asked about once. */
export function CopyKind() {
  const { rig } = useRig()
  const own = rig.copies.find((c) => c.number === rig.copy)
  const add = useAddReal()
  const tell = useEdit({
    call: (kind: 'real' | 'standIn' | 'split') =>
      unwrap(
        client.POST('/api/rigs/{id}/copies/{copy}/kind', {
          params: { path: { id: rig.id, copy: rig.copy } },
          body: { kind, by: tabId },
        }),
      ),
    said: (to) => (to.standIn ? `Copy ${to.copy} is real. Copy ${to.standIn} is its stand-in.` : `Copy ${to.copy} is told apart now.`),
    aloud: true,
  })
  if (!own) return null
  const failed = add.error ?? tell.error
  return (
    <div className="row" data-testid="copy-kind" style={{ gap: '6px 12px', margin: '0 0 8px' }}>
      {own.asksKind ? (
        <>
          <b className="risky">Is copy {own.number} on a table?</b>
          <span className="fine">
            It was made before that was told apart, and holds both or does not say. Until then it counts as real.
          </span>
          <Button onClick={() => tell.mutate('real')}>It is on a table</Button>
          <Button onClick={() => tell.mutate('standIn')}>It is a stand-in</Button>
          <Button onClick={() => tell.mutate('split')}>Split it</Button>
        </>
      ) : own.kind === 'real' ? (
        <span className="fine muted">
          Copy {own.number}
          {own.unit ? `, ${own.unit},` : ''} is on a table: what is typed, pasted or read from a file here was measured there.
        </span>
      ) : (
        <>
          <span className="fine muted">
            Copy {own.number}
            {own.unit ? `, ${own.unit},` : ''} is a stand-in: its live values are simulated.
          </span>
          {!rig.copies.some((c) => c.kind === 'real') && (
            <Button onClick={() => add.mutate()} disabled={add.isPending}>
              Add the real one
            </Button>
          )}
        </>
      )}
      {failed && (
        <span className="fault" role="alert">
          {sentencesOf(failed).join(' ')}
        </span>
      )}
    </div>
  )
}
