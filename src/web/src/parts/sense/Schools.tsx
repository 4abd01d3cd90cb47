import { useState } from 'react'
import Button from '@mui/material/Button'
import type { Sense } from '../../app/api'
import { show } from '../../shared/format'

/** The four schools, where each puts the threshold, and which is chosen. */
export function Schools({ sense, onChoose, busy }: { sense: Sense; onChoose: (school: string, costRatio: number) => void; busy: boolean }) {
  const [ratio, setRatio] = useState(String(sense.costRatio))
  return (
    <table className="ruled" style={{ fontSize: 14 }}>
      <tbody>
        {sense.schools.map((s) => (
          <tr key={s.school}>
            <td>
              <b>{s.name}</b>
              {s.school === sense.school && <span className="holds fine"> chosen</span>}
              <br />
              <span className="fine muted">{s.why}</span>
              {s.school === 'cost' && (
                <span className="row" style={{ marginTop: 4 }}>
                  <label className="fine">
                    A false rise harms{' '}
                    <input
                      value={ratio}
                      onChange={(e) => setRatio(e.target.value)}
                      inputMode="decimal"
                      size={4}
                      className="mono"
                      style={{
                        minHeight: 26,
                        background: 'var(--paper)',
                        color: 'var(--ink)',
                        border: '1px solid var(--edge)',
                        borderRadius: 6,
                        padding: '0 6px',
                      }}
                    />{' '}
                    times as much
                  </label>
                  <Button disabled={busy} onClick={() => onChoose('cost', Number(ratio.replace(',', '.')))}>
                    Use it
                  </Button>
                </span>
              )}
            </td>
            <td className="mono" style={{ textAlign: 'right', whiteSpace: 'nowrap' }}>
              {s.threshold === null ? 'no gap' : `${show(s.threshold)} ${sense.unit}`}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
