import type { Sense } from '../../app/api'
import { show } from '../../shared/format'

/** The arithmetic of one threshold, step by step. */
export function Arithmetic({ pair }: { pair: Sense['pairs'][number] }) {
  const r = pair.sum.result
  return (
    <details style={{ marginTop: 10 }}>
      <summary>
        The arithmetic, {pair.lower} against {pair.upper}
      </summary>
      <div className="wide" tabIndex={0} role="group" aria-label="Arithmetic">
        <table className="ruled" style={{ maxWidth: 820 }}>
          <tbody>
            {pair.sum.steps.map((s, i) => (
              <tr key={i}>
                <td>{s.say}</td>
                <td className="mono">{s.arithmetic}</td>
                <td className="mono" style={{ textAlign: 'right' }}>
                  {s.value === null ? '–' : show(s.value, 5)} {s.unit}
                </td>
              </tr>
            ))}
            <tr>
              <td>False switches an hour with 1, 2, 3 readings in a row</td>
              <td />
              <td className="mono" style={{ textAlign: 'right' }}>
                {r.falsePerHour.map((f) => show(f, 3)).join(', ')}
              </td>
            </tr>
            <tr>
              <td>Readings in a row needed, and to be safe with few readings</td>
              <td />
              <td className="mono" style={{ textAlign: 'right' }}>
                {r.readingsNeeded ?? 'more than 8'}, {r.readingsNeededSafe ?? 'more than 8'}
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      {pair.sum.cautions.map((c, i) => (
        <p key={i} className="fine">
          {c}
        </p>
      ))}
    </details>
  )
}
