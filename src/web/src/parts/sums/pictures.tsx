import { show } from '../../shared/format'
import type { Figures } from './figures'

const n = (v: unknown) => (typeof v === 'number' ? v : 0)

/** The circles that the two wheels roll along, to scale. */
export function TurnPicture({ input, result }: { input: Record<string, unknown>; result: Figures }) {
  const turn = n(input.turnDeg)
  const track = Math.max(1, n(input.trackWidthMm))
  const radius = input.style === 'spin' ? 0 : input.style === 'pivot' ? track / 2 : n(input.arcRadiusMm)
  const side = turn >= 0 ? 1 : -1
  const reach = radius + track
  const scale = 110 / reach
  // The centre of the turn lies to the right when turning right.
  const [cx, cy] = [150, 130]
  const shown = Math.min(Math.abs(turn), 350)
  const arc = (r: number) => {
    const way = r < 0 ? -1 : 1
    const size = Math.abs(r) * scale
    const a = (deg: number) => {
      const rad = (deg * Math.PI) / 180
      return [cx - side * Math.cos(rad) * size * way, cy - Math.sin(rad) * size * way] as const
    }
    const [x0, y0] = a(0)
    const [x1, y1] = a(shown)
    return size < 0.5 ? '' : `M${x0} ${y0}A${size} ${size} 0 ${shown > 180 ? 1 : 0} ${side > 0 ? 1 : 0} ${x1} ${y1}`
  }
  return (
    <svg
      className="scaled"
      width={300}
      height={262}
      viewBox="0 0 300 262"
      role="img"
      aria-label={`Turning ${show(turn)} degrees: the left wheel turns ${show(n(result.leftWheelDeg))}, the right ${show(n(result.rightWheelDeg))} wheel degrees`}
      style={{ background: 'var(--paper)', border: '1px solid var(--line)', borderRadius: 8 }}
    >
      <path d={arc(radius + track / 2)} fill="none" stroke="var(--ink)" strokeWidth={2.5} />
      <path d={arc(radius - track / 2)} fill="none" stroke="var(--teal)" strokeWidth={2.5} />
      <path d={arc(radius)} fill="none" stroke="var(--mussel)" strokeDasharray="4 3" />
      <circle cx={cx} cy={cy} r={3} fill="var(--kelp)" />
      <text x={8} y={18} fontSize={12} fill="var(--ink)">
        outer wheel {show(Math.max(Math.abs(n(result.leftWheelDeg)), Math.abs(n(result.rightWheelDeg))))}°
      </text>
      <text x={8} y={34} fontSize={12} fill="var(--teal)">
        inner wheel {show(side > 0 ? n(result.rightWheelDeg) : n(result.leftWheelDeg))}°
      </text>
    </svg>
  )
}

/** The fork from the side, the load on it, its middle and the tip. */
export function LoadPicture({ input, result }: { input: Record<string, unknown>; result: Figures }) {
  const [fork, gap, depth, heel] = [n(input.forkLengthMm), n(input.seatGapMm), n(input.loadDepthMm), n(input.heelAheadMm)]
  const most = Math.max(heel + fork, heel + gap + depth, 1) * 1.05
  const x = (mm: number) => 20 + (mm / most) * 320
  const middle = heel + gap + depth / 2
  return (
    <svg
      className="scaled"
      width={360}
      height={130}
      viewBox="0 0 360 130"
      role="img"
      aria-label={`The load's middle is ${show(n(result.tippingMarginMm), 3)} mm from the tip`}
      style={{ background: 'var(--paper)', border: '1px solid var(--line)', borderRadius: 8 }}
    >
      <line x1={x(0)} x2={x(0)} y1={20} y2={96} stroke="var(--kelp)" strokeDasharray="4 3" />
      <path d={`M${x(heel)} 40V84H${x(heel + fork)}`} fill="none" stroke="var(--ink)" strokeWidth={4} />
      <rect
        x={x(heel + gap)}
        y={46}
        width={x(heel + gap + depth) - x(heel + gap)}
        height={35}
        fill="var(--mussel-wash)"
        stroke="var(--mussel)"
      />
      <path d={`M${x(middle)} 40V92`} stroke="var(--teal)" strokeWidth={2} />
      <path
        d={`M${x(Math.min(middle, heel + fork))} 104V98H${x(Math.max(middle, heel + fork))}V104`}
        fill="none"
        stroke={n(result.tippingMarginMm) > 0 ? 'var(--weed)' : 'var(--red)'}
        strokeWidth={2}
      />
      <text x={(x(middle) + x(heel + fork)) / 2} y={118} fontSize={12} fill="var(--ink)" textAnchor="middle">
        {show(n(result.tippingMarginMm), 3)} mm to the tip
      </text>
      <text x={x(0)} y={14} fontSize={12} fill="var(--muted)">
        turning axis
      </text>
    </svg>
  )
}

/** The path from above, and the ellipse of two SDs in which it ends. */
export function PathPicture({ result, target }: { result: Figures; target?: { x: number; y: number; radius: number } }) {
  const poses = (result.poses as unknown as { xMm: number; yMm: number }[]) ?? []
  const [sx, sy, c] = [n(result.sdXMm), n(result.sdYMm), n(result.covarianceMm2)]
  if (poses.length === 0) return null
  // Axes of the ellipse from the covariance.
  const mean = (sx * sx + sy * sy) / 2
  const half = Math.sqrt(Math.max(0, ((sx * sx - sy * sy) / 2) ** 2 + c * c))
  const [a, b] = [2 * Math.sqrt(mean + half), 2 * Math.sqrt(Math.max(0, mean - half))]
  const angle = (0.5 * Math.atan2(2 * c, sx * sx - sy * sy) * 180) / Math.PI
  const xs = [...poses.map((p) => p.yMm), ...(target ? [target.y - target.radius, target.y + target.radius] : [])]
  const ys = [...poses.map((p) => -p.xMm), ...(target ? [-target.x - target.radius, -target.x + target.radius] : [])]
  const [minX, maxX, minY, maxY] = [Math.min(...xs) - a, Math.max(...xs) + a, Math.min(...ys) - a, Math.max(...ys) + a]
  const size = Math.max(maxX - minX, maxY - minY, 1) * 1.1
  const scale = 255 / size
  const at = (p: { xMm: number; yMm: number }) =>
    [(p.yMm - (minX + maxX) / 2) * scale + 165, (-p.xMm - (minY + maxY) / 2) * scale + 130] as const
  const end = at(poses.at(-1)!)
  return (
    <svg
      className="scaled"
      width={330}
      height={300}
      viewBox="0 0 330 300"
      role="img"
      aria-label={`It ends ${show(n(result.endXMm), 4)} mm forward and ${show(n(result.endYMm), 4)} mm to the right, within an ellipse of ${show(a, 3)} by ${show(b, 3)} mm (two SDs)`}
      style={{ background: 'var(--paper)', border: '1px solid var(--line)', borderRadius: 8 }}
    >
      {target && (
        <circle
          cx={at({ xMm: target.x, yMm: target.y })[0]}
          cy={at({ xMm: target.x, yMm: target.y })[1]}
          r={Math.max(2, target.radius * scale)}
          fill="none"
          stroke="var(--weed)"
          strokeWidth={2}
        />
      )}
      <path d={poses.map((p, i) => `${i === 0 ? 'M' : 'L'}${at(p).join(' ')}`).join('')} fill="none" stroke="var(--ink)" strokeWidth={2} />
      {poses.map((p, i) => (
        <circle key={i} cx={at(p)[0]} cy={at(p)[1]} r={3} fill="var(--ink)" />
      ))}
      <ellipse
        cx={end[0]}
        cy={end[1]}
        rx={Math.max(1, b * scale)}
        ry={Math.max(1, a * scale)}
        transform={`rotate(${angle} ${end[0]} ${end[1]})`}
        fill="var(--mussel-wash)"
        fillOpacity={0.6}
        stroke="var(--mussel)"
      />
      <text x={8} y={278} fontSize={12} fill="var(--muted)">
        forward is up; the ellipse holds 86 of 100 ends
      </text>
      {target && (
        <text x={8} y={293} fontSize={12} fill="var(--weed)">
          the circle is the target
        </text>
      )}
    </svg>
  )
}
