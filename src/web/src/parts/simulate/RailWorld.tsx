import type { Run } from '../../app/api'
import { show } from '../../shared/format'
import { useWidth } from '../../shared/useWidth'

/** Where the vehicle is at a time: linear between samples. */
export function positionAt(run: Run, t: number): number {
  const { timeS, positionMm } = run.signals
  const i = timeS.findIndex((s) => s >= t)
  if (i < 0) return positionMm.at(-1) ?? 0
  if (i === 0) return positionMm[0] ?? 0
  const [t0, t1, p0, p1] = [timeS[i - 1]!, timeS[i]!, positionMm[i - 1]!, positionMm[i]!]
  return t1 === t0 ? p1 : p0 + ((t - t0) / (t1 - t0)) * (p1 - p0)
}

const wrap = (x: number, length: number) => ((x % length) + length) % length

/** The rail laid out straight, the trolley on it, footprints where transitions happened, and a closer look under the eye. */
export function RailWorld({ run, t, eventIndex }: { run: Run; t: number; eventIndex: number | null }) {
  const { ref, width } = useWidth<HTMLDivElement>(1000, 600)
  const track = run.track
  const eyeAhead = run.report.draws.find((d) => d.name.endsWith(' ahead'))?.value ?? track.eyeAheadMm
  const spot = run.report.draws.find((d) => d.name.startsWith('spot of '))?.value ?? 8
  const pad = 14
  const x = (mm: number) => pad + (wrap(mm, track.lengthMm) / track.lengthMm) * (width - 2 * pad)
  const scale = (width - 2 * pad) / track.lengthMm
  const at = positionAt(run, t)
  const eye = wrap(at + eyeAhead, track.lengthMm)
  const distance = (m: Run['track']['markers'][number]) => {
    const d = eye - (m.atMm + m.lengthMm / 2)
    return Math.abs(d) > track.lengthMm / 2 ? d - Math.sign(d) * track.lengthMm : d
  }
  const nearest = track.markers.reduce<Run['track']['markers'][number] | null>(
    (best, m) => (best === null || Math.abs(distance(m)) < Math.abs(distance(best)) ? m : best),
    null,
  )
  const zoom = 3
  const close = nearest !== null && Math.abs(distance(nearest)) < 130
  const middle = width / 2
  return (
    <div ref={ref} className="wide" tabIndex={0} role="group" aria-label="Rail">
      <svg
        width={width}
        height={212}
        role="img"
        aria-label={`The trolley's eye is ${close && nearest ? `${show(Math.abs(distance(nearest)), 2)} mm ${distance(nearest) > 0 ? 'past' : 'before'} the middle of ${nearest.name}` : 'between tags'} at ${show(t)} s.`}
      >
        <line x1={pad} x2={width - pad} y1={66} y2={66} stroke="var(--ink)" strokeWidth={1.5} />
        <g fontSize={13} textAnchor="middle" fill="var(--ink)">
          {track.markers.map((m) => (
            <g key={m.name}>
              <rect
                x={x(m.atMm)}
                y={60}
                width={Math.max(3, m.lengthMm * scale)}
                height={12}
                fill={m.surface === 'depot tag' ? 'var(--ink)' : 'var(--paper)'}
                stroke="var(--ink)"
              />
              <text x={x(m.atMm) + (m.lengthMm * scale) / 2} y={90} textAnchor={m.atMm < 60 ? 'start' : 'middle'}>
                {m.name}
              </text>
            </g>
          ))}
        </g>
        {run.events.map((e, i) => (
          <line
            key={i}
            x1={x(e.spotMm)}
            x2={x(e.spotMm)}
            y1={e.warning ? 40 : 46}
            y2={58}
            stroke={e.warning ? 'var(--kelp)' : 'var(--mussel)'}
            strokeWidth={i === eventIndex ? 3.5 : 1.6}
          />
        ))}
        <g>
          <rect
            x={x(at) - (track.vehicleLengthMm / 2) * scale}
            y={18}
            width={track.vehicleLengthMm * scale}
            height={20}
            rx={3}
            fill="var(--paper)"
            stroke="var(--ink)"
            strokeWidth={1.6}
          />
          <path d={`M${x(eye)} 38V64`} stroke="var(--teal)" strokeWidth={1.6} />
          <circle cx={x(eye)} cy={66} r={3} fill="var(--teal)" />
        </g>
        <g>
          <text x={pad} y={122} fontSize={13} fill="var(--muted)">
            Under the eye, closer up
          </text>
          <line x1={middle - 390} x2={middle + 390} y1={164} y2={164} stroke="var(--line)" strokeWidth={26} />
          {close && nearest && (
            <g>
              <rect
                x={middle - (distance(nearest) + nearest.lengthMm / 2) * zoom}
                width={nearest.lengthMm * zoom}
                y={151}
                height={26}
                fill={nearest.surface === 'depot tag' ? 'var(--ink)' : 'var(--paper)'}
                stroke="var(--ink)"
              />
              <text x={middle - distance(nearest) * zoom} y={198} fontSize={13} textAnchor="middle" fill="var(--ink)">
                {nearest.name}
              </text>
            </g>
          )}
          <circle cx={middle} cy={164} r={(spot / 2) * zoom} fill="var(--teal)" fillOpacity={0.35} stroke="var(--teal)" strokeWidth={2} />
        </g>
      </svg>
    </div>
  )
}
