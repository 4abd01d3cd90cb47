import type { Sense } from '../../app/api'
import { show } from '../../shared/format'

const size = 330
const pad = 34

const chunk = (values: number[]): [number, number, number][] =>
  Array.from({ length: Math.floor(values.length / 3) }, (_, i) => [values[3 * i]!, values[3 * i + 1]!, values[3 * i + 2]!])

/** Samples of colour: red against green and green against blue, each class by a letter; and which is taken for which. */
export function ColourField({ sense, live }: { sense: Sense; live: number[] | null }) {
  const classes = sense.zones.map((z, i) => ({ zone: z.zone, letter: String.fromCharCode(65 + i), samples: chunk(z.readings) }))
  const result = sense.colours?.result
  const plane = (a: 0 | 1 | 2, b: 0 | 1 | 2, names: [string, string]) => {
    const at = (v: number) => pad + (v / 255) * (size - pad - 10)
    return (
      <svg
        className="scaled"
        width={size}
        height={size}
        viewBox={`0 0 ${size} ${size}`}
        role="img"
        aria-label={`${names[0]} against ${names[1]} of every sample`}
        style={{ background: 'var(--paper)', border: '1px solid var(--line)', borderRadius: 8 }}
      >
        <text x={size / 2} y={size - 8} fontSize={12} fill="var(--muted)" textAnchor="middle">
          {names[0]}, 0 to 255
        </text>
        <text x={12} y={size / 2} fontSize={12} fill="var(--muted)" textAnchor="middle" transform={`rotate(-90 12 ${size / 2})`}>
          {names[1]}
        </text>
        {classes.map((c) => {
          const step = Math.max(1, Math.ceil(c.samples.length / 300))
          return (
            <g key={c.zone} fontSize={11} fontWeight={650} textAnchor="middle">
              {c.samples
                .filter((_, i) => i % step === 0)
                .map((s, i) => (
                  <text
                    key={i}
                    x={at(s[a])}
                    y={size - at(s[b]) + 4}
                    fill={`rgb(${s.map((v) => Math.round(v * 0.8)).join(',')})`}
                    stroke="var(--ink)"
                    strokeWidth={0.35}
                    paintOrder="stroke"
                  >
                    {c.letter}
                  </text>
                ))}
            </g>
          )
        })}
        {live && <path d={`M${at(live[a]!)} ${size - at(live[b]!)} m-7 0 h14 m-7 -7 v14`} stroke="var(--teal)" strokeWidth={2.5} />}
      </svg>
    )
  }
  return (
    <div>
      <div className="row" style={{ alignItems: 'flex-start', gap: 20 }}>
        {plane(0, 1, ['red', 'green'])}
        {plane(2, 1, ['blue', 'green'])}
        <div className="wide" tabIndex={0} role="group" aria-label="Means" style={{ flex: '1 1 240px', minWidth: 0 }}>
          <table className="ruled" style={{ fontSize: 14 }}>
            <thead>
              <tr>
                <th>
                  <span className="hidden-text">Letter</span>
                </th>
                <th>Zone</th>
                <th>Samples</th>
                <th>Mean red, green, blue</th>
              </tr>
            </thead>
            <tbody>
              {classes.map((c) => {
                const mean = [0, 1, 2].map((k) =>
                  c.samples.length ? c.samples.reduce((s, v) => s + v[k as 0]!, 0) / c.samples.length : null,
                )
                return (
                  <tr key={c.zone}>
                    <td className="mono">{c.letter}</td>
                    <td>
                      <b>{c.zone}</b>
                    </td>
                    <td className="mono">{c.samples.length}</td>
                    <td className="mono">
                      {mean[0] === null ? (
                        '–'
                      ) : (
                        <>
                          <svg width={18} height={14} aria-hidden="true">
                            <rect
                              width={18}
                              height={14}
                              rx={3}
                              fill={`rgb(${mean.map((v) => Math.round(v!)).join(',')})`}
                              stroke="var(--edge)"
                            />
                          </svg>{' '}
                          {mean.map((v) => show(v!, 3)).join(' ')}
                        </>
                      )}
                    </td>
                  </tr>
                )
              })}
            </tbody>
          </table>
        </div>
      </div>
      {result && (
        <div className="wide" tabIndex={0} role="group" aria-label="Which is taken for which" style={{ marginTop: 12 }}>
          <table className="ruled" style={{ width: 'auto', fontSize: 14 }}>
            <caption className="small-head" style={{ textAlign: 'left' }}>
              Each sample judged by the others: which is taken for which
            </caption>
            <thead>
              <tr>
                <th>Is</th>
                {result.classes.map((c) => (
                  <th key={c}>taken for {c}</th>
                ))}
              </tr>
            </thead>
            <tbody>
              {result.confusion.map((row, i) => (
                <tr key={i}>
                  <th scope="row">{result.classes[i]}</th>
                  {row.map((n, k) => (
                    <td key={k} className={`mono ${i === k ? 'solid' : n > 0 ? 'unusable' : 'muted'}`}>
                      {n}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          <p className="fine">
            {show(100 * result.accuracy, 4)} % are taken for their own. A reading farther than {show(result.rejectDistance, 3)} from every
            class is unknown, and counts as none of them.
          </p>
          <details>
            <summary>The arithmetic of the colours</summary>
            <table className="ruled" style={{ maxWidth: 820 }}>
              <tbody>
                {sense.colours!.steps.map((s, i) => (
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
            {sense.colours!.cautions.map((c, i) => (
              <p key={i} className="fine">
                {c}
              </p>
            ))}
          </details>
        </div>
      )}
    </div>
  )
}
