import { show } from '../../shared/format'
import type { Figures } from './figures'

type Input = Record<string, unknown>

const n = (v: unknown) => (typeof v === 'number' ? v : 0)

/** Robot, table edge at the worst angle, and the margin at every angle, to scale. */
export function EdgePicture({ input, result }: { input: Input; result: Figures }) {
  const ahead = n(input.sensorAheadMm)
  const half = n(input.halfTrackMm)
  const offsets = ((input.sensorOffsetsMm as (number | null)[]) ?? []).map(n)
  const margins = (result.margins as { angleDeg: number; marginMm: number }[]) ?? []
  const worst = n(result.worstAngleDeg)
  const reach = Math.max(ahead, half, ...offsets.map(Math.abs), 30) * 1.7
  const [w, h] = [200, 200]
  const px = (mm: number) => (mm / reach) * (w / 2)
  const at = (x: number, y: number): [number, number] => [w / 2 + px(y), h * 0.62 - px(x)]
  const low = Math.min(0, ...margins.map((m) => m.marginMm))
  const high = Math.max(1, ...margins.map((m) => m.marginMm))
  const y = (m: number) => 12 + ((high - m) / (high - low)) * 130
  const x = (i: number) => 30 + (i / Math.max(1, margins.length - 1)) * 200
  // The edge stands where the foremost sensor has just seen it, at the worst angle, and the robot then runs on by the stopping way.
  const stop = n(result.stopDistanceMm)
  const rad = (worst * Math.PI) / 180
  const foremost = Math.max(...offsets.map((o) => ahead * Math.cos(rad) + o * Math.sin(rad)), ahead * Math.cos(rad))
  const distance = foremost - stop * Math.cos(rad)
  const along = reach * 1.5
  const [ex, ey] = [distance * Math.cos(rad), distance * Math.sin(rad)]
  const a = at(ex - along * Math.sin(rad), ey + along * Math.cos(rad))
  const b = at(ex + along * Math.sin(rad), ey - along * Math.cos(rad))
  const wheel = (side: number) => {
    const [cx, cy] = at(0, side * half)
    return <rect x={cx - 3} y={cy - 9} width={6} height={18} rx={2} fill="var(--ink)" />
  }
  return (
    <div className="row" style={{ gap: 12 }}>
      <svg
        className="scaled"
        width={w}
        height={h}
        viewBox={`0 0 ${w} ${h}`}
        role="img"
        aria-label={`The robot at rest at an edge met at ${show(worst)} degrees: ${show(n(result.worstMarginMm), 3)} mm are left`}
        style={{ background: 'var(--paper)', border: '1px solid var(--line)', borderRadius: 8 }}
      >
        <line x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} stroke="var(--red)" strokeWidth={2.5} />
        <rect
          x={at(0, -half)[0]}
          y={at(ahead * 0.8, 0)[1]}
          width={px(2 * half)}
          height={px(ahead * 0.8) + 22}
          fill="none"
          stroke="var(--ink)"
          strokeWidth={1.5}
          rx={6}
        />
        {wheel(-1)}
        {wheel(1)}
        {offsets.map((o, i) => {
          const [cx, cy] = at(ahead, o)
          return <circle key={i} cx={cx} cy={cy} r={4} fill="var(--teal)" />
        })}
        <text x={6} y={h - 6} fontSize={12} fill="var(--muted)">
          at rest, edge met at {show(worst)}°
        </text>
      </svg>
      <svg
        className="scaled"
        width={240}
        height={176}
        viewBox="0 0 240 176"
        role="img"
        aria-label={`Margin over the angle: ${margins.map((m) => `${show(m.angleDeg)} degrees ${show(m.marginMm, 3)} mm`).join(', ')}`}
      >
        <line x1={30} x2={230} y1={y(0)} y2={y(0)} stroke="var(--red)" strokeDasharray="4 3" />
        <text x={28} y={y(0) + 4} fontSize={12} fill="var(--muted)" textAnchor="end">
          0
        </text>
        <text x={28} y={y(high) + 8} fontSize={12} fill="var(--muted)" textAnchor="end">
          {show(high, 2)}
        </text>
        <path
          d={margins.map((m, i) => `${i === 0 ? 'M' : 'L'}${x(i)} ${y(m.marginMm)}`).join('')}
          fill="none"
          stroke="var(--ink)"
          strokeWidth={2}
        />
        {margins.map(
          (m, i) =>
            i % 3 === 0 && (
              <text key={i} x={x(i)} y={162} fontSize={12} fill="var(--muted)" textAnchor="middle">
                {show(m.angleDeg)}°
              </text>
            ),
        )}
        <text x={130} y={175} fontSize={12} fill="var(--muted)" textAnchor="middle">
          mm left before a wheel, over the angle
        </text>
      </svg>
    </div>
  )
}

/** The beam, the target, and the heading at which it is first noticed. */
export function SweepPicture({ input, result }: { input: Input; result: Figures }) {
  const range = Math.max(1, n(input.rangeMm))
  const half = n(input.beamHalfAngleDeg)
  const width = n(input.targetWidthMm)
  const extra = n(result.extraTurnDeg)
  const scale = 210 / (range * 1.15)
  const [cx, cy] = [130, 245]
  const ray = (deg: number, r: number): [number, number] => {
    const a = (deg * Math.PI) / 180
    return [cx + Math.sin(a) * r, cy - Math.cos(a) * r]
  }
  const r = range * scale
  const [a, b] = [ray(-extra - half, r * 1.1), ray(-extra + half, r * 1.1)]
  return (
    <svg
      className="scaled"
      width={260}
      height={262}
      viewBox="0 0 260 262"
      role="img"
      aria-label={`Turning to the right, the target is noticed ${show(extra, 3)} degrees before it is faced; it is seen over ${show(n(result.visibleArcDeg), 3)} degrees`}
      style={{ background: 'var(--paper)', border: '1px solid var(--line)', borderRadius: 8 }}
    >
      <polygon points={`${cx},${cy} ${a.join(',')} ${b.join(',')}`} fill="var(--mussel-wash)" stroke="var(--mussel)" />
      <line x1={cx} y1={cy} x2={ray(-extra, r)[0]} y2={ray(-extra, r)[1]} stroke="var(--mussel)" strokeDasharray="4 3" />
      <line x1={cx} y1={cy} x2={cx} y2={cy - r} stroke="var(--line)" />
      <rect x={cx - (width * scale) / 2} y={cy - r - 4} width={width * scale} height={8} fill="var(--ink)" />
      <circle cx={cx} cy={cy} r={6} fill="var(--teal)" />
      <text x={8} y={16} fontSize={12} fill="var(--muted)">
        noticed here, {show(extra, 3)}° early
      </text>
      <text x={cx + 8} y={cy - r / 2} fontSize={12} fill="var(--muted)">
        {show(range)} mm
      </text>
    </svg>
  )
}

/** The way from the reading that says near to rest, and the spread of the gap. */
export function StopPicture({ input, result }: { input: Input; result: Figures }) {
  const trigger = Math.max(1, n(result.triggerDistanceMm))
  const [lowGap, highGap, blind] = [n(result.gapLowMm), n(result.gapHighMm), n(input.blindZoneMm)]
  const most = trigger * 1.15
  const x = (gap: number) => 330 - (gap / most) * 310
  return (
    <svg
      className="scaled"
      width={350}
      height={116}
      viewBox="0 0 350 116"
      role="img"
      aria-label={`Acts at ${show(trigger, 3)} mm, comes to rest ${show(lowGap, 3)} to ${show(highGap, 3)} mm before the target`}
      style={{ background: 'var(--paper)', border: '1px solid var(--line)', borderRadius: 8 }}
    >
      <rect x={330} y={14} width={8} height={58} fill="var(--ink)" />
      {blind > 0 && <rect x={x(blind)} y={14} width={330 - x(blind)} height={58} fill="var(--line)" fillOpacity={0.6} />}
      <line x1={x(trigger)} x2={x(trigger)} y1={14} y2={72} stroke="var(--mussel)" strokeWidth={2} />
      <line x1={x(trigger)} x2={x((lowGap + highGap) / 2)} y1={43} y2={43} stroke="var(--ink)" strokeWidth={2} />
      <path d={`M${x(highGap)} 54V44H${x(lowGap)}V54`} fill="none" stroke="var(--teal)" strokeWidth={2.5} />
      <g fontSize={12} fill="var(--muted)" textAnchor="middle">
        <text x={Math.max(40, x(trigger))} y={90}>
          acts at {show(trigger, 3)}
        </text>
        <text x={(x(lowGap) + x(highGap)) / 2} y={106}>
          rests {show(lowGap, 3)} to {show(highGap, 3)} mm
        </text>
        {blind > 0 && (
          <text x={(x(blind) + 330) / 2} y={26}>
            blind
          </text>
        )}
      </g>
    </svg>
  )
}
