import type { Sense } from '../../app/api'
import { show } from '../../shared/format'

/** Which colour word the sensor reported over each zone, and which zone each word is taken for. */
export function NamesTable({ sense }: { sense: Sense }) {
  const names = sense.names
  if (!names || names.zones.length === 0) return null
  return (
    <div className="wide" tabIndex={0} role="group" aria-label="Colour words by zone">
      <table className="ruled" style={{ width: 'auto' }}>
        <thead>
          <tr>
            <th>Zone</th>
            <th>Words reported</th>
            <th>Taken for something else</th>
          </tr>
        </thead>
        <tbody>
          {names.zones.map((z) => (
            <tr key={z.zone}>
              <td>
                <b>{z.zone}</b>
              </td>
              <td>
                {z.words.map((w) => (
                  <span key={w.word} style={{ marginRight: 14 }} className={w.taken ? '' : 'unusable'}>
                    {w.word} <span className="mono">{w.count}</span>
                    {w.taken ? '' : `, taken for ${names.byWord[w.word]}`}
                  </span>
                ))}
              </td>
              <td className="mono">{show(100 * z.wrongShare, 3)} %</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
