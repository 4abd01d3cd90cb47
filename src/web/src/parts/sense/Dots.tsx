import type { Sense } from '../../app/api'
import { show } from '../../shared/format'
import { useWidth } from '../../shared/useWidth'

type Props = { sense: Sense; live: number | null; fresh: { zone: string; readings: number[] } | null }

const rowHeight = 66
const left = 150
const right = 190
const top = 58

/** Readings as rows of dots, thresholds as bands, zones as brackets on the axis, the live reading as a pointer. */
export function Dots({ sense, live, fresh }: Props) {
  const { ref, width } = useWidth<HTMLDivElement>(1040, 620)
  const zones = [...sense.zones].sort((a, b) => (a.figures?.mean ?? 1e9) - (b.figures?.mean ?? 1e9))
  const all = zones.flatMap(z => z.readings)
  // Spread over thousands of arguments would overflow the stack; with no readings the whole range stands open.
  const least = all.reduce((m, v) => Math.min(m, v), live ?? 100)
  const most = all.reduce((m, v) => Math.max(m, v), live ?? 0)
  const low = all.length === 0 ? 0 : Math.max(0, Math.floor((least - 5) / 10) * 10)
  const high = all.length === 0 ? 100 : Math.min(100, Math.ceil((Math.max(most, low + 10) + 3) / 10) * 10)
  const x = (v: number) => left + ((v - low) / (high - low)) * (width - left - right)
  const bottom = top + zones.length * rowHeight
  const axis = bottom + 52
  const ready = zones.filter(z => z.figures)
  const edges = [low, ...sense.pairs.map(p => p.sum.result.threshold), high]
  const ticks = Array.from({ length: Math.round((high - low) / 10) + 1 }, (_, i) => low + i * 10)
  return (
    <div ref={ref} className="wide" tabIndex={0} role="group" aria-label="Readings and thresholds">
      <svg width={width} height={axis + 30} role="img" aria-label={describe(sense)}>
        {sense.pairs.map((p, i) => {
          const r = p.sum.result
          const centre = x(r.threshold)
          return (
            <g key={i}>
              <rect x={x(r.threshold - r.hysteresis)} width={Math.max(1, x(r.threshold + r.hysteresis) - x(r.threshold - r.hysteresis))} y={top} height={bottom - top} fill="var(--mussel-wash)" stroke="var(--mussel)" />
              <line x1={centre} x2={centre} y1={top - 6} y2={bottom} stroke="var(--mussel)" strokeWidth={2.5} />
              <text x={centre} y={22} fontSize={14} fontWeight={650} fill="var(--ink)" textAnchor="middle">{p.headline}</text>
              <text x={centre} y={42} fontSize={14} fill="var(--mussel)" textAnchor="middle" style={{ fontFamily: 'var(--mono)' }}>{show(r.threshold)} ± {show(r.hysteresis, 2)}</text>
            </g>
          )
        })}
        {zones.map((z, i) => {
          const y = top + i * rowHeight
          const shown = fresh?.zone === z.zone ? [...z.readings, ...fresh.readings] : z.readings
          const drawn = sample(shown)
          const aside = new Set(z.setAside.map(a => a.value))
          const outliers = new Set(z.figures?.outliers ?? [])
          return (
            <g key={z.zone}>
              <line x1={left - 20} x2={width - right + 10} y1={y + rowHeight} y2={y + rowHeight} stroke="var(--line)" />
              <text x={0} y={y + 34} fontSize={16} fontWeight={650} fill="var(--ink)">{z.zone}</text>
              <text x={0} y={y + 53} fontSize={13} fill="var(--muted)">{shown.length} {shown.length === 1 ? 'reading' : 'readings'}</text>
              {drawn.map((v, k) => (
                <g key={k}>
                  <circle cx={x(v)} cy={y + rowHeight - 10 - jitter(k)} r={3.6} fill={aside.has(v) ? 'none' : 'var(--ink)'} fillOpacity={0.55} stroke="var(--ink)" strokeOpacity={0.8} strokeWidth={aside.has(v) ? 1.2 : 0.7}
                    strokeDasharray={aside.has(v) ? '2 2' : undefined} />
                  {outliers.has(v) && <circle cx={x(v)} cy={y + rowHeight - 10 - jitter(k)} r={7} fill="none" stroke="var(--kelp)" strokeWidth={1.6} />}
                </g>
              ))}
              {z.figures && (
                <g>
                  <text x={width - right + 24} y={y + 38} fontSize={14} fill="var(--ink)" style={{ fontFamily: 'var(--mono)' }}>{show(z.figures.mean)} ± {show(z.figures.sd, 2)}</text>
                  <text x={width - right + 24} y={y + 56} fontSize={13} fill="var(--muted)">{show(z.figures.min)} to {show(z.figures.max)}</text>
                </g>
              )}
            </g>
          )
        })}
        {ready.map((z, i) => {
          const [a, b] = [x(edges[i] ?? low) + 3, x(edges[i + 1] ?? high) - 3]
          return (
            <g key={z.zone}>
              <path d={`M${a} ${bottom + 28}V${bottom + 18}H${b}V${bottom + 28}`} fill="none" stroke="var(--mussel)" strokeWidth={2} />
              <text x={(a + b) / 2} y={bottom + 38} fontSize={14} fontWeight={600} fill="var(--ink)" textAnchor="middle">{z.zone}</text>
            </g>
          )
        })}
        <line x1={left} x2={width - right} y1={axis} y2={axis} stroke="var(--edge)" />
        <g fontSize={13} fill="var(--muted)" textAnchor="middle">{ticks.map((t, i) => <text key={t} x={x(t)} y={axis + 18}>{t}{i === 0 ? ' %' : ''}</text>)}</g>
        {live !== null && <path d={`M${x(live)} ${axis} l-7 11 h14 z`} fill="var(--teal)" />}
      </svg>
    </div>
  )
}

// A fixed, even scatter, so that equal readings lie beside each other and dots stay where they are.
const jitter = (k: number) => ((k * 0.618034) % 1) * 36

// Thousands of dots are drawn as an even choice of them; the figures beside use all.
const sample = (readings: number[]) => {
  if (readings.length <= 1500) return readings
  const step = readings.length / 1500
  return Array.from({ length: 1500 }, (_, i) => readings[Math.floor(i * step)]!)
}

const describe = (sense: Sense) =>
  sense.zones.map(z => (z.figures ? `${z.zone}: ${z.figures.count} readings, mean ${show(z.figures.mean)} %` : `${z.zone}: ${z.readings.length} readings`)).join('; ') +
  sense.pairs.map(p => `; threshold between ${p.lower} and ${p.upper} at ${show(p.sum.result.threshold)} %, ${p.headline}`).join('')
