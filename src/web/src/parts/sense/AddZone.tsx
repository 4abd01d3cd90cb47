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

/** Gives the sensor one more zone. */
export function AddZone({ sense }: { sense: Sense }) {
  const { rig } = useRig()
  const [name, setName] = useState<string | null>(null)
  const add = useEdit({
    call: () =>
      unwrap(
        client.POST('/api/rigs/{id}/zones', {
          params: { path: { id: rig.id } },
          body: { baseRevision: rig.revision, sensor: sense.sensor, name, copy: rig.copy, by: tabId },
        }),
      ),
    said: () => `${sense.sensor} has a zone “${name}” now. Take readings of it on every copy.`,
    done: () => setName(null),
  })
  return (
    <>
      <Button
        onClick={() => {
          add.reset()
          setName('')
        }}
      >
        Add a zone
      </Button>
      {name !== null && (
        <Dialog open onClose={() => setName(null)} aria-labelledby="zone-title" fullWidth maxWidth="xs">
          <form
            onSubmit={(e) => {
              e.preventDefault()
              add.mutate()
            }}
          >
            <DialogTitle id="zone-title" sx={{ fontSize: 17 }}>
              One more zone of {sense.sensor}
            </DialogTitle>
            <DialogContent>
              <p className="fine muted" style={{ marginBottom: 12 }}>
                A zone is a name for a range of readings. Programs use the name, so a new room changes no program.
              </p>
              <TextField
                autoFocus
                fullWidth
                size="small"
                label="Name of the zone"
                value={name}
                onChange={(e) => setName(e.target.value)}
                sx={{ mt: 1 }}
              />
              {add.isError && (
                <p className="fault" role="alert">
                  {sentencesOf(add.error).join(' ')}
                </p>
              )}
            </DialogContent>
            <DialogActions>
              <Button onClick={() => setName(null)}>Leave</Button>
              <Button type="submit" variant="contained" disabled={add.isPending}>
                Add it
              </Button>
            </DialogActions>
          </form>
        </Dialog>
      )}
    </>
  )
}
