import type { Proof } from '../../app/api'
import { useWidth } from '../../shared/useWidth'

const percent = (p: number) => Math.round(100 * p)

/** How often copies like this pass: a hairline each, the range of this one above, luck alone beneath. */
export function CopyAxis({ proof }: { proof: Proof }) {
  const { ref, width } = useWidth<HTMLDivElement>(700, 240)
  const left = 16
  const x = (p: number) => left + p * (width - 2 * left)
  const rate = proof.passes / proof.runs
  const base = 132
  const range = proof.copy
  const luck = proof.chance
  const rangeSay = range && `this copy may be anywhere here: ${percent(range.low)} to ${percent(range.high)}`
  const luckSay = luck && 'luck alone, had all numbers their best values'
  // A label begins at its bracket, or ends there, or stands where there is room.
  const labelAt = (low: number, high: number, length: number) =>
    x(low) + length < width - left
      ? { at: x(low), anchor: 'start' as const }
      : { at: Math.max(x(high), left + length), anchor: 'end' as const }
  const over = range && labelAt(range.low, range.high, 7.1 * rangeSay!.length)
  const under =
    luck && (x(luck.low) > 310 ? { at: x(luck.low) - 8, anchor: 'end' as const } : { at: x(luck.high) + 8, anchor: 'start' as const })
  return (
    <div ref={ref}>
      <svg width={width} height={162} role="img" aria-label={axisSay(proof)}>
        {proof.copies > 0 && range && over && (
          <g>
            <text x={over.at} y={18} fontSize={14} fontWeight={600} fill="var(--ink)" textAnchor={over.anchor}>
              {rangeSay}
            </text>
            <path d={`M${x(range.low)} 38V28H${x(range.high)}V38`} fill="none" stroke="var(--mussel)" strokeWidth={2.5} />
            {[range.low, range.high].map((end, i) => (
              <line
                key={i}
                x1={x(end) - 6}
                x2={x(end) + 6}
                y1={43}
                y2={43}
                stroke={proof.rests === 'measured' ? 'var(--teal)' : 'var(--kelp)'}
                strokeWidth={2}
                strokeDasharray={proof.rests === 'measured' ? undefined : '2 2'}
              />
            ))}
          </g>
        )}
        {proof.marks.map((m, i) => (
          <line key={i} x1={x(m)} x2={x(m)} y1={52} y2={92} stroke="var(--ink)" strokeOpacity={0.4} strokeWidth={1.5} />
        ))}
        <line x1={x(rate)} x2={x(rate)} y1={46} y2={98} stroke="var(--ink)" strokeWidth={3.5} />
        {luck && under && (
          <g>
            <path d={`M${x(luck.low)} 102V112H${x(luck.high)}V102`} fill="none" stroke="var(--teal)" strokeWidth={2.5} />
            <text x={under.at} y={116} fontSize={13} fill="var(--muted)" textAnchor={under.anchor}>
              {proof.copies > 0 ? luckSay : 'where the rate lies, by luck alone'}
            </text>
          </g>
        )}
        <line x1={x(0)} x2={x(1)} y1={base} y2={base} stroke="var(--edge)" />
        <g fontSize={12} fill="var(--muted)">
          {[0, 25, 50, 75, 100].map((p) => (
            <g key={p}>
              <line x1={x(p / 100)} x2={x(p / 100)} y1={base - 3} y2={base + 3} stroke="var(--edge)" />
              <text x={p === 0 ? x(0) - 8 : x(p / 100)} y={base + 20} textAnchor={p === 0 ? 'start' : 'middle'}>
                {p}
                {p === 0 ? ' in 100' : ''}
              </text>
            </g>
          ))}
        </g>
      </svg>
    </div>
  )
}

function axisSay(proof: Proof) {
  const parts = [proof.counted]
  if (proof.copies > 0 && proof.copy) parts.push(`This copy: ${percent(proof.copy.low)} to ${percent(proof.copy.high)} in 100.`)
  if (proof.chance) parts.push(`Luck alone: ${percent(proof.chance.low)} to ${percent(proof.chance.high)} in 100.`)
  return parts.join(' ')
}

/** Ten strokes for the next ten runs: full where they will pass, dotted where they may. */
export function NextTen({ proof }: { proof: Proof }) {
  const ten = proof.next.find((n) => n.runs === 10)
  const twenty = proof.next.find((n) => n.runs === 20)
  if (!ten) return null
  const words = ten.low === ten.high ? `${ten.low} will pass` : `${ten.low} to ${ten.high} will pass`
  return (
    <div className="proof-line next-ten">
      <b>Of your next 10 runs</b>
      <svg width={206} height={30} role="img" aria-label={`Of the next 10 runs ${words}.`}>
        {Array.from({ length: 10 }, (_, i) => (
          <line
            key={i}
            x1={8 + 21 * i}
            x2={8 + 21 * i}
            y1={4}
            y2={26}
            stroke={i < ten.low ? 'var(--weed)' : i < ten.high ? 'var(--muted)' : 'var(--line)'}
            strokeWidth={i < ten.low ? 4 : 2}
            strokeDasharray={i < ten.low ? undefined : '3 3'}
          />
        ))}
      </svg>
      <span data-testid="next-ten">
        {words}
        {twenty && (
          <span className="muted fine">, of 20 {twenty.low === twenty.high ? twenty.low : `${twenty.low} to ${twenty.high}`}</span>
        )}
      </span>
    </div>
  )
}
