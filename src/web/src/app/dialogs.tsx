import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import TextField from '@mui/material/TextField'
import { useColorScheme } from '@mui/material/styles'
import { setSettings, useSettings } from './settings'
import { useState } from 'react'
import { useLocation, useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import type { Rig } from './api'
import { parts } from './parts'

/** Finds a part, a state or a device by name. */
export function FindDialog({ rig, onClose }: { rig: Rig; onClose: () => void }) {
  const navigate = useNavigate()
  const { search } = useLocation()
  const [text, setText] = useState('')
  const [at, setAt] = useState(0)
  const all = [
    ...parts.map((p) => ({ name: p.name, kind: 'part', to: p.part as string, hash: '' })),
    ...rig.states.map((s) => ({ name: s, kind: 'state', to: 'program', hash: `#state-${encodeURIComponent(s)}` })),
    ...rig.devices.map((d) => ({ name: d, kind: 'device', to: 'rig', hash: '' })),
  ]
  const found = all.filter((a) => a.name.toLowerCase().includes(text.toLowerCase())).slice(0, 12)
  const go = (i: number) => {
    const item = found[i]
    if (!item) return
    void navigate({ pathname: `/rigs/${rig.id}/${item.to}`, search, hash: item.hash })
    onClose()
  }
  return (
    <Dialog open onClose={onClose} aria-labelledby="find-title" fullWidth maxWidth="xs">
      <DialogTitle id="find-title" sx={{ fontSize: 17, pb: 1 }}>
        Find anything by name
      </DialogTitle>
      <DialogContent>
        <div className="editor">
          <input
            autoFocus
            aria-label="Name"
            role="combobox"
            aria-expanded="true"
            aria-controls="found"
            aria-activedescendant={found[at] ? `found-${at}` : undefined}
            value={text}
            onChange={(e) => {
              setText(e.target.value)
              setAt(0)
            }}
            onKeyDown={(e) => {
              if (e.key === 'ArrowDown') {
                e.preventDefault()
                setAt(Math.min(found.length - 1, at + 1))
              }
              if (e.key === 'ArrowUp') {
                e.preventDefault()
                setAt(Math.max(0, at - 1))
              }
              if (e.key === 'Enter') go(at)
            }}
          />
          <ul id="found" role="listbox" aria-label="Found" className="choices" style={{ position: 'static', border: 0 }}>
            {found.map((f, i) => (
              <li key={f.kind + f.name} id={`found-${i}`} role="option" aria-selected={i === at} onClick={() => go(i)}>
                <span>{f.name}</span>
                <small>{f.kind}</small>
              </li>
            ))}
          </ul>
          {found.length === 0 && <p className="muted fine">Nothing has that name.</p>}
        </div>
      </DialogContent>
    </Dialog>
  )
}

const keyList: [string, string][] = [
  ['1 to 8', 'open a part'],
  ['Enter', 'edit the line in focus, and keep it'],
  ['Escape', 'leave without keeping'],
  ['Alt + Enter', 'add a line below'],
  ['Up, Down', 'go from line to line'],
  ['Alt + Up, Alt + Down', 'move the line, or the state with all in it'],
  ['Alt + Shift + Down', 'copy the line or state'],
  ['Delete', 'take the line or state out'],
  ['Alt + Shift + Right, Left', 'put the state into the one above, or take it out'],
  ['Left, Right', 'fold and unfold the state'],
  ['I', 'where the numbers of the line come from'],
  ['Ctrl + Z, Ctrl + Shift + Z', 'undo, redo'],
  ['R', 'record, in Sense'],
  ['Ctrl + K', 'find anything by name'],
  ['Ctrl + J', 'open Bench sums'],
  ['?', 'this list, and settings'],
]

/** Lists the keys, and what can be chosen about the page itself. */
export function KeysDialog({ onClose }: { onClose: () => void }) {
  const chosen = useSettings()
  const { mode, setMode } = useColorScheme()
  return (
    <Dialog open onClose={onClose} aria-labelledby="keys-title">
      <DialogTitle id="keys-title" sx={{ fontSize: 17 }}>
        Keys and settings
      </DialogTitle>
      <DialogContent>
        <section aria-label="Settings" className="row" style={{ gap: 16, marginBottom: 12, alignItems: 'flex-end' }}>
          <TextField
            select
            size="small"
            label="Colours"
            value={mode ?? 'system'}
            onChange={(e) => setMode(e.target.value as 'system' | 'light' | 'dark')}
            slotProps={{ select: { native: true } }}
          >
            <option value="system">As the system says</option>
            <option value="light">Light</option>
            <option value="dark">Dark</option>
          </TextField>
          <TextField
            select
            size="small"
            label="Size of letters"
            value={chosen.text}
            onChange={(e) => setSettings({ text: Number(e.target.value) as 100 | 115 | 130 })}
            slotProps={{ select: { native: true } }}
          >
            <option value={100}>Usual</option>
            <option value={115}>Larger</option>
            <option value={130}>Largest</option>
          </TextField>
          <FormControlLabel
            control={<Checkbox checked={chosen.keys} onChange={(e) => setSettings({ keys: e.target.checked })} />}
            label="Single keys, such as 1 to 8"
          />
        </section>
        <table className="ruled">
          <tbody>
            {keyList.map(([key, what]) => (
              <tr key={key}>
                <td className="mono">{key}</td>
                <td>{what}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="fine muted">These are kept by this browser.</p>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose} autoFocus>
          Close
        </Button>
      </DialogActions>
    </Dialog>
  )
}
