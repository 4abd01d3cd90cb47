import { useEffect, useRef, useState } from 'react'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import Drawer from '@mui/material/Drawer'
import { client, Problem, sentencesOf, unwrap } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { show } from '../../shared/format'
import { compute } from './figures'
import { SumPicture } from './SumPicture'
import {
  converted,
  find,
  inputOf,
  lengthFactor,
  lengthUnits,
  lengthWord,
  textOf,
  trimmed,
  useSums,
  type Labels,
  type LengthUnit,
  type Sum,
} from './catalogue'
import { SendTo } from './SendTo'

const store = 'chiton-bench-sums'
type Kept = { open: string | null; unit: LengthUnit; texts: Record<string, Record<string, string>> }
const kept = (): Kept => {
  try {
    return { open: null, unit: 'mm', texts: {}, ...(JSON.parse(localStorage.getItem(store) ?? '{}') as Partial<Kept>) }
  } catch {
    return { open: null, unit: 'mm', texts: {} }
  }
}

/** Every calculation in one place: found by what is asked, a sentence with blanks, the arithmetic under it. */
export default function BenchSums({
  rig,
  copy,
  start,
  onClose,
}: {
  rig: string | null
  copy: number
  /** The sum that was asked for; null for where one was last. */
  start: string | null
  onClose: () => void
}) {
  const [state, setState] = useState<Kept>(() => ({ ...kept(), ...(start ? { open: start } : {}) }))
  const [text, setText] = useState('')
  const [at, setAt] = useState(0)
  useEffect(() => localStorage.setItem(store, JSON.stringify(state)), [state])
  const all = useSums()
  const sums = all?.sums ?? []
  const open = sums.find((s) => s.name === state.open)
  const found = find(sums, text)
  const choose = (name: string | null) => setState({ ...state, open: name })
  const [hasty, setHasty] = useState(false)
  if (hasty && all) {
    setHasty(false)
    if (found[0]) choose(found[0].name)
  }
  return (
    <Drawer
      anchor="right"
      open
      onClose={onClose}
      slotProps={{ paper: { className: 'bench-sums', 'aria-labelledby': 'sums-title', role: 'dialog', 'aria-modal': true } }}
    >
      <div className="row no-print">
        <h2 id="sums-title" className="page-title" style={{ margin: 0 }}>
          {open ? open.title : 'Bench sums'}
        </h2>
        <span className="push" />
        <label className="fine">
          lengths in{' '}
          <select
            className="figure"
            aria-label="Lengths in"
            value={state.unit}
            onChange={(e) => {
              const unit = e.target.value as LengthUnit
              setState({
                ...state,
                unit,
                texts: Object.fromEntries(
                  Object.entries(state.texts).map(([name, t]) => {
                    const sum = sums.find((x) => x.name === name)
                    return [name, sum ? converted(sum, t, state.unit, unit) : t]
                  }),
                ),
              })
            }}
          >
            {Object.keys(lengthUnits).map((u) => (
              <option key={u} value={u}>
                {u === 'in' ? 'inch' : u}
              </option>
            ))}
          </select>
        </label>
        {open && <Button onClick={() => choose(null)}>All sums</Button>}
        <Button onClick={onClose}>
          Close<kbd>Esc</kbd>
        </Button>
      </div>
      {!open && (
        <>
          <input
            className="figure"
            style={{ width: '100%', minHeight: 36, margin: '10px 0' }}
            autoFocus
            role="combobox"
            aria-expanded="true"
            aria-controls="sum-list"
            aria-activedescendant={found[at] ? `sum-${found[at].name}` : undefined}
            aria-label="What do you want to know?"
            placeholder="What do you want to know?"
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
              // Someone quick has typed and pressed Enter before the list is here: it is taken when it comes.
              if (e.key === 'Enter' && !all) {
                e.preventDefault()
                setHasty(true)
              }
              if (e.key === 'Enter' && found[at]) {
                e.preventDefault()
                choose(found[at].name)
              }
            }}
          />
          <ul
            id="sum-list"
            role="listbox"
            aria-label="Sums"
            className="choices"
            style={{ position: 'static', maxHeight: 'none', border: 0 }}
          >
            {found.map((s, i) => (
              <li key={s.name} id={`sum-${s.name}`} role="option" aria-selected={i === at} onClick={() => choose(s.name)}>
                <span>
                  <b>{s.title}</b>
                  <br />
                  <small>{s.asks.slice(0, 2).join('; ')}</small>
                </span>
                <small>{s.part}</small>
              </li>
            ))}
          </ul>
          {all && found.length === 0 && (
            <p className="muted">No sum answers that. Say it in other words, such as “how fast” or “which gear”.</p>
          )}
        </>
      )}
      {open && (
        <OneSum
          key={open.name}
          sum={open}
          labels={all?.labels ?? {}}
          shown={state.unit}
          texts={state.texts[open.name] ?? {}}
          onTexts={(t) => setState((s) => ({ ...s, texts: { ...s.texts, [open.name]: t } }))}
          rig={rig}
          copy={copy}
        />
      )}
    </Drawer>
  )
}

// What only pictures use.
const drawn = ['margins', 'poses', 'shares', 'inverseCovariance', 'coefficients', 'falsePerHour']

const plain = (v: unknown, labels: Labels): string =>
  typeof v === 'number'
    ? show(v, 5)
    : typeof v === 'boolean'
      ? v
        ? 'yes'
        : 'no'
      : v === null || v === undefined
        ? '–'
        : Array.isArray(v)
          ? v.length === 0
            ? '–'
            : v.map((x) => plain(x, labels)).join(', ')
          : typeof v === 'object'
            ? Object.entries(v)
                .map(([k, x]) => `${labels[k]?.label ?? k} ${plain(x, labels)}`)
                .join(', ')
            : String(v)

// What fits a cell: a value, or a list of names or of tries.
const short = (v: unknown) =>
  v === null ||
  typeof v !== 'object' ||
  (Array.isArray(v) &&
    v.length > 0 &&
    v.every((x) => typeof x === 'string' || x === null || Number.isInteger(x)) &&
    v.some((x) => x !== null))

/** A result that is a list or a group: a small table of what is in it. */
function Deep({ title, value, labels }: { title: string; value: unknown; labels: Labels }) {
  const rows = Array.isArray(value) ? value : [value]
  if (rows.length === 0) return null
  const objects = rows.every((r) => typeof r === 'object' && r !== null && !Array.isArray(r)) as boolean
  const keys = objects
    ? [...new Set(rows.flatMap((r) => Object.keys(r as object)))]
        .filter((k) => rows.some((r) => short((r as Record<string, unknown>)[k])))
        .slice(0, 7)
    : []
  return (
    <div className="wide" tabIndex={0} role="group" aria-label={title} style={{ marginTop: 10 }}>
      <h3 className="small-head">{title}</h3>
      <table className="ruled" style={{ width: 'auto', fontSize: 14 }}>
        {keys.length > 0 && (
          <thead>
            <tr>
              {keys.map((k) => (
                <th key={k}>
                  {labels[k]?.label ?? k}
                  {labels[k]?.unit === 's' && ', s'}
                </th>
              ))}
            </tr>
          </thead>
        )}
        <tbody>
          {rows.map((r, i) => (
            <tr key={i}>
              {keys.length > 0 ? (
                keys.map((k) => (
                  <td key={k} className={typeof (r as Record<string, unknown>)[k] === 'number' ? 'mono' : ''}>
                    {plain((r as Record<string, unknown>)[k], labels)}
                  </td>
                ))
              ) : (
                <td className="mono">{plain(r, labels)}</td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}

function OneSum({
  sum,
  labels,
  shown,
  texts,
  onTexts,
  rig,
  copy,
}: {
  sum: Sum
  labels: Labels
  shown: LengthUnit
  texts: Record<string, string>
  onTexts: (t: Record<string, string>) => void
  rig: string | null
  copy: number
}) {
  const [said, setSaid] = useState('')
  const first = useRef<HTMLElement | null>(null)
  useEffect(() => first.current?.focus(), [])
  const [slid, setSlid] = useState<string | null>(null)
  const input = inputOf(sum, texts, shown)
  const text = (key: string) => textOf(sum.blanks[key]!, texts[key], shown)
  const answer = useQuery({
    queryKey: ['sum', sum.name, input],
    queryFn: () => compute(sum.name, input),
    placeholderData: keepPreviousData,
    retry: false,
  })
  const a = answer.isError ? undefined : answer.data
  const faulty = answer.error instanceof Problem ? Object.keys(answer.error.fields) : []
  const wrong = (key: string) => faulty.some((f) => f === key || f.startsWith(`${key}[`) || f.startsWith(`${key}.`))
  const put = (key: string, value: string) => onTexts({ ...texts, [key]: value })
  // A sentence falls into words and blanks; the unit after a blank is the one in which lengths are shown.
  const pieces: string[] = []
  for (const part of sum.sentence.split('{')) {
    const end = part.indexOf('}')
    const blank = end < 0 ? undefined : sum.blanks[part.slice(0, end)]
    if (blank) pieces.push(`{${part.slice(0, end + 1)}`)
    const words = blank ? part.slice(end + 1) : part
    const length = blank?.unit && !blank.rows && words.startsWith(' mm')
    if (words) pieces.push(length ? ` ${lengthWord('mm', shown)}${words.slice(3)}` : words)
  }
  const results = a
    ? Object.entries(a.result).filter(([, v]) => typeof v === 'number' || typeof v === 'string' || typeof v === 'boolean' || v === null)
    : []
  const label = (key: string) => labels[key]?.label ?? key
  const said_ = (v: unknown, key = '') =>
    key === 'worstMove' && typeof v === 'number'
      ? String(v + 1)
      : typeof v === 'number'
        ? show(v, 5)
        : v === null
          ? 'none'
          : typeof v === 'boolean'
            ? v
              ? 'yes'
              : 'no'
            : String(v)
  const rawUnit = (key: string) => labels[key]?.unit ?? ''
  const unit = (key: string) => lengthWord(rawUnit(key), shown)
  const value = (v: unknown, key: string) =>
    typeof v === 'number' && lengthFactor(rawUnit(key), shown) !== 1 ? v / lengthFactor(rawUnit(key), shown) : v
  const asText = () =>
    [
      pieces.map((p) => (p.startsWith('{') ? text(p.slice(1, -1)).replaceAll('\n', ', ') : p)).join(''),
      ...results.map(([k, v]) => `${label(k)}: ${said_(value(v, k), k)} ${unit(k)}`.trim()),
      ...(a?.verdict ? [a.verdict.say] : []),
      '',
      ...(a?.steps.map((s) => `${s.say}: ${s.arithmetic}${s.value === null ? '' : ` = ${show(s.value, 5)}`} ${s.unit}`.trim()) ?? []),
    ].join('\n')
  const fill = async () => {
    if (!rig) return
    const { design } = await unwrap(client.GET('/api/rigs/{id}/design', { params: { path: { id: rig }, query: { copy } } }))
    const move = await unwrap(client.GET('/api/rigs/{id}/move', { params: { path: { id: rig }, query: { copy } } }))
    const drive = (design.mechanisms ?? []).find((m) => m.kind === 'twoWheelDrive') ?? (design.mechanisms ?? [])[0]
    // What trials on this copy found stands before what the design says.
    const found = (kind: string) =>
      move.mechanisms.find((m) => m.name === drive?.name)?.motions.find((m) => m.plan.kind === kind)?.inUse?.value
    const sensor = design.sensors[0]
    const range = design.sensors.find((s) => s.kind === 'distance')
    const wheel = found('straight') ?? drive?.wheelDiameterMm?.value
    const track = found('turn') ?? drive?.trackWidthMm?.value
    const known: Record<string, number | undefined> = {
      wheelDiameterMm: wheel,
      diameterMm: drive?.wheelDiameterMm?.value,
      trackWidthMm: track,
      halfTrackMm: track ? track / 2 : undefined,
      motorTurnsPerWheelTurn: drive?.motorTurnsPerTurn?.value,
      gearRatio: drive?.motorTurnsPerTurn?.value,
      samplePeriodMs: sensor?.samplePeriodMs,
      resolution: sensor?.resolution,
      spotDiameterMm: sensor?.spotDiameterMm?.value,
      sensorAheadMm: sensor?.mount?.aheadMm?.value,
      markerLengthMm: design.rail?.markers[0]?.lengthMm.value,
      beamHalfAngleDeg: range?.beamHalfAngleDeg?.value,
      blindZoneMm: range?.blindMm?.value,
      cells: design.power?.cells,
      voltsPerCell: design.power?.voltsPerCell,
      capacityMAh: design.power?.capacityMAh,
      packMaxMA: design.power?.packMaxMA ?? undefined,
      controllerOwnMA: design.power?.controllerOwnMA,
      controllerOutputMaxMA: design.power?.controllerOutputMaxMA,
      controllerOutputV: design.power?.controllerOutputV,
    }
    // Where a mechanism has this very sum filled, all of it is taken.
    for (const f of move.mechanisms.flatMap((m) => m.sums).find((s) => s.sum === sum.name)?.fields ?? [])
      if (f.kind !== 'guessed' && f.values.length === 1) known[f.field] = f.values[0]
    const next = { ...texts }
    const filled = Object.keys(sum.blanks).filter((k) => known[k] !== undefined)
    for (const k of filled) next[k] = trimmed(known[k]! / lengthFactor(sum.blanks[k]!.unit, shown))
    if (sum.blanks.devices && design.power)
      next.devices = design.power.devices
        .map((d) => [d.name, d.count, d.minV, d.maxV, d.idleMA, d.activeMA, d.stallMA, d.duty, d.suppliedBy].join('; '))
        .join('\n')
    onTexts(next)
    setSaid(
      filled.length === 0
        ? 'The rig knows none of these numbers yet.'
        : `Filled from ${design.name}: ${filled.map((k) => sum.blanks[k]!.label.toLowerCase()).join(', ')}.`,
    )
  }
  let taken = false
  return (
    <section aria-label={sum.title} data-testid={`bench-${sum.name}`}>
      <h2 className="only-print">{sum.title}, a worked example</h2>
      <p className="sum-sentence">
        {pieces.map((p, i) => {
          if (!p.startsWith('{')) return <span key={i}>{p}</span>
          const key = p.slice(1, -1)
          const blank = sum.blanks[key]!
          const value = text(key)
          const ref = (e: HTMLElement | null) => {
            if (!taken) {
              first.current = e
              taken = true
            }
          }
          const name = `${blank.label}${blank.unit ? ` in ${lengthWord(blank.unit, shown)}` : ''}`
          if (blank.choices)
            return (
              <select key={i} ref={ref} className="figure" aria-label={name} value={value} onChange={(e) => put(key, e.target.value)}>
                {blank.choices.map((c) => (
                  <option key={c}>{c}</option>
                ))}
              </select>
            )
          if (blank.rows)
            return (
              <textarea
                key={i}
                ref={ref}
                className="mono figure"
                aria-label={name}
                aria-invalid={wrong(key)}
                title={blank.label}
                rows={Math.max(1, value.split('\n').length)}
                style={{ width: '100%', display: 'block', margin: '4px 0' }}
                value={value}
                onChange={(e) => put(key, e.target.value)}
              />
            )
          return (
            <input
              key={i}
              ref={ref}
              className="mono figure"
              style={{ width: `${Math.max(5, value.length + 2)}ch` }}
              inputMode={blank.list ? 'text' : 'decimal'}
              onFocus={() => setSlid(blank.list ? null : key)}
              aria-label={name}
              aria-invalid={wrong(key)}
              value={value}
              onChange={(e) => put(key, e.target.value)}
            />
          )
        })}
      </p>
      {slid && <Slide key={slid} label={`Slide ${sum.blanks[slid]!.label.toLowerCase()}`} text={text(slid)} onText={(v) => put(slid, v)} />}
      {Object.values(sum.blanks).some((b) => b.rows) && (
        <p className="fine muted no-print">
          {Object.values(sum.blanks)
            .filter((b) => b.rows)
            .map((b) => b.label)
            .join('. ')}
          .
        </p>
      )}
      {answer.isError && <Faults sentences={sentencesOf(answer.error)} />}
      {a && (
        <>
          {a.verdict && (
            <p>
              <b className={a.verdict.grade}>{a.verdict.say}</b>
            </p>
          )}
          <SumPicture sum={sum.name} input={input} result={a.result} />
          {results.length > 0 && (
            <table className="ruled" style={{ width: 'auto' }} data-testid="result">
              <tbody>
                {results.map(([k, v]) => (
                  <tr key={k}>
                    <td>{label(k)}</td>
                    <td className="mono" style={{ textAlign: 'right' }}>
                      {said_(value(v, k), k)} {typeof v === 'number' ? unit(k) : ''}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {Object.entries(a.result as Record<string, unknown>)
            .filter(([k, v]) => typeof v === 'object' && v !== null && !drawn.includes(k))
            .map(([k, v]) => (
              <Deep key={k} title={label(k)} value={v} labels={labels} />
            ))}
          <h3 className="small-head" style={{ marginTop: 12 }}>
            The arithmetic{shown !== 'mm' && a.steps.some((st) => st.unit.startsWith('mm')) ? ', worked in mm' : ''}
          </h3>
          <table className="ruled">
            <tbody>
              {a.steps.map((s, i) => (
                <tr key={i}>
                  <td>{s.say}</td>
                  <td className="mono">{s.arithmetic}</td>
                  <td className="mono" style={{ textAlign: 'right' }}>
                    {s.value === null ? '' : show(s.value, 5)} {s.unit}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {a.cautions.map((c, i) => (
            <p key={i} className="fine">
              {c}
            </p>
          ))}
        </>
      )}
      <div className="row no-print" style={{ marginTop: 12 }}>
        {rig && <Button onClick={() => void fill()}>Fill from this rig</Button>}
        {rig && a && <SendTo rig={rig} copy={copy} sum={sum.name} title={sum.title} input={input} result={a.result} onSaid={setSaid} />}
        <Button
          disabled={!a}
          onClick={() =>
            void navigator.clipboard.writeText(asText()).then(
              () => setSaid('Copied as text.'),
              () => setSaid('The browser does not allow copying here; print it instead.'),
            )
          }
        >
          Copy as text
        </Button>
        <Button disabled={!a} onClick={() => window.print()}>
          Print as a worked example
        </Button>
        {Object.keys(texts).length > 0 && (
          <Button variant="text" onClick={() => onTexts({})}>
            Back to the example
          </Button>
        )}
        <span className="fine" aria-live="polite">
          {said}
        </span>
      </div>
    </section>
  )
}

/** A slider under the sentence, for the blank that was used last: the answer follows it. */
function Slide({ label, text, onText }: { label: string; text: string; onText: (t: string) => void }) {
  const now = Number(text.replace(',', '.'))
  // Its span is set when the blank is entered, so that the slider does not run away under the hand.
  const [span] = useState(() => {
    const v = Number.isFinite(now) && now !== 0 ? now : 10
    return v > 0 ? ([0, v * 3] as const) : ([v * 3, -v * 3] as const)
  })
  const step = Number(((span[1] - span[0]) / 300).toPrecision(1))
  return (
    <p className="row no-print fine">
      <label className="row">
        {label}{' '}
        <input
          type="range"
          aria-label={label}
          min={span[0]}
          max={span[1]}
          step={step}
          value={Number.isFinite(now) ? now : 0}
          onChange={(e) => onText(trimmed(Number(e.target.value)))}
          style={{ width: 260 }}
        />
      </label>
    </p>
  )
}
