import { useState } from 'react'
import { useMutation } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { client, Problem, sentencesOf, unwrap } from '../../app/api'
import { useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'

/** Keeps a routine in the library of the workshop, for other rigs. */
export function KeepRoutineDialog({ routine, program, onClose }: { routine: string; program: number | undefined; onClose: () => void }) {
  const { rig, say } = useRig()
  const [note, setNote] = useState('')
  const keep = useMutation({
    mutationFn: (replace: boolean) =>
      unwrap(
        client.POST('/api/rigs/{id}/routines', {
          params: { path: { id: rig.id } },
          body: { program: program ?? null, routine, note, replace },
        }),
      ),
    onSuccess: () => {
      say(`${routine} is in the library. “Put in a pattern” offers it to every rig.`)
      onClose()
    },
  })
  const there = keep.error instanceof Problem && keep.error.fields['replace'] !== undefined
  return (
    <Dialog open onClose={onClose} aria-labelledby="keep-routine-title" fullWidth maxWidth="sm">
      <form
        onSubmit={(e) => {
          e.preventDefault()
          keep.mutate(false)
        }}
      >
        <DialogTitle id="keep-routine-title" sx={{ fontSize: 17, pb: 1 }}>{`Keep ${routine} in the library`}</DialogTitle>
        <DialogContent>
          <p className="fine muted">
            It goes in with the routines it does and the variables it needs. What it calls a device, zone or position is asked for anew in
            the rig that uses it.
          </p>
          <label style={{ display: 'block', marginTop: 8 }}>
            What it is good for
            <input
              className="figure"
              autoFocus
              style={{ width: '100%' }}
              value={note}
              maxLength={300}
              onChange={(e) => setNote(e.target.value)}
            />
          </label>
          {keep.isError && <Faults sentences={sentencesOf(keep.error)} />}
        </DialogContent>
        <DialogActions>
          <Button variant="text" onClick={onClose}>
            Leave it
          </Button>
          {there && <Button onClick={() => keep.mutate(true)}>Take its place</Button>}
          <Button variant="contained" type="submit" disabled={keep.isPending}>
            Keep it
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
