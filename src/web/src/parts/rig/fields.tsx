import { useState } from 'react'
import type { Schemas } from '../../app/api'
import { carried, show, spread } from '../../shared/format'

/** A draft of anything that is edited as fields. */
export type Draft = Record<string, unknown>
export type Quantity = Schemas['Quantity']

export type Field = {
  at: string
  label: string
  kind: 'text' | 'number' | 'quantity' | 'choice' | 'yes' | 'names' | 'picks' | 'pair'
  unit?: string
  /** How far a guess of this kind may plausibly be off in all, whatever its value. */
  span?: number
  /** What of these follows from the rest of the draft. */
  labelOf?: (draft: Draft) => string
  unitOf?: (draft: Draft) => string
  spanOf?: (draft: Draft) => number
  /** What the two of a pair are called. */
  pair?: [string, string]
  /** A choice between yes, no and as usual. */
  flag?: boolean
  choices?: [string, string][]
  /** Choices that follow from the rest of the draft. */
  choicesOf?: (draft: Draft) => [string, string][]
  /** Shown only when it matters. */
  when?: (draft: Draft) => boolean
  hint?: string
}

export const get = (draft: unknown, at: string): unknown =>
  at.split('.').reduce<unknown>((d, k) => (d === null || d === undefined ? undefined : (d as Draft)[k]), draft)

export function set(draft: Draft, at: string, value: unknown): Draft {
  const [head, ...rest] = at.split('.') as [string, ...string[]]
  return { ...draft, [head]: rest.length === 0 ? value : set((draft[head] as Draft | null | undefined) ?? {}, rest.join('.'), value) }
}

export const number = (text: string) => (text.trim() === '' ? null : Number(text.trim().replace(',', '.')))

const kinds: [Quantity['kind'], string][] = [
  ['guessed', 'guessed'],
  ['measured', 'measured'],
  ['calculated', 'calculated'],
  ['chosen', 'chosen'],
]

/** A number with where it comes from: value, kind, spread and source. */
function QuantityField({
  label,
  unit,
  span,
  value,
  onValue,
}: {
  label: string
  unit: string
  span: number
  value: Quantity | null | undefined
  onValue: (q: Quantity | null) => void
}) {
  const [text, setText] = useState<string | null>(null)
  const change = (part: Partial<Quantity>) => {
    const base: Quantity = value ?? {
      value: 0,
      unit,
      kind: 'guessed',
      source: 'typed in, never tested',
      meanSd: 0,
      moveSd: 0,
      span: 0,
      min: -1e9,
      max: 1e9,
    }
    const next = { ...base, unit, ...part }
    // A guess spreads over what its kind may plausibly be, whatever its value, unless said otherwise.
    if (next.kind === 'guessed' && !next.span) next.span = span
    if (part.kind && part.kind !== base.kind)
      next.source =
        part.kind === 'measured'
          ? 'measured by hand'
          : part.kind === 'chosen'
            ? 'chosen by you'
            : part.kind === 'calculated'
              ? 'worked out'
              : 'typed in, never tested'
    onValue(next)
  }
  return (
    <span className="row" style={{ gap: 4 }}>
      <input
        className="mono figure"
        style={{ width: 76 }}
        inputMode="decimal"
        aria-label={`${label}${unit ? ` in ${unit}` : ''}`}
        aria-invalid={text !== null && Number.isNaN(number(text) ?? 0)}
        value={text ?? value?.value ?? ''}
        onChange={(e) => {
          // What belongs to a number stands as soon as there is one: the button under it does not move away when it is left.
          setText(e.target.value)
          const v = number(e.target.value)
          if (v !== null && !Number.isNaN(v) && v !== value?.value) change({ value: v })
        }}
        onBlur={() => {
          const v = text === null ? 0 : number(text)
          if (v === null && value) onValue(null)
          // What is no number stays as it was typed.
          if (v === null || !Number.isNaN(v)) setText(null)
        }}
      />
      <span className="fine muted">{unit}</span>
      {value && (
        <>
          <select
            className="figure"
            aria-label={`${label}: where it comes from`}
            value={value.kind}
            onChange={(e) => change({ kind: e.target.value as Quantity['kind'] })}
          >
            {kinds.map(([k, name]) => (
              <option key={k} value={k}>
                {name}
              </option>
            ))}
          </select>
          {value.kind === 'measured' && (
            <label className="fine">
              standard error{' '}
              <input
                className="mono figure"
                style={{ width: 56 }}
                inputMode="decimal"
                aria-label={`${label}: standard error`}
                defaultValue={value.meanSd ?? 0}
                key={`s${value.meanSd}`}
                onBlur={(e) => change({ meanSd: number(e.target.value) ?? 0 })}
              />
            </label>
          )}
          {value.kind === 'guessed' && (
            <label className="fine">
              within{' '}
              <input
                className="mono figure"
                style={{ width: 56 }}
                inputMode="decimal"
                aria-label={`${label}: width of its plausible range`}
                defaultValue={value.span ?? 0}
                key={`w${value.span}`}
                onBlur={(e) => change({ span: number(e.target.value) ?? 0 })}
              />
            </label>
          )}
          <input
            className="figure"
            style={{ width: 150 }}
            aria-label={`${label}: source`}
            value={value.source}
            maxLength={200}
            onChange={(e) => change({ source: e.target.value })}
          />
        </>
      )}
    </span>
  )
}

/** Fields of a draft, those that matter. */
export function Fields({ fields, draft, onDraft }: { fields: Field[]; draft: Draft; onDraft: (next: Draft) => void }) {
  return (
    <div className="field-grid">
      {fields
        .filter((f) => !f.when || f.when(draft))
        .map((f) => {
          const value = get(draft, f.at)
          const label = f.labelOf?.(draft) ?? f.label
          const put = (v: unknown) => onDraft(set(draft, f.at, v))
          return (
            <div key={f.at} className="field-row">
              <span className="fine">
                {label}
                {f.hint && <span className="muted">, {f.hint}</span>}
              </span>
              {f.kind === 'text' && (
                <input
                  className="figure"
                  aria-label={f.label}
                  value={(value as string | null) ?? ''}
                  onChange={(e) => put(e.target.value === '' && f.at !== 'name' ? null : e.target.value)}
                  style={{ width: '100%', maxWidth: 340 }}
                />
              )}
              {f.kind === 'number' && (
                <span>
                  <input
                    className="mono figure"
                    style={{ width: 76 }}
                    inputMode="decimal"
                    aria-label={f.label}
                    defaultValue={(value as number | null) ?? ''}
                    key={String(value)}
                    onBlur={(e) => put(number(e.target.value))}
                  />{' '}
                  <span className="fine muted">{f.unit}</span>
                </span>
              )}
              {f.kind === 'quantity' && (
                <QuantityField
                  label={label}
                  unit={f.unitOf?.(draft) ?? f.unit ?? ''}
                  span={f.spanOf?.(draft) ?? f.span ?? 10}
                  value={value as Quantity | null | undefined}
                  onValue={put}
                />
              )}
              {f.kind === 'choice' && (
                <select
                  className="figure"
                  aria-label={f.label}
                  value={f.flag ? (value === true ? 'true' : value === false ? 'false' : '') : ((value as string | null) ?? '')}
                  onChange={(e) => put(e.target.value === '' ? null : f.flag ? e.target.value === 'true' : e.target.value)}
                >
                  {(f.choicesOf?.(draft) ?? f.choices!).map(([k, name]) => (
                    <option key={k} value={k}>
                      {name}
                    </option>
                  ))}
                </select>
              )}
              {f.kind === 'yes' && (
                <input
                  type="checkbox"
                  aria-label={f.label}
                  checked={value === true}
                  onChange={(e) => put(e.target.checked)}
                  style={{ width: 20, height: 24 }}
                />
              )}
              {f.kind === 'pair' && (
                <span className="row" style={{ gap: '4px 16px' }}>
                  {f.pair!.map((name, side) => {
                    const picked = (value as string[] | null) ?? []
                    return (
                      <label key={name} className="fine">
                        {name}{' '}
                        <select
                          className="figure"
                          value={picked[side] ?? ''}
                          onChange={(e) => {
                            const next = [picked[0] ?? '', picked[1] ?? '']
                            next[side] = e.target.value
                            // One motor cannot be on both sides: the other side takes what this one had.
                            if (next[0] === next[1]) next[1 - side] = picked[side] ?? ''
                            put(next[0] === '' && next[1] === '' ? [] : next)
                          }}
                        >
                          <option value="">nothing yet</option>
                          {f.choices!.map(([k, n]) => (
                            <option key={k} value={k}>
                              {n}
                            </option>
                          ))}
                        </select>
                      </label>
                    )
                  })}
                </span>
              )}
              {f.kind === 'picks' && (
                <span className="row" style={{ gap: '2px 12px' }}>
                  {f.choices!.map(([k, name]) => {
                    const picked = (value as string[] | null) ?? []
                    return (
                      <label key={k} className="fine">
                        <input
                          type="checkbox"
                          checked={picked.includes(k)}
                          onChange={(e) => put(e.target.checked ? [...picked, k] : picked.filter((p) => p !== k))}
                        />{' '}
                        {name}
                        {picked.length > 1 && picked.includes(k) ? ` (${picked.indexOf(k) + 1})` : ''}
                      </label>
                    )
                  })}
                </span>
              )}
              {f.kind === 'names' && (
                <input
                  className="figure"
                  style={{ width: '100%', maxWidth: 340 }}
                  aria-label={`${f.label}, separated by commas`}
                  defaultValue={((value as string[] | null) ?? []).join(', ')}
                  key={((value as string[] | null) ?? []).join()}
                  onBlur={(e) =>
                    put(
                      e.target.value
                        .split(',')
                        .map((n) => n.trim().replace(/\s+/g, ' '))
                        .filter(Boolean),
                    )
                  }
                />
              )}
            </div>
          )
        })}
    </div>
  )
}

/** A quantity in a sentence, with the mark of where it comes from. */
export function Marked({ q }: { q: Quantity | null | undefined }) {
  if (!q) return <span className="muted">not said</span>
  // A guess stands as it was typed: its spread is not what its digits came from.
  const said = q.kind === 'guessed' ? show(q.value, 4) : carried(q.value, spread(q)).value
  return (
    <span
      className={`num ${q.kind}`}
      tabIndex={0}
      title={`${q.kind}: ${q.source}`}
      aria-label={`${said} ${q.unit}, ${q.kind}: ${q.source}`}
    >
      {said} {q.unit}
    </span>
  )
}
