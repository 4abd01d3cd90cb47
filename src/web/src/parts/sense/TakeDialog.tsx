import { useState } from 'react'
import { useMutation } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import MenuItem from '@mui/material/MenuItem'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, tabId, unwrap, type Sense } from '../../app/api'
import { useRefresh, useRig } from '../../app/rig'
import { supply, taker } from './taker'
import { Faults } from '../../shared/Faults'

/** Readings pasted, typed, or read from a file. */
export function TakeDialog({
  sense,
  zone,
  initial,
  onClose,
}: {
  sense: Sense
  zone: string
  initial: { text: string; csv: boolean }
  onClose: () => void
}) {
  const { rig, say } = useRig()
  const refresh = useRefresh()
  const [text, setText] = useState(initial.text)
  const [into, setInto] = useState(zone)
  const take = useMutation({
    mutationFn: () =>
      unwrap(
        client.POST('/api/rigs/{id}/readings', {
          params: { path: { id: rig.id } },
          body: {
            copy: rig.copy,
            sensor: sense.sensor,
            zone: into,
            text,
            csv: initial.csv,
            by: tabId,
            supplyV: sense.kind === 'probe' ? supply() : null,
            ...taker(),
          },
        }),
      ),
    onSuccess: async (taken) => {
      say(`${taken.count} ${taken.count === 1 ? 'reading' : 'readings'} taken in.`)
      await refresh()
      onClose()
    },
  })
  return (
    <Dialog open onClose={onClose} aria-labelledby="take-title" fullWidth maxWidth="sm">
      <DialogTitle id="take-title" sx={{ fontSize: 17 }}>
        Readings of {sense.sensor}
      </DialogTitle>
      <DialogContent>
        <p className="fine muted" style={{ marginBottom: 10 }}>
          {sense.view === 'colours'
            ? 'One sample a line: red, green and blue, 0 to 255.'
            : sense.view === 'names'
              ? `One reading a line: the number of the word (${sense.words.map((w, i) => `${i} ${w}`).join(', ')}).`
              : `One reading a line, ${sense.low} to ${sense.high} ${sense.unit}.`}{' '}
          A table may have a column “zone”; rows that name none go into the zone chosen here.
        </p>
        <TextField
          select
          size="small"
          label="Into zone"
          value={into}
          onChange={(e) => setInto(e.target.value)}
          sx={{ minWidth: 160, mb: 2, mt: 1 }}
        >
          {sense.zones.map((z) => (
            <MenuItem key={z.zone} value={z.zone}>
              {z.zone}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          autoFocus
          multiline
          minRows={6}
          maxRows={12}
          fullWidth
          label="Readings"
          value={text}
          onChange={(e) => setText(e.target.value)}
          slotProps={{ htmlInput: { style: { fontFamily: 'var(--mono)' } } }}
        />
        {take.isError && <Faults sentences={sentencesOf(take.error)} />}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Leave</Button>
        <Button variant="contained" onClick={() => take.mutate()} disabled={take.isPending}>
          Take them in
        </Button>
      </DialogActions>
    </Dialog>
  )
}
