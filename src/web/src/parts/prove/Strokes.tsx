import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { client, unwrap, type Proof } from '../../app/api'
import { partKey, useRig } from '../../app/rig'
import { show } from '../../shared/format'
import { useWidth } from '../../shared/useWidth'

/** One short stroke a run: passes above the base line by finish time, failures below it by group; or all by a number that was drawn. */
export function Strokes({ proof }: { proof: Proof }) {
  const { rig } = useRig()
  const { ref, width } = useWidth<HTMLDivElement>(1000, 600)
  const [by, setBy] = useState('')
  const drawn = useQuery({
    queryKey: [...partKey(rig.id, 'drawn', rig.copy), proof.number, by],
    queryFn: () =>
      unwrap(
        client.GET('/api/rigs/{id}/proofs/{number}/drawn', {
          params: { path: { id: rig.id, number: proof.number }, query: { name: by } },
        }),
      ),
    enabled: by !== '' && proof.number > 0,
  })
  const base = 74
  const gap = 14
  const passed = proof.strokes.filter((s) => s.passed).sort((a, b) => a.endS - b.endS)
  const groups = proof.failures.map((_, g) => proof.strokes.filter((s) => s.group === g).sort((a, b) => a.endS - b.endS))
  const values = by !== '' && drawn.data?.name === by ? drawn.data.values : null
  const room = width - 24 - (values ? 0 : gap * groups.length)
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
  const byTime = () => {
    const passStart = at
    const passLines = passed.map((s) => {
      const x = at
      at += each
      return stroke(x, s.endS, true, s.run)
    })
    const passEnd = at
    return (
      <>
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
              {/* The words stand with the failures, in the same order. */}
              <text x={start - 2} y={base - 8} fontSize={13} fill="var(--ink)">
                {proof.failures[i]!.count}
              </text>
            </g>
          )
        })}
      </>
    )
  }
  const byNumber = (of: readonly number[]) => {
    const order = proof.strokes.map((_, i) => i).sort((a, b) => of[a]! - of[b]!)
    const unit = drawn.data!.unit
    // More runs than can stand side by side: a bar for many, as long as its share of passes above and of failures below.
    const bars = each < 1.5 ? Math.floor(room / 4) : 0
    const bar = (b: number) => {
      const some = order.slice(Math.floor((b * order.length) / bars), Math.floor(((b + 1) * order.length) / bars))
      const up = some.filter((i) => proof.strokes[i]!.passed).length / some.length
      const x = 12 + 4 * b
      return (
        <g key={b}>
          <rect x={x} y={base - 44 * up} width={3} height={44 * up} fill="var(--weed)" />
          <rect x={x} y={base} width={3} height={44 * (1 - up)} fill="var(--kelp)" />
        </g>
      )
    }
    return (
      <>
        {bars > 0
          ? Array.from({ length: bars }, (_, b) => bar(b))
          : order.map((i, k) => stroke(12 + k * each, proof.strokes[i]!.endS, proof.strokes[i]!.passed, proof.strokes[i]!.run))}
        {[0, 0.25, 0.5, 0.75, 1].map((q) => {
          const k = Math.round(q * (order.length - 1))
          const x = 12 + k * each
          return (
            <g key={q}>
              <line x1={x} x2={x} y1={base + 48} y2={base + 54} stroke="var(--edge)" />
              <text x={x} y={base + 68} fontSize={12} fill="var(--muted)" textAnchor={q === 0 ? 'start' : q === 1 ? 'end' : 'middle'}>
                {show(of[order[k]!]!)}
                {q === 0 ? ` ${unit}` : ''}
              </text>
            </g>
          )
        })}
      </>
    )
  }
  return (
    <>
      <div className="row" style={{ marginBottom: 4 }}>
        <h3 className="small-title" style={{ margin: 0 }}>
          Run by run
        </h3>
        <span className="push" />
        {proof.numbers.length > 0 && (
          <label className="fine no-print">
            In order of{' '}
            <select value={by} onChange={(e) => setBy(e.target.value)} className="plain-select">
              <option value="">how they ended</option>
              {proof.numbers.map((n) => (
                <option key={n.name}>{n.name}</option>
              ))}
            </select>
          </label>
        )}
      </div>
      <div ref={ref} className="wide" tabIndex={0} role="group" aria-label="Strokes">
        <svg
          width={width}
          height={150}
          role="img"
          aria-label={
            values
              ? `Runs in order of ${by}, from ${show(Math.min(...values))} to ${show(Math.max(...values))} ${drawn.data!.unit}: ${crowded(proof, values)}`
              : `${proof.passes} runs passed; ${proof.failures.map((f) => `${f.count} ended ${f.ended}`).join(', ') || 'none failed'}.`
          }
        >
          <line x1={8} x2={width - 8} y1={base} y2={base} stroke="var(--edge)" />
          {values ? byNumber(values) : byTime()}
        </svg>
      </div>
    </>
  )
}

/** Whether failures crowd at one end of a number, in words. */
function crowded(proof: Proof, values: readonly number[]) {
  const order = proof.strokes.map((_, i) => i).sort((a, b) => values[a]! - values[b]!)
  const half = Math.floor(order.length / 2)
  const fails = (part: number[]) => part.filter((i) => !proof.strokes[i]!.passed).length
  const [low, high] = [fails(order.slice(0, half)), fails(order.slice(half))]
  return `${low} failures in the lower half, ${high} in the upper.`
}
