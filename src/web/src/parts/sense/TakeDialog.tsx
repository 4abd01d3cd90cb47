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
  const { rig } = useRig()
  const [text, setText] = useState(initial.text)
  const [into, setInto] = useState(zone)
  const take = useEdit({
    call: (sure: boolean) =>
      unwrap(
        client.POST('/api/rigs/{id}/readings', {
          params: { path: { id: rig.id } },
          body: {
            copy: rig.copy,
            sensor: sense.sensor,
            zone: into,
            text,
            csv: initial.csv,
            sure,
            by: tabId,
            supplyV: sense.kind === 'probe' ? supply() : null,
            ...taker(),
          },
        }),
      ),
    once: true,
    said: (taken) => `${taken.count} ${taken.count === 1 ? 'reading' : 'readings'} taken in.`,
    after: onClose,
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
              ? `One reading a line, as a word: ${sense.words.join(', ')}.`
              : `One reading a line, ${sense.low} to ${sense.high} ${sense.unit}. A unit behind a number is understood.`}{' '}
          A table may have a column “zone”; rows that name none go into the zone chosen here.
        </p>
        <p>
          <label className="fine">
            Into zone{' '}
            <select className="figure" aria-label="Into zone" value={into} onChange={(e) => setInto(e.target.value)}>
              {sense.zones.map((z) => (
                <option key={z.zone}>{z.zone}</option>
              ))}
            </select>
          </label>
        </p>
        <TextField
          autoFocus
          multiline
          minRows={6}
          maxRows={12}
          fullWidth
          sx={{ mt: 1.5 }}
          label="Readings"
          value={text}
          onChange={(e) => setText(e.target.value)}
          slotProps={{ htmlInput: { style: { fontFamily: 'var(--mono)' } } }}
        />
        {take.isError && <Faults sentences={sentencesOf(take.error)} />}
        {take.isError && sentencesOf(take.error).some((s) => s.endsWith('Keep them if you are sure.')) && (
          <Button onClick={() => take.mutate(true)} disabled={take.isPending}>
            Keep them, I am sure
          </Button>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Leave</Button>
        <Button variant="contained" onClick={() => take.mutate(false)} disabled={take.isPending}>
          Take them in
        </Button>
      </DialogActions>
    </Dialog>
  )
}
