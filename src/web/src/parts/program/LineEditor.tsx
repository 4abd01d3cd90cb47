import { useEffect, useId, useLayoutEffect, useRef, useState } from 'react'
import Button from '@mui/material/Button'
import { client, unwrap, type Schemas } from '../../app/api'

type Diagnostic = Schemas['Diagnostic']
type Completion = Schemas['Completion']

type Props = {
  rigId: string
  label: string
  text: string
  busy: boolean
  problem: string[]
  /** Where the line stands: the server knows the rest of the program. */
  place: Omit<Schemas['Typing'], 'text'>
  onText: (text: string) => void
  onKeep: (text: string) => void
  onLeave: () => void
  /** Makes what the line names and nobody has made yet. */
  onMake: (make: Schemas['MakeOffer']) => void
  /** What else can be done to the line, for those without keys. */
  more?: { label: string; act: () => void }[]
}

/** A sentence being typed: what would fit next, and what is wrong, as it is typed. */
export function LineEditor({ rigId, label, text, busy, problem, place, onText, onKeep, onLeave, onMake, more = [] }: Props) {
  const id = useId()
  const input = useRef<HTMLInputElement>(null)
  const [faults, setFaults] = useState<Diagnostic[]>([])
  const [kindly, setKindly] = useState<string[]>([])
  const [choices, setChoices] = useState<Completion[]>([])
  const [at, setAt] = useState(-1)
  const pointed = useRef(-1)
  const waiting = useRef(false)
  const point = (n: number) => {
    pointed.current = n
    setAt(n)
  }
  const [open, setOpen] = useState(false)
  const [offers, setOffers] = useState<string[]>([])
  const [make, setMake] = useState<Schemas['MakeOffer'] | null>(null)
  const [caret, setCaret] = useState(text.length)
  const [diagnosed, setDiagnosed] = useState<string | null>(null)
  const lately = useRef(0)
  const standing = JSON.stringify(place)

  useEffect(() => {
    const leave = new AbortController()
    const ask = () => {
      lately.current = Date.now()
      const typing = { ...(JSON.parse(standing) as Props['place']), text }
      void unwrap(
        client.POST('/api/rigs/{id}/program/diagnose', {
          params: { path: { id: rigId } },
          body: { script: null, line: null, column: caret, typing },
          signal: leave.signal,
        }),
      )
        .then((view) => {
          setDiagnosed(text)
          setFaults(view.diagnostics)
          setKindly(view.kindly ?? [])
          const offered = view.completions.slice(0, 30)
          setChoices(offered)
          // Arrow and Enter may be quicker than the offer: they speak of the one that comes for what stands there now.
          const wanted = offered[Math.min(pointed.current, offered.length - 1)]
          if (waiting.current && wanted) take(wanted)
          else point(Math.min(pointed.current, offered.length - 1))
          waiting.current = false
        })
        // Without an answer the line is typed on as it is; keeping it says what is wrong.
        .catch(() => undefined)
    }
    // The first key is answered at once; of a quick row of them, the last.
    const wait = Date.now() - lately.current < 150 ? 15 : 0
    const timer = wait > 0 ? setTimeout(ask, wait) : undefined
    if (wait === 0) ask()
    return () => {
      clearTimeout(timer)
      leave.abort()
    }
    // take speaks of the text and the caret as they were asked for.
    // eslint-disable-next-line
  }, [text, caret, rigId, standing])

  // What was probably meant is asked for once typing rests: it is no matter of every key.
  useEffect(() => {
    setOffers([])
    setMake(null)
    const leave = new AbortController()
    const timer = setTimeout(
      () =>
        void unwrap(
          client.POST('/api/rigs/{id}/program/diagnose', {
            params: { path: { id: rigId } },
            body: { script: null, line: null, column: null, offers: true, typing: { ...(JSON.parse(standing) as Props['place']), text } },
            signal: leave.signal,
          }),
        )
          .then((view) => {
            setOffers(view.offers ?? [])
            setMake(view.make ?? null)
          })
          .catch(() => undefined),
      text.trim() === '' ? 0 : 300,
    )
    return () => {
      clearTimeout(timer)
      leave.abort()
    }
  }, [text, rigId, standing])

  // Before anything else can be typed: no key falls beside the field.
  useLayoutEffect(() => {
    input.current?.focus()
    input.current?.setSelectionRange(text.length, text.length)
    // eslint-disable-next-line
  }, [])

  // The caret stands behind what was taken before the next key can be typed.
  const placed = useRef<number | null>(null)
  useLayoutEffect(() => {
    if (placed.current !== null) input.current?.setSelectionRange(placed.current, placed.current)
    placed.current = null
  }, [text])

  const take = (choice: Completion) => {
    const before = text.slice(0, choice.start) + choice.text
    const after = text.slice(caret)
    const next = before + (after.startsWith(' ') || choice.text.endsWith(' ') ? '' : ' ') + after.trimStart()
    onText(next)
    // What was offered was for the text before: it must not be taken again while the new offer is on its way.
    setChoices([])
    point(-1)
    setCaret(before.length + 1)
    placed.current = before.length + 1
  }

  // A whole sentence instead of what was typed; it can be typed on, and is kept by Enter.
  const offer = (whole: string) => {
    onText(whole)
    setOffers([])
    setOpen(false)
    point(-1)
    setCaret(whole.length)
    placed.current = whole.length
    input.current?.focus()
  }

  // A name that nobody has made is made, or was another one: both are offered.
  const acts = [
    ...offers.map((whole) => ({ label: whole, act: () => offer(whole) })),
    ...(make ? [{ label: make.label, act: () => onMake(make) }] : []),
  ]
  const fault = text.trim() === '' ? undefined : faults[0]
  return (
    <div className="editor">
      {/* Beside the field: what comes below it as one types would push them from under the finger. */}
      <div className="editor-line">
        <input
          ref={input}
          value={text}
          aria-label={label}
          role="combobox"
          aria-autocomplete="list"
          aria-expanded={open && choices.length > 0}
          aria-controls={`${id}-list`}
          aria-activedescendant={at >= 0 ? `${id}-${at}` : undefined}
          aria-describedby={`${id}-fault`}
          aria-invalid={fault !== undefined}
          spellCheck={false}
          autoComplete="off"
          readOnly={busy}
          onChange={(e) => {
            point(-1)
            waiting.current = false
            onText(e.target.value)
            setCaret(e.target.selectionStart ?? e.target.value.length)
            setOpen(true)
          }}
          onClick={() => setOpen(true)}
          onSelect={(e) => setCaret(e.currentTarget.selectionStart ?? 0)}
          onKeyDown={(e) => {
            if (e.key === 'ArrowDown' && !e.altKey && (choices.length > 0 || diagnosed !== text)) {
              e.preventDefault()
              setOpen(true)
              point(diagnosed === text ? Math.min(choices.length - 1, at + 1) : at + 1)
            } else if (e.key === 'ArrowUp' && !e.altKey && choices.length > 0) {
              e.preventDefault()
              point(Math.max(-1, at - 1))
            } else if (e.key === 'Enter') {
              e.preventDefault()
              const choice = choices[at]
              if (open && at >= 0 && diagnosed !== text) waiting.current = true
              else if (open && choice) take(choice)
              else onKeep(text)
            } else if (e.altKey && '1234'.includes(e.key) && acts[Number(e.key) - 1]) {
              e.preventDefault()
              acts[Number(e.key) - 1]!.act()
            } else if (e.key === 'Escape') {
              e.preventDefault()
              if (open && at >= 0) {
                setOpen(false)
                point(-1)
              } else onLeave()
            }
          }}
        />
        <Button disabled={busy} onClick={() => onKeep(text)}>
          Keep
        </Button>
        <Button variant="text" onClick={onLeave}>
          Leave
        </Button>
      </div>
      {open && choices.length > 0 && (
        <ul className="choices" id={`${id}-list`} role="listbox" aria-label="What can follow">
          {choices.map((c, i) => (
            <li
              key={c.text + c.kind}
              id={`${id}-${i}`}
              role="option"
              aria-selected={i === at}
              onPointerDown={(e) => {
                e.preventDefault()
                take(c)
              }}
            >
              <span>{c.text}</span>
              <small>{c.kind}</small>
            </li>
          ))}
        </ul>
      )}
      <div
        id={`${id}-fault`}
        className={fault || problem.length > 0 ? 'fault' : 'muted fine'}
        data-testid="line-fault"
        data-diagnosed={diagnosed ?? undefined}
        aria-live="polite"
        style={{ paddingTop: open && choices.length > 0 ? Math.min(220, choices.length * 26 + 12) : 2 }}
      >
        {problem.length > 0
          ? problem.join(' ')
          : fault
            ? `At ${fault.column}: ${fault.message}`
            : kindly.length > 0 && text.trim() !== ''
              ? kindly.join(' ')
              : 'Enter keeps it, Escape leaves it as it was. Arrow down shows what can follow.'}
      </div>
      {acts.length > 0 && (
        <ul className="offers" aria-label={text.trim() === '' ? 'Such as' : 'Did you mean'}>
          {acts.map((a, i) => (
            <li key={a.label}>
              <button type="button" className="link" disabled={busy} onPointerDown={(e) => e.preventDefault()} onClick={a.act}>
                {a.label}
              </button>
              {i < 4 && <kbd>Alt+{i + 1}</kbd>}
            </li>
          ))}
        </ul>
      )}
      {more.length > 0 && (
        <div className="row editor-acts">
          {more.map((m) => (
            <Button key={m.label} variant="text" aria-label={`${m.label}: ${label.toLowerCase()}`} disabled={busy} onClick={m.act}>
              {m.label}
            </Button>
          ))}
        </div>
      )}
    </div>
  )
}
