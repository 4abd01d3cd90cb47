import { type Schemas } from '../../app/api'
import { useWidth } from '../../shared/useWidth'

type SpreadView = Schemas['LogSpread']
export type Run = { key: string; passed: boolean; cause: string; timeS: number | null; waits?: boolean }

const left = 20

/** A revision's runs: what was promised over one axis, and what happened as tallied strokes under it. */
export function Spread({ spread, runs, learnt }: { spread: SpreadView; runs: Run[]; learnt?: string }) {
  const { ref, width } = useWidth<HTMLDivElement>(560, 280)
  const x = (share: number) => left + share * (width - 2 * left)
  const passes = runs.filter((r) => r.passed).length
  const promise = spread.promise
  const waits = runs.filter((r) => r.waits).length
  const say =
    waits > 0 || passes !== spread.passes
      ? `${passes} of ${runs.length}${waits > 0 ? `, of which ${waits} ${waits === 1 ? 'waits' : 'wait'} to be sent` : ''}.`
      : spread.say
  const step = Math.min(15, (width - 2 * left) / Math.max(1, runs.length))
  const low = promise && promise.runs > 0 ? promise.low / promise.runs : 0
  const high = promise && promise.runs > 0 ? promise.high / promise.runs : 0
  return (
    <section className="spread" aria-label={`Revision ${spread.revision}${spread.scene ? `, ${spread.scene}` : ''}`}>
      <div>
        <h2 className="small-head">Revision {spread.revision}</h2>
        {spread.scene && <p className="fine muted">held against {spread.scene}</p>}
        {!spread.sent && <p className="fine attention">Never sent to this copy, as far as Chiton knows.</p>}
      </div>
      <div ref={ref}>
        <svg
          width={width}
          height={78}
          role="img"
          aria-label={`${promise ? `${promise.afterwards ? 'Worked out since' : 'Promised'}: ${promise.low} to ${promise.high} of ${promise.runs}. ` : ''}Passed: ${passes} of ${runs.length}.`}
        >
          <line x1={left} x2={width - left} y1={26} y2={26} stroke="var(--line)" strokeWidth={1.5} />
          {promise && (
            <>
              <path d={`M${x(low)} 18V10H${x(high)}V18`} fill="none" stroke="var(--mussel)" strokeWidth={2} />
              <line x1={x(promise.mean)} x2={x(promise.mean)} y1={20} y2={32} stroke="var(--ink)" strokeWidth={3} />
              <text
                x={x(high) + (promise.afterwards ? 110 : 62) > width ? x(low) - 6 : x(high) + 6}
                y={15}
                textAnchor={x(high) + (promise.afterwards ? 110 : 62) > width ? 'end' : 'start'}
                fontSize={12}
                fill="var(--muted)"
              >
                {promise.afterwards ? 'worked out since' : 'promised'}
              </text>
            </>
          )}
          {runs.length > 0 && (
            <path
              d={`M${x(passes / runs.length)} 28l-5 8h10z`}
              fill={promise && (passes / runs.length < low || passes / runs.length > high) ? 'var(--kelp)' : 'var(--weed)'}
            />
          )}
          <line x1={left} x2={left + step * Math.max(1, runs.length)} y1={58} y2={58} stroke="var(--muted)" />
          {runs.map((r, i) => (
            <line
              key={r.key}
              x1={left + step * (i + 0.5)}
              x2={left + step * (i + 0.5)}
              y1={r.passed ? 46 : 54}
              y2={r.passed ? 62 : 70}
              stroke={r.passed ? 'var(--weed)' : 'var(--kelp)'}
              strokeWidth={Math.min(3, step / 2)}
              strokeDasharray={r.waits ? '3 2' : undefined}
            >
              <title>{`${r.passed ? 'passed' : 'failed'}${r.timeS ? ` in ${r.timeS} s` : ''}${r.cause ? `: ${r.cause}` : ''}`}</title>
            </line>
          ))}
        </svg>
        <p data-testid="spread-say" style={{ marginLeft: left }}>
          {say} {learnt}
        </p>
      </div>
    </section>
  )
}
