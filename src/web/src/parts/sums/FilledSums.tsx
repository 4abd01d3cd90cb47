import { useState } from 'react'
import { useQuery, keepPreviousData } from '@tanstack/react-query'
import { sentencesOf, Problem, type Sense } from '../../app/api'
import { useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import { show } from '../../shared/format'
import { useSums } from './catalogue'
import { compute } from './figures'
import { SumPicture } from './SumPicture'

type Filled = Sense['sums'][number]

/** Sums that matter for a sensor or a mechanism, filled from the rig; every number can be tried out here. */
export function FilledSums({ sums, of }: { sums: Filled[]; of: string }) {
  if (sums.length === 0) return null
  return (
    <section aria-label="What the geometry says">
      {sums.map((s) => (
        <OneSum key={`${of} ${s.sum}`} sum={s} of={of} />
      ))}
    </section>
  )
}

function OneSum({ sum, of }: { sum: Filled; of: string }) {
  const { rig } = useRig()
  const labels = useSums()?.labels ?? {}
  const store = `chiton-sum-${rig.id}-${of}-${sum.sum}`
  // What is tried here is remembered on this machine; the rig's own numbers are changed in Rig.
  const [tried, setTried] = useState<Record<string, string>>(() => {
    try {
      return JSON.parse(localStorage.getItem(store) ?? '{}') as Record<string, string>
    } catch {
      return {}
    }
  })
  const text = (f: Filled['fields'][number]) => tried[f.field] ?? f.values.map((v) => String(Number(v.toPrecision(6)))).join('; ')
  const put = (field: string, value: string | null) => {
    const next = { ...tried }
    if (value === null) delete next[field]
    else next[field] = value
    setTried(next)
    localStorage.setItem(store, JSON.stringify(next))
  }
  const input = Object.fromEntries(
    sum.fields.map((f) => {
      const values = text(f)
        .split(';')
        .map((v) => v.trim())
        .filter(Boolean)
        .map((v) => Number(v.replace(',', '.')))
      return [
        f.field,
        f.list ? values.map((v) => (Number.isNaN(v) ? null : v)) : values.length === 0 || Number.isNaN(values[0]) ? null : values[0],
      ]
    }),
  )
  const answer = useQuery({
    queryKey: ['sum', sum.sum, input],
    queryFn: () => compute(sum.sum, input),
    placeholderData: keepPreviousData,
    retry: false,
  })
  const result = answer.isError ? undefined : answer.data
  return (
    <section className="note lead-note" style={{ maxWidth: 980 }} data-testid={`sum-${sum.sum}`}>
      <small>{sum.why}</small>
      <h3>{sum.title}</h3>
      <div className="row" style={{ alignItems: 'flex-start', gap: '8px 26px' }}>
        <div style={{ flex: '1 1 520px', minWidth: 0 }}>
          {sum.fields.map((f) => (
            <label key={f.field} className="fine sum-field">
              <span>{f.label}</span>
              <span>
                <input
                  className="mono figure"
                  style={{ width: f.list ? 110 : 80 }}
                  inputMode="decimal"
                  aria-label={`${f.label}${f.unit ? ` in ${f.unit}` : ''}`}
                  aria-invalid={answer.error instanceof Problem && f.field in answer.error.fields}
                  value={text(f)}
                  onChange={(e) => put(f.field, e.target.value)}
                />{' '}
                {f.unit}
              </span>
              <span className={`num ${tried[f.field] === undefined ? f.kind : 'chosen'}`} style={{ fontSize: 12 }} title={f.source}>
                {tried[f.field] === undefined ? f.kind : 'tried here'}
              </span>
              {tried[f.field] !== undefined ? (
                <button type="button" className="link" onClick={() => put(f.field, null)}>
                  as the rig says
                </button>
              ) : (
                <span className="muted">{f.source}</span>
              )}
            </label>
          ))}
        </div>
        <div style={{ flex: '1 1 240px', minWidth: 0 }}>
          {answer.isError && <Faults sentences={sentencesOf(answer.error)} />}
          {result && (
            <>
              {result.verdict && (
                <p style={{ marginBottom: 6 }}>
                  <b className={result.verdict.grade}>{result.verdict.say}</b>
                </p>
              )}
              <SumPicture sum={sum.sum} input={input} result={result.result} />
              <table className="ruled" style={{ width: 'auto', fontSize: 14 }}>
                <tbody>
                  {Object.entries(result.result)
                    .filter(([k, v]) => labels[k]?.main && (typeof v === 'number' || v === null))
                    .map(([k, v]) => (
                      <tr key={k}>
                        <td>{labels[k]!.label}</td>
                        <td className="mono" style={{ textAlign: 'right' }}>
                          {v === null ? 'none' : `${show(v as number, 4)} ${labels[k]!.unit ?? ''}`}
                        </td>
                      </tr>
                    ))}
                </tbody>
              </table>
              {result.cautions.map((c, i) => (
                <p key={i} className="fine" style={{ margin: '3px 0' }}>
                  {c}
                </p>
              ))}
            </>
          )}
        </div>
      </div>
      {result && (
        <details style={{ marginTop: 6 }}>
          <summary>The arithmetic of {sum.sum.replace('-', ' ')}</summary>
          <div className="wide" tabIndex={0} role="group" aria-label={`Arithmetic of ${sum.sum}`}>
            <table className="ruled" style={{ maxWidth: 820 }}>
              <tbody>
                {result.steps.map((s, i) => (
                  <tr key={i}>
                    <td>{s.say}</td>
                    <td className="mono">{s.arithmetic}</td>
                    <td className="mono" style={{ textAlign: 'right' }}>
                      {s.value === null ? '–' : show(s.value, 5)} {s.unit}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </details>
      )}
    </section>
  )
}
