import { show } from '../../shared/format'
import { useWidth } from '../../shared/useWidth'
import type { Motion } from './move'

const left = 84
const right = 26

/** Asked above the rule, happened below, a stitch between; the next command is dashed, with its spread. */
export function Rule({ motion }: { motion: Motion }) {
  const { ref, width } = useWidth<HTMLDivElement>(800, 420)
  const { plan, trials, fit } = motion
  const bracket = plan.family === 'bracket'
  // Of squares the way round is told by the mark, not by the sign.
  const size = (v: number) => (plan.kind === 'square' ? Math.abs(v) : v)
  const above = trials.map((t) => (bracket ? t.commanded : size(t.above)))
  const below = trials.map((t) => (bracket ? t.commanded : size(t.measured)))
  const next = fit.nextCommand === null ? null : bracket ? fit.nextCommand : size(motion.targetAbove)
  const [low, high] =
    plan.kind === 'square' && fit.measuredLow !== null && fit.measuredHigh !== null
      ? [Math.abs(fit.measuredLow), Math.abs(fit.measuredHigh)].sort((a, b) => a - b)
      : [fit.measuredLow, fit.measuredHigh]
  const all = [
    ...above,
    ...below,
    ...(next === null ? [] : [next]),
    ...(typeof low === 'number' && typeof high === 'number' ? [low, high] : []),
  ]
  if (trials.length === 0) return null
  const room = Math.max(...all) - Math.min(...all) || Math.max(1, Math.abs(all[0]!) * 0.1)
  const [from, to] = [Math.min(...all) - room * 0.12, Math.max(...all) + room * 0.12]
  const x = (v: number) => left + ((v - from) / (to - from)) * (width - left - right)
  const step = niceStep((to - from) / Math.max(3, (width - left - right) / 110))
  const ticks = Array.from({ length: Math.floor(to / step) - Math.ceil(from / step) + 1 }, (_, i) => (Math.ceil(from / step) + i) * step)
  const [top, bottom, axis] = [22, 84, 96]
  return (
    <div ref={ref} className="wide" tabIndex={0} role="group" aria-label={`Trials: ${plan.title}`}>
      <svg
        width={width}
        height={130}
        role="img"
        aria-label={trials
          .map(
            (t, i) =>
              `trial ${i + 1}: ${bracket ? `${show(t.commanded, 4)} ${plan.commandUnit}, ${t.measured >= 0.5 ? 'moved' : 'stayed'}` : `asked ${show(t.asked, 4)} ${plan.askUnit}, happened ${show(t.measured, 4)} ${plan.happenUnit}`}${t.odd ? ', far from the rest' : ''}`,
          )
          .join('; ')}
      >
        <g fontSize={13} fill="var(--muted)" textAnchor="end">
          <text x={left - 14} y={top + 4}>
            {bracket ? 'stayed' : 'asked'}
          </text>
          <text x={left - 14} y={bottom + 4}>
            {bracket ? 'moved' : 'happened'}
          </text>
        </g>
        <line x1={left - 6} x2={width - right + 6} y1={(top + bottom) / 2} y2={(top + bottom) / 2} stroke="var(--ink)" strokeWidth={1.5} />
        {trials.map((t, i) => {
          const colour = t.odd ? 'var(--kelp)' : 'var(--ink)'
          if (bracket)
            return (
              <circle
                key={i}
                cx={x(t.commanded)}
                cy={t.measured >= 0.5 ? bottom : top}
                r={4.5}
                fill={t.measured >= 0.5 ? colour : 'var(--paper)'}
                stroke={colour}
                strokeWidth={1.5}
              />
            )
          const [a, b] = [x(above[i]!), x(below[i]!)]
          const turned = plan.kind === 'square' && t.asked < 0
          return (
            <g key={i}>
              <line x1={a} y1={top} x2={b} y2={bottom} stroke={colour} strokeWidth={t.odd ? 2.2 : 1.5} />
              <circle cx={a} cy={top} r={3} fill={colour} />
              <circle cx={b} cy={bottom} r={turned ? 4 : 3} fill={turned ? 'var(--paper)' : colour} stroke={colour} strokeWidth={1.4} />
              {t.odd && (
                <text x={b} y={bottom - 9} fontSize={12} fill="var(--kelp)" textAnchor={b > width - 120 ? 'end' : 'start'}>
                  {' '}
                  trial {i + 1}?
                </text>
              )}
            </g>
          )
        })}
        {next !== null && !bracket && (
          <g>
            <line x1={x(next)} x2={x(next)} y1={top} y2={bottom} stroke="var(--teal)" strokeWidth={2} strokeDasharray="6 4" />
            {typeof low === 'number' && typeof high === 'number' && (
              <path
                d={`M${x(low)} ${bottom + 9}V${bottom + 2}H${x(high)}V${bottom + 9}`}
                fill="none"
                stroke="var(--mussel)"
                strokeWidth={2.5}
              />
            )}
            <text x={x(next)} y={top - 9} fontSize={12} fill="var(--teal)" textAnchor="middle">
              next
            </text>
          </g>
        )}
        {next !== null && bracket && (
          <g>
            <line x1={x(next)} x2={x(next)} y1={top - 4} y2={bottom + 4} stroke="var(--teal)" strokeWidth={2} strokeDasharray="6 4" />
            <text x={x(next)} y={top - 9} fontSize={12} fill="var(--teal)" textAnchor="middle">
              next
            </text>
          </g>
        )}
        <line x1={left - 6} x2={width - right + 6} y1={axis + 8} y2={axis + 8} stroke="var(--edge)" />
        <g fontSize={12} fill="var(--muted)" textAnchor="middle">
          {ticks.map((t) => (
            <g key={t}>
              <line x1={x(t)} x2={x(t)} y1={axis + 4} y2={axis + 12} stroke="var(--edge)" />
              <text x={x(t)} y={axis + 27}>
                {show(t, 6)}
              </text>
            </g>
          ))}
          <text x={left - 14} y={axis + 27} textAnchor="end">
            {bracket ? '%' : plan.happenUnit}
          </text>
        </g>
        {plan.kind === 'square' && (
          <text x={width - right} y={128} fontSize={12} fill="var(--muted)" textAnchor="end">
            open circle: left round
          </text>
        )}
      </svg>
    </div>
  )
}

function niceStep(rough: number) {
  const power = 10 ** Math.floor(Math.log10(Math.max(rough, 1e-9)))
  return [1, 2, 5, 10].map((m) => m * power).find((s) => s >= rough) ?? 10 * power
}
