import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { useRig } from '../../app/rig'
import type { Scene } from '../../app/scenes'

type Props = {
  scenes: Schemas['ScenesView']
  open: Scene | undefined
  busy: boolean
  problem: string[]
  onMake: (texts: string[], what: string, open: string) => void
  onLeave: () => void
}

/** A new scene from one of a handful of starts, or a copy of the open one; which counts, and taking one away. */
export function NewScene({ scenes, open, busy, problem, onMake, onLeave }: Props) {
  const [name, setName] = useState('')
  const texts = scenes.scenes.map((s) => s.text)
  const taken = scenes.scenes.map((s) => s.name)
  const free = (wanted: string) => {
    let made = wanted
    for (let n = 2; taken.includes(made); n++) made = `${wanted} ${n}`
    return made
  }
  const make = (text: string, usual: string) => {
    const called = free(name.trim() || usual)
    onMake([...texts, text.replace(/^scene .*$/m, `scene ${called}`)], `new scene ${called}`.slice(0, 80), called)
  }
  const counts = (at: Scene) =>
    onMake(
      scenes.scenes.map((s) => {
        const bare = s.text.replace(/^counts\n/m, '')
        return s.name === at.name ? bare.replace(/^(scene .*\n)/m, '$1counts\n') : bare
      }),
      `the scene ${at.name} counts`.slice(0, 80),
      at.name,
    )
  return (
    <div className="new-scene">
      <TextField size="small" label="Name" value={name} onChange={(e) => setName(e.target.value)} placeholder="As it is drawn" fullWidth />
      <p className="small-head" style={{ margin: '12px 0 6px' }}>
        Begin with
      </p>
      <div className="row" style={{ flexWrap: 'wrap', gap: 8 }}>
        {scenes.starts.map((s) => (
          <Button key={s.name} size="small" disabled={busy} onClick={() => make(s.text, /^scene (.+)$/m.exec(s.text)?.[1] ?? 'New scene')}>
            {s.name}
          </Button>
        ))}
      </div>
      <TakeOver busy={busy} onTake={make} />
      {open && (
        <>
          <p className="small-head" style={{ margin: '14px 0 6px' }}>
            {open.name}
          </p>
          <div className="row" style={{ flexWrap: 'wrap', gap: 8 }}>
            <Button size="small" disabled={busy} onClick={() => make(open.text, open.name)}>
              Copy it
            </Button>
            <Button size="small" disabled={busy || open.counts} onClick={() => counts(open)}>
              Let it count
            </Button>
            <Button
              size="small"
              disabled={busy || texts.length < 2}
              onClick={() => {
                const left = scenes.scenes.filter((s) => s.name !== open.name)
                onMake(
                  left.map((s) => s.text),
                  `took out the scene ${open.name}`.slice(0, 80),
                  left[0]?.name ?? '',
                )
              }}
            >
              Take it out
            </Button>
          </div>
        </>
      )}
      {problem.length > 0 && (
        <p className="fault" role="alert">
          {problem.join(' ')}
        </p>
      )}
      <Button size="small" onClick={onLeave} sx={{ mt: 2 }}>
        Leave it
      </Button>
    </div>
  )
}

/** A scene of another rig: what it names that this rig has not is said at its lines once it is here. */
function TakeOver({ busy, onTake }: { busy: boolean; onTake: (text: string, usual: string) => void }) {
  const { rig } = useRig()
  const [from, setFrom] = useState('')
  const rigs = useQuery({ queryKey: ['rigs'], queryFn: () => unwrap(client.GET('/api/rigs')) })
  const theirs = useQuery({
    queryKey: ['rig', from, 'scenes-to-take'],
    enabled: from !== '',
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/scenes', { params: { path: { id: from } } })),
  })
  const others = (rigs.data ?? []).filter((r) => r.id !== rig.id && !r.archived)
  if (others.length === 0) return null
  return (
    <>
      <p className="small-head" style={{ margin: '14px 0 6px' }}>
        Or take over one of another rig
      </p>
      <TextField
        select
        size="small"
        label="Rig"
        value={from}
        onChange={(e) => setFrom(e.target.value)}
        fullWidth
        slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
      >
        <option value="">which…</option>
        {others.map((r) => (
          <option key={r.id} value={r.id}>
            {r.name}
          </option>
        ))}
      </TextField>
      {theirs.isError && (
        <p className="fault" role="alert">
          {sentencesOf(theirs.error).join(' ')}
        </p>
      )}
      {from !== '' && theirs.data && (
        <div className="row" style={{ flexWrap: 'wrap', gap: 8, marginTop: 8 }}>
          {theirs.data.scenes.map((s) => (
            <Button key={s.name} size="small" disabled={busy} onClick={() => onTake(s.text.replace(/^counts\n/m, ''), s.name)}>
              {s.name}
            </Button>
          ))}
        </div>
      )}
    </>
  )
}
