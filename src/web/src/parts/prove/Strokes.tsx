import type { Proof } from '../../app/api'
import { show } from '../../shared/format'
import { useWidth } from '../../shared/useWidth'

/** One short stroke a run: passes above the base line by finish time, failures below it by group. */
export function Strokes({ proof }: { proof: Proof }) {
  const { ref, width } = useWidth<HTMLDivElement>(1000, 600)
  const base = 74
  const gap = 14
  const passed = proof.strokes.filter((s) => s.passed).sort((a, b) => a.endS - b.endS)
  const groups = proof.failures.map((_, g) => proof.strokes.filter((s) => s.group === g).sort((a, b) => a.endS - b.endS))
  const room = width - 24 - gap * groups.length
  const each = Math.min(9, room / Math.max(1, proof.runs))
  const longest = Math.max(...proof.strokes.map((s) => s.endS), 0.1)
  let at = 12
  const stroke = (x: number, end: number, up: boolean, key: number) => {
    const length = 10 + (end / longest) * 34
    return (
      <line
        key={key}
        x1={x}
        x2={x}
        y1={base}
        y2={up ? base - length : base + length}
        stroke={up ? 'var(--weed)' : 'var(--kelp)'}
        strokeWidth={Math.max(1, Math.min(3, each - 1))}
      />
    )
  }
  const passStart = at
  const passLines = passed.map((s) => {
    const x = at
    at += each
    return stroke(x, s.endS, true, s.run)
  })
  const passEnd = at
  return (
    <div ref={ref} className="wide" tabIndex={0} role="group" aria-label="Strokes">
      <svg
        width={width}
        height={150}
        role="img"
        aria-label={`${proof.passes} runs passed; ${proof.failures.map((f) => `${f.count} ended ${f.ended}`).join(', ') || 'none failed'}.`}
      >
        <line x1={8} x2={width - 8} y1={base} y2={base} stroke="var(--edge)" />
        {passLines}
        {passed.length > 0 && (
          <text x={passStart} y={16} fontSize={13} fill="var(--ink)">
            {proof.passes} passed, in {show(passed[0]!.endS)} to {show(passed.at(-1)!.endS)} s
          </text>
        )}
        {groups.map((g, i) => {
          at += i === 0 && passEnd === 12 ? 0 : gap
          const start = at
          const lines = g.map((s) => {
            const x = at
            at += each
            return stroke(x, s.endS, false, s.run)
          })
          return (
            <g key={i}>
              {lines}
              <path
                d={`M${start - 2} 132V138H${Math.max(start + 6, at - each + 2)}V132`}
                fill="none"
                stroke="var(--mussel)"
                strokeWidth={2}
              />
              <text x={start - 2} y={base - 8 - (i % 2) * 16} fontSize={13} fill="var(--ink)">
                {proof.failures[i]!.count} {i < 3 ? proof.failures[i]!.ended.replace('standing ', '') : ''}
              </text>
            </g>
          )
        })}
      </svg>
    </div>
  )
}

/** The success rate with its interval on a scale from 0 to 100. */
export function RateScale({ proof }: { proof: Proof }) {
  const { ref, width } = useWidth<HTMLDivElement>(600, 240)
  const x = (p: number) => 16 + p * (width - 32)
  const rate = proof.runs === 0 ? 0 : proof.passes / proof.runs
  return (
    <div ref={ref}>
      <svg width={width} height={58} role="img" aria-label={proof.say}>
        <line x1={x(0)} x2={x(1)} y1={32} y2={32} stroke="var(--edge)" />
        <path d={`M${x(proof.low)} 26V18H${x(proof.high)}V26`} fill="none" stroke="var(--mussel)" strokeWidth={2} />
        <line x1={x(rate)} x2={x(rate)} y1={14} y2={38} stroke="var(--ink)" strokeWidth={3} />
        <g fontSize={12} fill="var(--muted)" textAnchor="middle">
          {[0, 25, 50, 75, 100].map((p) => (
            <text key={p} x={p === 0 ? x(0) - 8 : x(p / 100)} y={52} textAnchor={p === 0 ? 'start' : 'middle'}>
              {p}
              {p === 0 ? ' in 100' : ''}
            </text>
          ))}
        </g>
      </svg>
    </div>
  )
}
