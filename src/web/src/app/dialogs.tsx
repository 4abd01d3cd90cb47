import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import TextField from '@mui/material/TextField'
import { useColorScheme } from '@mui/material/styles'
import { setSettings, useSettings } from './settings'
import { useEffect, useRef, useState } from 'react'
import { Link, useLocation, useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { client, unwrap, type Rig } from './api'
import { openSums } from './SumsKey'

/** What finding can do besides going somewhere. */
export type FoundActs = Record<'undo' | 'redo' | 'send' | 'print' | 'settings', () => void>

/** Finds anything of the rig, a sum, an action or help, by its name or by everyday words. */
export function FindDialog({ rig, acts, onClose }: { rig: Rig; acts: FoundActs; onClose: () => void }) {
  const navigate = useNavigate()
  const { search } = useLocation()
  const [text, setText] = useState('')
  const [at, setAt] = useState(0)
  const answer = useQuery({
    queryKey: ['find', rig.id, rig.copy, rig.revision, text],
    queryFn: ({ signal }) =>
      unwrap(client.GET('/api/rigs/{id}/find', { params: { path: { id: rig.id }, query: { text, copy: rig.copy } }, signal })),
    placeholderData: keepPreviousData,
  })
  const found = answer.data ?? []
  const waiting = useRef(false)
  useEffect(() => {
    if (waiting.current && !answer.isPlaceholderData && answer.isSuccess) go(at)
    // go speaks of what is found now.
    // eslint-disable-next-line
  }, [answer.data, answer.isPlaceholderData])
  const go = (i: number) => {
    const item = found[i]
    // What is shown may still be of what was typed before: Enter speaks of what comes for what stands there now.
    waiting.current = answer.isPlaceholderData || answer.isPending
    if (!item || waiting.current) return
    onClose()
    if (item.kind === 'sum') openSums(item.to)
    else if (item.kind === 'action') {
      if (item.to === 'rigs') void navigate('/')
      else if (item.to === 'sums') openSums(null)
      // Once the dialog is gone, so that it is not on the paper.
      else setTimeout(acts[item.to as keyof FoundActs], 250)
    } else if (item.kind === 'help') void navigate(item.to)
    else {
      const url = new URL(`/rigs/${rig.id}/${item.to}`, window.location.origin)
      const copy = new URLSearchParams(search).get('copy')
      if (copy) url.searchParams.set('copy', copy)
      void navigate({ pathname: url.pathname, search: url.search, hash: url.hash })
    }
  }
  return (
    <Dialog open onClose={onClose} aria-labelledby="find-title" fullWidth maxWidth="xs">
      <DialogTitle id="find-title" sx={{ fontSize: 17, pb: 1 }}>
        Find anything
      </DialogTitle>
      <DialogContent>
        <div className="editor">
          <input
            autoFocus
            aria-label="What do you look for?"
            role="combobox"
            aria-expanded="true"
            aria-controls="found"
            aria-activedescendant={found[at] ? `found-${at}` : undefined}
            value={text}
            onChange={(e) => {
              waiting.current = false
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
              <li key={f.kind + f.to + f.name} id={`found-${i}`} role="option" aria-selected={i === at} onClick={() => go(i)}>
                <span>
                  {f.name} {f.say && <small>{f.say}</small>}
                </span>
                <small>{f.kind}</small>
              </li>
            ))}
          </ul>
          {answer.isSuccess && !answer.isPlaceholderData && found.length === 0 && (
            <p className="muted fine">Nothing is called so. Say it in other words, or look in the guide.</p>
          )}
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
  ['S, Shift + S', 'in Program, add a state below this one, or in it'],
  ['R, O', 'in Program, add a region, or a routine'],
  ['R', 'record, in Sense'],
  ['J, K', 'in Check, go to the next finding, or the one before'],
  ['Ctrl + K', 'find anything: parts, names, numbers, sums, actions, help'],
  ['Ctrl + J', 'open Bench sums'],
  ['?', 'help, this list, and settings'],
]

// The guide is opened at the place that is asked about.
function helpFor(pathname: string): [string, string][] {
  const part = pathname.split('/')[3] ?? ''
  const about: Record<string, [string, string]> = {
    rig: ['/help/guide#a-rig-from-nothing', 'How a rig is described'],
    sense: ['/help/guide#five-minutes-with-the-seed-trolley', 'How zones are found'],
    move: ['/help/guide#move', 'How moves are measured'],
    program: ['/help/guide#program', 'How programs are written'],
    check: ['/help/checks', 'What is looked for'],
  }
  return [
    ...(about[part] ? [about[part]] : []),
    ['/help/guide', 'Guide'],
    ['/help/language', 'Script language'],
    ['/help/guide#words', 'What our words mean'],
  ]
}

/** Lists the keys, and what can be chosen about the page itself. */
export function KeysDialog({ onClose }: { onClose: () => void }) {
  const chosen = useSettings()
  const { mode, setMode } = useColorScheme()
  const { pathname } = useLocation()
  return (
    <Dialog open onClose={onClose} aria-labelledby="keys-title">
      <DialogTitle id="keys-title" sx={{ fontSize: 17 }}>
        Help, keys and settings
      </DialogTitle>
      <DialogContent>
        <section aria-label="Help" className="row" style={{ gap: '4px 18px', marginBottom: 14 }}>
          {helpFor(pathname).map(([to, words]) => (
            <Link key={to} to={to} onClick={onClose}>
              {words}
            </Link>
          ))}
        </section>
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
