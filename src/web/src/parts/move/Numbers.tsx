import Button from '@mui/material/Button'
import { Amount } from './Amount'
import type { Mechanism } from './move'

/** The motor numbers that matter, each with where it comes from, and how it becomes better. */
export function Numbers({ of, onTry }: { of: Mechanism; onTry: (key: string) => void }) {
  if (of.numbers.length === 0) return <p className="lead">This mechanism has no number that matters here. Say in Rig what it is made of.</p>
  return (
    <div className="wide" tabIndex={0} role="group" aria-label={`Numbers of ${of.name}`}>
      <table className="ruled">
        <thead>
          <tr>
            <th>Number</th>
            <th>On this copy</th>
            <th>Where it comes from</th>
            <th>Why it matters</th>
            <th>
              <span className="hidden-text">What to do</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {of.numbers.map((n) => (
            <tr key={n.name}>
              <td>{n.name}</td>
              <td style={{ whiteSpace: 'nowrap' }}>{n.number ? <Amount q={n.number} /> : <span className="muted">nobody knows</span>}</td>
              <td className="fine">
                {n.number ? (
                  <>
                    {n.number.kind}, {n.number.source}
                  </>
                ) : (
                  'not tried'
                )}
              </td>
              <td className="fine">{n.why}</td>
              <td>
                {n.trial && (
                  <Button onClick={() => onTry(n.trial!)} aria-label={`Try: ${n.name}`}>
                    {n.number?.kind === 'measured' ? 'Try again' : 'Find it'}
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="fine muted">After ± stands twice the spread: 95 of 100 runs lie within.</p>
    </div>
  )
}
