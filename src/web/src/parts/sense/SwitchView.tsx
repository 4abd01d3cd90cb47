import type { Sense } from '../../app/api'
import { show } from '../../shared/format'
import { useWidth } from '../../shared/useWidth'

/** The readings of a switch as they came: levels, edges, bounces, and how long each press was. */
export function SwitchView({ sense }: { sense: Sense }) {
  const { ref, width } = useWidth<HTMLDivElement>(1000, 560)
  const judged = sense.switch
  if (!judged) return null
  const left = 150
  const longest = sense.zones.reduce((m, z) => Math.max(m, z.readings.length), 1)
  const shown = Math.min(longest, 600)
  const x = (i: number) => left + (i / shown) * (width - left - 20)
  return (
    <div>
      <div ref={ref} className="wide" tabIndex={0} role="group" aria-label="Readings over time">
        <svg
          width={width}
          height={sense.zones.length * 58 + 26}
          role="img"
          aria-label={judged.traces
            .map((t) => `${t.zone}: down ${show(100 * t.downShare, 3)} percent, ${t.presses.length} presses, ${t.bounces} bounces`)
            .join('; ')}
        >
          {sense.zones.map((z, i) => {
            const y = i * 58 + 12
            const last = z.readings.slice(-shown)
            let d = ''
            last.forEach((v, k) => {
              d += `${k === 0 ? 'M' : 'L'}${x(k)} ${y + (v > 0.5 ? 4 : 34)}H${x(k + 1)}`
            })
            return (
              <g key={z.zone}>
                <text x={0} y={y + 18} fontSize={16} fontWeight={650} fill="var(--ink)">
                  {z.zone}
                </text>
                <text x={0} y={y + 36} fontSize={13} fill="var(--muted)">
                  {z.readings.length} {z.readings.length === 1 ? 'reading' : 'readings'}
                </text>
                <text x={left - 8} y={y + 9} fontSize={12} fill="var(--muted)" textAnchor="end">
                  down
                </text>
                <text x={left - 8} y={y + 38} fontSize={12} fill="var(--muted)" textAnchor="end">
                  up
                </text>
                <path d={d} fill="none" stroke="var(--ink)" strokeWidth={1.6} />
                <line x1={0} x2={width} y1={y + 46} y2={y + 46} stroke="var(--line)" />
              </g>
            )
          })}
          <text x={width - 20} y={sense.zones.length * 58 + 20} fontSize={12} fill="var(--muted)" textAnchor="end">
            {show((shown * sense.samplePeriodMs) / 1000)} s
          </text>
        </svg>
      </div>
      <div className="wide" tabIndex={0} role="group" aria-label="Levels and edges">
        <table className="ruled" style={{ width: 'auto', fontSize: 14, margin: '8px 0' }}>
          <thead>
            <tr>
              <th>Recorded</th>
              <th>Down</th>
              <th>Presses</th>
              <th>Bounces</th>
              <th>Longest bounce</th>
            </tr>
          </thead>
          <tbody>
            {judged.traces.map((t) => (
              <tr key={t.zone}>
                <td>{t.zone}</td>
                <td className="mono">{show(100 * t.downShare, 3)} %</td>
                <td className="mono">
                  {t.presses.length}
                  {t.presses.length > 0 &&
                    `, ${show(Math.min(...t.presses.map((p) => p.forMs)))} to ${show(Math.max(...t.presses.map((p) => p.forMs)))} ms`}
                </td>
                <td className="mono">{t.bounces}</td>
                <td className="mono">{show(t.longestBounceMs)} ms</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="fine">
        Edges a program can use: pressed, released, tapped
        {judged.heldAfterMs !== null && (
          <>
            , held for {show(judged.heldAfterMs / 1000)} s or more (the longest tap took {show((judged.longestTapMs ?? 0) / 1000)} s)
          </>
        )}
        . Levels: up, down. Ask for {judged.readingsNeeded === 1 ? 'one reading' : `${judged.readingsNeeded} readings in a row`}.
      </p>
    </div>
  )
}
