import { useEdit } from '../../app/edit'
import { useState } from 'react'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, tabId, unwrap, type Sense } from '../../app/api'
import { useRig } from '../../app/rig'
import { show } from '../../shared/format'

type Asked = { zone: string; value: number }

/** Readings far from the rest, which may be set aside with a reason, and those that were. */
export function Aside({ sense }: { sense: Sense }) {
  const { rig } = useRig()
  const [asked, setAsked] = useState<Asked | null>(null)
  const [reason, setReason] = useState('')
  const change = useEdit({
    call: ({ zone, value, why }: Asked & { why: string | null }) =>
      unwrap(
        client.POST('/api/rigs/{id}/sense/set-aside', {
          params: { path: { id: rig.id } },
          body: { copy: rig.copy, sensor: sense.sensor, baseVersion: sense.version, zone, value, reason: why, by: tabId },
        }),
      ),
    said: (_, { value, zone, why }) =>
      why === null ? `${show(value)} of ${zone} counts again.` : `${show(value)} of ${zone} is set aside. It stays in the picture.`,
    after: () => setAsked(null),
  })
  const far = sense.zones.flatMap((z) => [...new Set(z.figures?.outliers ?? [])].map((value) => ({ zone: z.zone, value })))
  const aside = sense.zones.flatMap((z) => z.setAside)
  if (far.length === 0 && aside.length === 0) return null
  return (
    <section className="note lead-note" style={{ maxWidth: 640 }}>
      <small>Readings far from the rest</small>
      <table className="ruled" style={{ fontSize: 14 }}>
        <tbody>
          {far.slice(0, 8).map((f) => (
            <tr key={f.zone + f.value}>
              <td>{f.zone}</td>
              <td className="mono">
                {show(f.value)} {sense.unit}
              </td>
              <td>ringed in the picture, and counted</td>
              <td>
                <Button
                  onClick={() => {
                    setReason('')
                    change.reset()
                    setAsked(f)
                  }}
                >
                  Set {show(f.value)} aside
                </Button>
              </td>
            </tr>
          ))}
          {aside.map((a) => (
            <tr key={a.zone + a.value}>
              <td>{a.zone}</td>
              <td className="mono">
                {show(a.value)} {sense.unit}
              </td>
              <td>set aside: {a.reason}</td>
              <td>
                <Button onClick={() => change.mutate({ zone: a.zone, value: a.value, why: null })}>Take {show(a.value)} back</Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {asked && (
        <Dialog open onClose={() => setAsked(null)} aria-labelledby="aside-title" fullWidth maxWidth="xs">
          <form
            onSubmit={(e) => {
              e.preventDefault()
              change.mutate({ ...asked, why: reason })
            }}
          >
            <DialogTitle id="aside-title" sx={{ fontSize: 17 }}>
              Set {show(asked.value)} of {asked.zone} aside
            </DialogTitle>
            <DialogContent>
              <p className="fine muted" style={{ marginBottom: 12 }}>
                It stays in the picture, dashed, with your reason. Only set aside what has nothing to do with the zone, such as a hand in
                the way.
              </p>
              <TextField
                autoFocus
                fullWidth
                size="small"
                label="Why"
                value={reason}
                onChange={(e) => setReason(e.target.value)}
                sx={{ mt: 1 }}
                slotProps={{ htmlInput: { maxLength: 200 } }}
              />
              {change.isError && (
                <p className="fault" role="alert">
                  {sentencesOf(change.error).join(' ')}
                </p>
              )}
            </DialogContent>
            <DialogActions>
              <Button onClick={() => setAsked(null)}>Leave</Button>
              <Button type="submit" variant="contained" disabled={change.isPending}>
                Set aside
              </Button>
            </DialogActions>
          </form>
        </Dialog>
      )}
    </section>
  )
}
