import { useEffect, useId, useLayoutEffect, useRef, useState, type KeyboardEvent } from 'react'
import Button from '@mui/material/Button'
import { client, unwrap, type Schemas } from '../../app/api'
import type { Scene } from '../../app/scenes'
import { useRig } from '../../app/rig'

type Props = {
  scene: Scene
  /** The open line of the text, from 1; null for none. */
  line: number | null
  onLine: (line: number | null) => void
  onText: (text: string, what: string, done?: () => void) => void
  busy: boolean
  problem: string[]
}

/** The sentences of a scene. Enter opens a line or keeps it, Escape leaves, Alt+Enter adds one below, Alt+arrows move it. */
export function SceneSheet({ scene, line, onLine, onText, busy, problem }: Props) {
  const { rig } = useRig()
  const rows = scene.text.replace(/\n$/, '').split('\n')
  const [draft, setDraft] = useState<{ at: number; text: string; added: boolean } | null>(null)
  const list = useRef<HTMLDivElement>(null)
  const focusRow = (n: number) => requestAnimationFrame(() => list.current?.querySelector<HTMLElement>(`[data-row="${n}"]`)?.focus())
  const write = (next: string[], what: string, done?: () => void) => onText(next.join('\n') + '\n', what, done)
  const open = (n: number) => {
    onLine(n)
    setDraft({ at: n, text: rows[n - 1] ?? '', added: false })
  }
  const add = (after: number) => {
    onLine(after)
    setDraft({ at: after, text: '', added: true })
  }
  const keep = (text: string) => {
    if (!draft) return
    const clean = text.trim()
    const next = [...rows]
    if (draft.added) {
      if (clean) next.splice(draft.at, 0, clean)
    } else if (clean) next[draft.at - 1] = clean
    else next.splice(draft.at - 1, 1)
    const done = () => {
      // Another line may have been opened meanwhile.
      setDraft((now) => (now?.at === draft.at && now.added === draft.added ? null : now))
      focusRow(Math.min(draft.added && clean ? draft.at + 1 : draft.at, next.length))
    }
    // The field stays open until what was typed is kept: nothing of it is lost when another edit came first.
    if (next.join('\n') !== rows.join('\n'))
      write(next, draft.added ? `added to the scene ${scene.name}` : `changed the scene ${scene.name}`, done)
    else done()
  }
  const move = (n: number, by: number) => {
    const to = n - 1 + by
    if (n === 1 || to < 1 || to >= rows.length) return
    const next = [...rows]
    const [row] = next.splice(n - 1, 1)
    next.splice(to, 0, row!)
    onLine(to + 1)
    write(next, `moved a line of the scene ${scene.name}`)
    focusRow(to + 1)
  }
  const keys = (e: KeyboardEvent, n: number) => {
    if (e.key === 'Enter' && e.altKey) {
      e.preventDefault()
      add(n)
    } else if (e.key === 'Enter' || e.key === 'F2') {
      e.preventDefault()
      open(n)
    } else if ((e.key === 'ArrowUp' || e.key === 'ArrowDown') && e.altKey) {
      e.preventDefault()
      move(n, e.key === 'ArrowUp' ? -1 : 1)
    } else if (e.key === 'ArrowUp' || e.key === 'ArrowDown') {
      e.preventDefault()
      let to = n
      do to += e.key === 'ArrowUp' ? -1 : 1
      while (to >= 1 && to <= rows.length && rows[to - 1]!.trim() === '')
      if (to >= 1 && to <= rows.length) {
        onLine(to)
        focusRow(to)
      }
    } else if (e.key === 'Delete' && n > 1) {
      e.preventDefault()
      write(
        rows.filter((_, i) => i !== n - 1),
        `took a line out of the scene ${scene.name}`,
      )
      focusRow(Math.min(n, rows.length - 1))
    }
  }
  const editor = (label: string) => (
    <RowEditor
      key={`${draft!.at} ${draft!.added}`}
      rigId={rig.id}
      label={label}
      scene={scene.text}
      text={draft!.text}
      busy={busy}
      onText={(text) => setDraft({ ...draft!, text })}
      onKeep={keep}
      onLeave={() => {
        setDraft(null)
        focusRow(draft!.at)
      }}
    />
  )
  return (
    <div ref={list} className="scene-sheet" role="group" aria-label={`Sentences of ${scene.name}`}>
      {rows.map((row, i) => {
        const n = i + 1
        const view = scene.lines.find((l) => l.line === n)
        const faults = scene.diagnostics.filter((d) => d.line === n)
        if (row.trim() === '' && draft?.at !== n) return <div key={n} className="scene-gap" />
        return (
          <div key={n}>
            {draft && !draft.added && draft.at === n ? (
              editor(`Line ${n}`)
            ) : (
              <button
                type="button"
                data-row={n}
                className="scene-row"
                aria-current={line === n}
                aria-invalid={faults.length > 0}
                tabIndex={line === n || (line === null && n === 1) ? 0 : -1}
                onClick={() => (line === n ? open(n) : onLine(n))}
                onKeyDown={(e) => keys(e, n)}
                onFocus={() => line !== n && onLine(n)}
              >
                <Row row={row} view={view} />
              </button>
            )}
            {faults.map((f, k) => (
              <p key={k} className="fault fine" style={{ margin: '2px 8px 6px' }}>
                {f.message}
              </p>
            ))}
            {scene.notes
              .filter((x) => x.line === n)
              .map((x, k) => (
                <p key={k} className="scene-note fine">
                  {x.say}
                </p>
              ))}
            {draft && draft.added && draft.at === n && editor('New line')}
          </div>
        )
      })}
      {problem.length > 0 && (
        <p className="fault" role="alert">
          {problem.join(' ')}
        </p>
      )}
      <div className="row" style={{ marginTop: 10 }}>
        <Button size="small" onClick={() => add(line ?? rows.length)} disabled={busy}>
          Add a line
        </Button>
        {line !== null && line > 1 && (
          <>
            <Button size="small" onClick={() => open(line)} disabled={busy}>
              Edit line {line}
            </Button>
            <Button
              size="small"
              disabled={busy}
              onClick={() =>
                write(
                  rows.filter((_, i) => i !== line - 1),
                  `took a line out of the scene ${scene.name}`,
                )
              }
            >
              Take it out
            </Button>
          </>
        )}
      </div>
    </div>
  )
}

/** The first word stands apart, so that the eye finds what a line is about. */
function Row({ row, view }: { row: string; view: Schemas['SceneLineView'] | undefined }) {
  if (row.startsWith('#')) return <span className="muted">{row}</span>
  if (row.startsWith('scene '))
    return (
      <>
        <span className="about">scene</span>
        <b>{row.slice(6)}</b>
      </>
    )
  if (!view || view.key === '') return <span>{row}</span>
  const first = view.pieces[0]
  const rest = view.pieces.slice(1)
  const timed = ['a person', 'the room', 'disturbances', 'before a sensor', 'asking and passing'].includes(view.group)
  return (
    <>
      <span className={timed ? 'about timed' : 'about'}>{first?.kind === 'word' ? first.text.trim() : ''}</span>
      <span>
        {(first?.kind === 'word' ? rest : view.pieces)
          .filter((p, i) => !(i === 0 && p.text === ':'))
          .map((p, i) => (
            <span key={i}>
              {i > 0 && p.text.startsWith(' ') ? ' ' : ''}
              {p.kind === 'number' ? (
                <span className={`num ${view.kind}`} title={view.kind === 'measured' ? 'measured' : 'chosen'}>
                  {p.text.trim()}
                </span>
              ) : p.kind === 'name' ? (
                <b>{p.text.trim()}</b>
              ) : (
                p.text.trim()
              )}
            </span>
          ))}
      </span>
    </>
  )
}

type EditorProps = {
  rigId: string
  label: string
  scene: string
  text: string
  busy: boolean
  onText: (text: string) => void
  onKeep: (text: string) => void
  onLeave: () => void
}

/** A sentence being typed, with what may follow. */
function RowEditor({ rigId, label, scene, text, busy, onText, onKeep, onLeave }: EditorProps) {
  const id = useId()
  const input = useRef<HTMLInputElement>(null)
  const [hints, setHints] = useState<Schemas['SceneHint'][]>([])
  const [at, setAt] = useState(-1)
  const [caret, setCaret] = useState(text.length)
  useLayoutEffect(() => {
    input.current?.focus()
    input.current?.setSelectionRange(text.length, text.length)
    // Only when it opens.
    // eslint-disable-next-line
  }, [])
  useEffect(() => {
    const leave = new AbortController()
    const wait = setTimeout(() => {
      void unwrap(
        client.POST('/api/rigs/{id}/scenes/next', {
          params: { path: { id: rigId } },
          body: { typed: text.slice(0, caret), text: scene },
          signal: leave.signal,
        }),
      )
        .then((r) => {
          setHints(r.hints.slice(0, 12))
          setAt(-1)
        })
        .catch(() => undefined)
    }, 60)
    return () => {
      clearTimeout(wait)
      leave.abort()
    }
  }, [rigId, scene, text, caret])
  const put = (hint: string) => {
    const before = text.slice(0, caret)
    const start = before.search(/[^\s,(:]*$/)
    const glue = hint === ',' || hint === ':' ? '' : start > 0 && !/[\s(]$/.test(before.slice(0, start)) ? ' ' : ''
    const made = `${before.slice(0, start).replace(/ $/, hint === ',' ? '' : ' ')}${glue}${hint} `
    const next = made + text.slice(caret).trimStart()
    onText(next)
    setCaret(made.length)
    requestAnimationFrame(() => {
      input.current?.focus()
      input.current?.setSelectionRange(made.length, made.length)
    })
  }
  return (
    <div className="scene-editor">
      <div className="editor-line">
        <input
          ref={input}
          aria-label={label}
          role="combobox"
          aria-expanded={hints.length > 0}
          aria-controls={`${id}-hints`}
          aria-activedescendant={at >= 0 ? `${id}-${at}` : undefined}
          aria-autocomplete="list"
          value={text}
          disabled={busy}
          spellCheck={false}
          autoComplete="off"
          onChange={(e) => {
            onText(e.target.value)
            setCaret(e.target.selectionStart ?? e.target.value.length)
          }}
          onSelect={(e) => setCaret((e.target as HTMLInputElement).selectionStart ?? 0)}
          onKeyDown={(e) => {
            if (e.key === 'ArrowDown' && hints.length > 0) {
              e.preventDefault()
              setAt((at + 1) % hints.length)
            } else if (e.key === 'ArrowUp' && hints.length > 0) {
              e.preventDefault()
              setAt(at <= 0 ? hints.length - 1 : at - 1)
            } else if ((e.key === 'Enter' || e.key === 'Tab') && at >= 0 && hints[at]) {
              e.preventDefault()
              put(hints[at].text)
            } else if (e.key === 'Enter') {
              e.preventDefault()
              onKeep(text)
            } else if (e.key === 'Escape') {
              e.preventDefault()
              e.stopPropagation()
              onLeave()
            }
          }}
        />
        <Button size="small" variant="contained" onClick={() => onKeep(text)} disabled={busy}>
          Keep
        </Button>
        <Button size="small" onClick={onLeave}>
          Leave it
        </Button>
      </div>
      <ul id={`${id}-hints`} role="listbox" aria-label="What may follow" className="scene-hints">
        {hints.map((h, i) => (
          <li
            key={h.text}
            id={`${id}-${i}`}
            role="option"
            aria-selected={i === at}
            onPointerDown={(e) => {
              e.preventDefault()
              put(h.text)
            }}
          >
            {h.text}
          </li>
        ))}
      </ul>
    </div>
  )
}
