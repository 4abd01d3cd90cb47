import { memo, useId, useMemo, useRef, type KeyboardEvent, type PointerEvent, type ReactNode } from 'react'
import type { Run, Schemas } from '../../app/api'
import type { Plan } from '../../app/scenes'
import { show } from '../../shared/format'
import { sampleAt } from '../../shared/runAt'
import { useWidth } from '../../shared/useWidth'
import { Belt, Parts, Rail, Tank, Visitors } from './Worlds'

type Props = {
  plan: Plan
  /** The run that is watched; null while only the scene is drawn. */
  run: Run | null
  /** Another run on the same luck, drawn dashed beside it. */
  beside?: Run | null
  t: number
  eventIndex: number | null
  /** The line that is open, and choosing another. */
  line: number | null
  onLine?: (line: number | null) => void
  /** Moves what a line speaks of, mm. */
  onMove?: (line: number, dx: number, dy: number) => void
  /** False where what is lit is told elsewhere. */
  lamps?: boolean
}

/** The place of a scene to scale, and what happens there. */
export function Place(props: Props) {
  const { ref, width } = useWidth<HTMLDivElement>(320, 600)
  const { plan, run, t } = props
  const flat = plan.kind === 'floor' || plan.kind === 'deck'
  const drawn: ReactNode[] = []
  if (flat) drawn.push(<Ground key="ground" {...props} width={width} />)
  if (plan.rails.length > 0) drawn.push(<Rail key="rail" {...props} width={width} />)
  if (plan.belt) drawn.push(<Belt key="belt" {...props} width={width} />)
  if (plan.tank) drawn.push(<Tank key="tank" {...props} width={width} />)
  if (plan.axes.length > 0 && !flat) drawn.push(<Parts key="parts" {...props} width={width} />)
  if (plan.visitors.some((v) => v.sensor) && !flat) drawn.push(<Visitors key="visitors" {...props} width={width} />)
  return (
    <div ref={ref} className="wide" tabIndex={0} role="group" aria-label="Place">
      {drawn.length === 0 && <p className="muted">Nothing lies here yet. Write what does, for instance: floor 2 m by 1.5 m.</p>}
      {drawn}
      {props.lamps !== false && <Lamps run={run} t={t} />}
    </div>
  )
}

/** What is lit, sounds or shows, in words. */
function Lamps({ run, t }: { run: Run | null; t: number }) {
  if (!run) return null
  const last = new Map<string, string>()
  // A tone is told while it can still be in the ear.
  for (const o of run.report.outputs)
    if (o.timeS <= t) {
      if (o.say.startsWith('tone') && t - o.timeS > 1) last.delete(o.device)
      else last.set(o.device, o.say)
    }
  const shown = [...last].filter(([, say]) => /^(on|red|orange|yellow|green|cyan|blue|purple|pink|white|blink|tone|show|play)/.test(say))
  if (shown.length === 0) return null
  return (
    <p className="fine" style={{ margin: '4px 0 0' }} data-testid="lamps">
      {shown.map(([device, say], i) => (
        <span key={device}>
          {i > 0 && ', '}
          <b>{device}</b> {say}
        </span>
      ))}
    </p>
  )
}

function Ground({ plan, run, beside, t, eventIndex, line, onLine, onMove, width }: Props & { width: number }) {
  const id = useId()
  const margin = 70
  const tall = 430
  const scale = Math.min((width - 24) / (plan.w + 2 * margin), tall / (plan.d + 2 * margin))
  const height = (plan.d + 2 * margin) * scale
  const sx = (x: number) => 12 + (x + margin) * scale
  const sy = (y: number) => height - (y + margin) * scale
  const drag = useRef<{ line: number; x: number; y: number } | null>(null)
  const at = run ? sampleAt(run, t) : 0
  const bodies = run?.signals.bodies ?? []
  const things = bodies.filter((b) => b.kind === 'thing')
  const now = (row: (number | null)[], to: (v: number) => number) => {
    const v = row[at]
    return v === null || v === undefined ? null : to(v)
  }
  const first = (row: (number | null)[], to: (v: number) => number) => {
    const v = row[0]
    return v === null || v === undefined ? null : to(v)
  }
  const picks = (l: number, moves: boolean) =>
    !onLine || l === 0
      ? {}
      : {
          tabIndex: 0,
          role: 'button',
          'aria-label': `Line ${l}${moves && onMove ? ', move with the arrow keys' : ''}`,
          'aria-pressed': l === line,
          style: { cursor: moves ? 'move' : 'pointer' },
          onClick: () => onLine(l),
          onKeyDown: (e: KeyboardEvent) => {
            const by = e.shiftKey ? 50 : 5
            const to = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, by], ArrowDown: [0, -by] }[e.key]
            if (to && moves && onMove) {
              e.preventDefault()
              onMove(l, to[0]!, to[1]!)
            } else if (e.key === 'Enter' || e.key === ' ') {
              e.preventDefault()
              onLine(l)
            }
          },
          onPointerDown: (e: PointerEvent) => {
            if (!moves || !onMove) return
            drag.current = { line: l, x: e.clientX, y: e.clientY }
            ;(e.currentTarget as Element).setPointerCapture(e.pointerId)
          },
          onPointerUp: (e: PointerEvent) => {
            const from = drag.current
            drag.current = null
            if (!from || !onMove) return
            const [dx, dy] = [(e.clientX - from.x) / scale, (from.y - e.clientY) / scale]
            if (Math.hypot(dx, dy) > 4) onMove(from.line, Math.round(dx), Math.round(dy))
          },
        }
  const chosen = (l: number) => (l === line && l !== 0 ? { stroke: 'var(--teal)', strokeWidth: 3 } : {})
  // What lies there does not change from frame to frame; only what moves is drawn anew.
  const running = run !== null
  const shapes = useMemo(
    () =>
      plan.shapes.map((s, i) => (
        <g key={i} {...picks(s.line, true)}>
          <ShapeView s={s} sx={sx} sy={sy} scale={scale} chosen={chosen(s.line)} run={running} left={s.x > plan.w * 0.82} />
        </g>
      )),
    // `picks` and `chosen` follow from these.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [plan, scale, height, line, running, onLine, onMove],
  )
  const names = new Set(things.map((b) => b.name)).size
  const radii = useMemo(
    () =>
      new Map(
        [...new Set(things.map((b) => b.name))].map((name) => [
          name,
          (plan.shapes.find((s) => s.name === name)?.w ?? sizeOf(run, name)) / 2,
        ]),
      ),
    // The sizes of a run stay as they were drawn.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [plan, run, names],
  )
  const failure = run?.report.failure
  const failed = failure && t >= failure.atS - 0.01
  const bar = [50, 100, 200, 300, 500, 1000, 2000].find((mm) => mm * scale > 90) ?? 2000
  return (
    <svg width={width} height={height + 26} role="group" aria-label={said(plan, run, at, t)}>
      <defs>
        <pattern id={`${id}-drop`} width={9} height={9} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line x1={0} y1={0} x2={0} y2={9} stroke="var(--line)" strokeWidth={2} />
        </pattern>
      </defs>
      {plan.kind === 'deck' && (
        <rect
          x={sx(-margin * 0.7)}
          y={sy(plan.d + margin * 0.7)}
          width={(plan.w + margin * 1.4) * scale}
          height={(plan.d + margin * 1.4) * scale}
          fill={`url(#${id}-drop)`}
        />
      )}
      <rect
        x={sx(0)}
        y={sy(plan.d)}
        width={plan.w * scale}
        height={plan.d * scale}
        fill="var(--paper)"
        stroke={plan.kind === 'deck' ? 'var(--ink)' : 'var(--line)'}
        strokeWidth={plan.kind === 'deck' ? 2 : 1}
      />
      {shapes}
      {things.map((b, i) => (
        <Thing
          key={i}
          x={now(b.x, sx)}
          y={now(b.y, sy)}
          x0={first(b.x, sx)}
          y0={first(b.y, sy)}
          r={Math.max(3, (radii.get(b.name) ?? 12) * scale)}
        />
      ))}
      {run?.events.map((e, i) =>
        e.x === null || e.x === undefined || e.y === null || e.y === undefined || e.from === null || e.timeS > t + 1e-6 ? null : (
          <path
            key={i}
            d={`M${sx(e.x) - 6} ${sy(e.y) + 4}V${sy(e.y) - 3}H${sx(e.x) + 6}V${sy(e.y) + 4}`}
            fill="none"
            stroke={e.warning ? 'var(--kelp)' : 'var(--mussel)'}
            strokeWidth={i === eventIndex ? 3.5 : 1.8}
          />
        ),
      )}
      {plan.bodies.map((b, i) => {
        const track = bodies.find((o) => o.kind === 'drive' && (o.name === b.name || o.name.startsWith(`${b.name}'s `)))
        const x = track?.x[at] ?? b.x
        const y = track?.y[at] ?? b.y
        const heading = track?.heading[at] ?? b.heading
        const trail = track
          ? track.x
              .slice(0, at + 1)
              .map((v, k) => `${k === 0 ? 'M' : 'L'}${sx(v ?? 0).toFixed(1)} ${sy(track.y[k] ?? 0).toFixed(1)}`)
              .join('')
          : ''
        const other = beside?.signals.bodies.find((o) => o.kind === 'drive' && o.name === track?.name)
        const until = beside ? sampleAt(beside, t) : 0
        return (
          <g key={i}>
            {other && (
              <path
                d={other.x
                  .slice(0, until + 1)
                  .map((v, k) => `${k === 0 ? 'M' : 'L'}${sx(v ?? 0).toFixed(1)} ${sy(other.y[k] ?? 0).toFixed(1)}`)
                  .join('')}
                fill="none"
                stroke="var(--kelp)"
                strokeWidth={1.6}
                strokeDasharray="6 4"
              />
            )}
            {trail && <path d={trail} fill="none" stroke="var(--teal)" strokeWidth={1.6} />}
            {trail && (
              <text x={sx(track!.x[0] ?? 0)} y={sy((track!.y[0] ?? 0) - 14)} fontSize={12} fill="var(--muted)" textAnchor="middle">
                start
              </text>
            )}
            <g {...picks(b.line, true)}>
              <g transform={`translate(${sx(x)} ${sy(y)}) rotate(${heading})`}>
                <path
                  d={`M${b.outline.map((c) => `${c.y * scale} ${-c.x * scale}`).join('L')}Z`}
                  fill="var(--paper)"
                  fillOpacity={0.85}
                  stroke="var(--ink)"
                  strokeWidth={1.7}
                  {...chosen(b.line)}
                />
                {[-1, 1].map((side) => (
                  <rect
                    key={side}
                    x={(side * b.trackMm * scale) / 2 - 3}
                    y={-14 * scale - 4}
                    width={6}
                    height={28 * scale + 8}
                    fill={failed && failure.where.startsWith('fallen') ? 'var(--red)' : 'var(--ink)'}
                  />
                ))}
                {b.eyes.map((e) => (
                  <circle key={e.name} cx={e.rightMm * scale} cy={-e.aheadMm * scale} r={4} fill="var(--teal)" />
                ))}
              </g>
            </g>
          </g>
        )
      })}
      {failed && failure.x !== null && failure.x !== undefined && failure.y !== null && failure.y !== undefined && (
        <Spot x={sx(failure.x)} y={sy(failure.y)} width={width} say={failure.say} atS={failure.atS} />
      )}
      <g stroke="var(--muted)">
        <line x1={sx(0)} x2={sx(0) + bar * scale} y1={height + 12} y2={height + 12} />
        <line x1={sx(0)} x2={sx(0)} y1={height + 8} y2={height + 16} />
        <line x1={sx(0) + bar * scale} x2={sx(0) + bar * scale} y1={height + 8} y2={height + 16} />
      </g>
      <text x={sx(0) + bar * scale + 8} y={height + 16} fontSize={13} fill="var(--muted)">
        {bar} mm
      </text>
    </svg>
  )
}

type ThingProps = { x: number | null; y: number | null; x0: number | null; y0: number | null; r: number }

/** A thing where it is; a dotted outline where it was when it has gone. */
const Thing = memo(function Thing({ x, y, x0, y0, r }: ThingProps) {
  if (x !== null && y !== null) return <circle cx={x} cy={y} r={r} fill="var(--line)" stroke="var(--edge)" />
  return x0 === null || y0 === null ? null : <circle cx={x0} cy={y0} r={r} fill="none" stroke="var(--edge)" strokeDasharray="2 3" />
})

/** Where it went wrong, in two lines beside the place. */
function Spot({ x, y, width, say, atS }: { x: number; y: number; width: number; say: string; atS: number }) {
  const short = say.replace(/^After [\d.]+ s:? ?/, '')
  const cut = short.length > 44 ? short.lastIndexOf(' ', 44) : short.length
  const rest = short.slice(cut).trim()
  const lines = [`${show(atS)} s: ${short.slice(0, cut)}`, rest.length > 56 ? `${rest.slice(0, rest.lastIndexOf(' ', 54))} …` : rest]
  const right = x > width / 2
  return (
    <g fontSize={13} fill="var(--red)" textAnchor={right ? 'end' : 'start'}>
      <circle cx={x} cy={y} r={6} fill="none" stroke="var(--red)" strokeWidth={2} />
      <text x={right ? x - 12 : x + 12} y={Math.max(16, y - 8)} fontWeight={650} stroke="var(--lime)" strokeWidth={3} paintOrder="stroke">
        {lines[0]}
      </text>
      <text x={right ? x - 12 : x + 12} y={Math.max(32, y + 9)} stroke="var(--lime)" strokeWidth={3} paintOrder="stroke">
        {lines[1]}
      </text>
    </g>
  )
}

function sizeOf(run: Run | null, name: string): number {
  return run?.report.draws.find((d) => d.name === `size of ${name}` || d.name.startsWith(`size of ${name} `))?.value ?? 24
}

/** A shape of the plan. */
export function ShapeView({
  s,
  sx,
  sy,
  scale,
  chosen,
  run,
  left,
}: {
  s: Schemas['PlanShape']
  sx: (x: number) => number
  sy: (y: number) => number
  scale: number
  chosen: { stroke?: string; strokeWidth?: number }
  run: boolean
  /** Its name stands at its left, where there is no room at its right. */
  left: boolean
}) {
  const points = s.path.map((p) => `${sx(p.x).toFixed(1)} ${sy(p.y).toFixed(1)}`).join('L')
  if (s.kind === 'strip')
    return (
      <g>
        <path
          d={`M${points}`}
          fill="none"
          stroke="var(--ink)"
          strokeOpacity={0.72}
          strokeWidth={Math.max(2, s.w * scale)}
          strokeLinejoin="round"
        />
        {chosen.stroke && <path d={`M${points}`} fill="none" {...chosen} />}
      </g>
    )
  if (s.kind === 'wall') return <path d={`M${points}`} fill="none" stroke="var(--ink)" strokeWidth={4} strokeLinecap="square" {...chosen} />
  // What moves is drawn where it is now, by the run.
  if ((s.kind === 'thing' || s.kind === 'round thing') && run && !s.fixed) return null
  const round = s.kind === 'disc' || s.kind === 'round place' || s.kind === 'round thing'
  const place = s.kind === 'place' || s.kind === 'round place' || s.kind === 'shade'
  const look = place
    ? { fill: s.kind === 'shade' ? 'var(--muted)' : 'none', fillOpacity: 0.14, stroke: 'var(--edge)', strokeDasharray: '5 4' }
    : {
        fill: s.kind === 'patch' || s.kind === 'disc' ? 'var(--kelp)' : 'var(--line)',
        fillOpacity: s.fixed ? 1 : 0.5,
        stroke: 'var(--ink)',
        strokeWidth: 1.2,
      }
  return (
    <g>
      {round ? (
        <circle cx={sx(s.x)} cy={sy(s.y)} r={Math.max(3, (s.w / 2) * scale)} {...look} {...chosen} />
      ) : (
        <rect
          x={sx(s.x) - (s.w / 2) * scale}
          y={sy(s.y) - (s.d / 2) * scale}
          width={s.w * scale}
          height={s.d * scale}
          transform={`rotate(${s.turned} ${sx(s.x)} ${sy(s.y)})`}
          {...look}
          {...chosen}
        />
      )}
      {s.name && s.kind !== 'shade' && (
        <text
          x={sx(s.x) + (place ? 0 : ((s.w / 2) * scale + 6) * (left ? -1 : 1))}
          y={sy(s.y) + (place ? -(s.d / 2) * scale - 5 : 4)}
          fontSize={12}
          fill="var(--muted)"
          textAnchor={place ? 'middle' : left ? 'end' : 'start'}
        >
          {s.name}
        </text>
      )}
    </g>
  )
}

function said(plan: Plan, run: Run | null, at: number, t: number): string {
  const place = `${plan.kind === 'deck' ? 'A deck' : 'A floor'} of ${show(plan.w)} by ${show(plan.d)} mm`
  const body = run?.signals.bodies.find((b) => b.kind === 'drive')
  return body
    ? `${place}. At ${show(t)} s ${body.name} stands at ${show(body.x[at] ?? 0)}, ${show(body.y[at] ?? 0)} mm, heading ${show(body.heading[at] ?? 0)} degrees.`
    : `${place} with ${plan.shapes.length} things painted or put there.`
}
