import type { Schemas } from '../../app/api'

/** Readings of two zones on one line each, and a threshold between them. Told apart by their line and their shape, not by colour. */
export function Dots({
  dots,
  at,
  best,
  onAt,
}: {
  dots: Schemas['DotsView']
  at: number | null
  best: number | null
  onAt?: ((at: number) => void) | undefined
}) {
  const all = [...dots.lowerReadings, ...dots.upperReadings]
  const [least, most] = [Math.min(...all), Math.max(...all)]
  const room = (most - least || 1) * 0.08
  const [from, to] = [least - room, most + room]
  const x = (v: number) => 20 + (600 * (v - from)) / (to - from)
  const step = 10 ** Math.floor(Math.log10((to - from) / 4))
  const ticks = Array.from({ length: 40 }, (_, i) => (Math.ceil(from / step) + i) * step).filter((t) => t <= to)
  const shown = ticks.length > 8 ? ticks.filter((_, i) => i % Math.ceil(ticks.length / 8) === 0) : ticks
  const line = (v: number, dash?: string) => (
    <line x1={x(v)} x2={x(v)} y1={10} y2={112} stroke="currentColor" strokeWidth={2} {...(dash ? { strokeDasharray: dash } : {})} />
  )
  return (
    <svg
      viewBox="0 0 640 140"
      className="exercise-dots"
      role="img"
      aria-label={`Readings of ${dots.sensor}: ${dots.lower} ${dots.lowerReadings.join(', ')}; ${dots.upper} ${dots.upperReadings.join(', ')}`}
      onClick={(e) => {
        if (!onAt) return
        const box = e.currentTarget.getBoundingClientRect()
        const px = ((e.clientX - box.left) / box.width) * 640
        onAt(Number((from + ((px - 20) / 600) * (to - from)).toPrecision(4)))
      }}
    >
      {dots.lowerReadings.map((v, i) => (
        <circle key={i} cx={x(v)} cy={36 + ((i * 7) % 5) * 2} r={4} fill="none" stroke="currentColor" />
      ))}
      {dots.upperReadings.map((v, i) => (
        <rect key={i} x={x(v) - 4} y={76 + ((i * 7) % 5) * 2} width={8} height={8} fill="none" stroke="currentColor" />
      ))}
      <text x={20} y={22} fontSize={13} fill="currentColor">
        ○ {dots.lower}
      </text>
      <text x={620} y={22} fontSize={13} textAnchor="end" fill="currentColor">
        □ {dots.upper}
      </text>
      {at !== null && Number.isFinite(at) && at >= from && at <= to && line(at)}
      {best !== null && line(best, '4 4')}
      <line x1={20} x2={620} y1={112} y2={112} stroke="currentColor" />
      {shown.map((t) => (
        <text key={t} x={x(t)} y={130} fontSize={12} textAnchor="middle" fill="currentColor">
          {Number(t.toPrecision(6))}
        </text>
      ))}
    </svg>
  )
}
