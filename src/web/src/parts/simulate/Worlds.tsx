import type { Run, Schemas } from '../../app/api'
import type { Plan } from '../../app/scenes'
import { show } from '../../shared/format'
import { sampleAt } from '../../shared/runAt'

type Props = {
  plan: Plan
  run: Run | null
  t: number
  eventIndex: number | null
  line: number | null
  onLine?: (line: number | null) => void
  width: number
}

const wrap = (x: number, length: number) => ((x % length) + length) % length
const pad = 14

/** The rail laid out straight, vehicles on it, footprints where transitions happened, and a closer look under the eye. */
export function Rail({ plan, run, t, eventIndex, line, onLine, width }: Props) {
  const main = plan.rails[0]!
  const at = run ? sampleAt(run, t) : 0
  const tracks = run?.signals.bodies.filter((b) => b.kind === 'vehicle') ?? []
  const draws = run?.report.draws ?? []
  const first = plan.vehicles[0]
  const ahead = draws.find((d) => d.name.endsWith(' ahead'))?.value ?? first?.eyeAheadMm ?? 0
  const spot = draws.find((d) => d.name.startsWith('spot of '))?.value ?? first?.spotMm ?? 8
  const scale = (width - 2 * pad) / main.lengthMm
  const x = (mm: number) => pad + (main.closed ? wrap(mm, main.lengthMm) : Math.max(0, Math.min(main.lengthMm, mm))) * scale
  // A siding stands below, as far along as it leaves.
  const lineY = (i: number) => 66 + i * 46
  const along = (i: number, mm: number) => {
    const rail = plan.rails[i]
    if (!rail || i === 0) return x(mm)
    return x((rail.leavesAt ?? 0) + (rail.backwards ? -mm : mm))
  }
  const place = tracks[0]?.x[at] ?? 0
  const onMain = (tracks[0]?.heading[at] ?? 0) === 0
  const eye = main.closed ? wrap(place + ahead, main.lengthMm) : place + ahead
  const markers = plan.markers.filter((m) => m.rail === '')
  const distance = (m: Schemas['PlanMarker']) => {
    const d = eye - (m.atMm + m.lengthMm / 2)
    return main.closed && Math.abs(d) > main.lengthMm / 2 ? d - Math.sign(d) * main.lengthMm : d
  }
  const nearest = markers.reduce<Schemas['PlanMarker'] | null>(
    (best, m) => (best === null || Math.abs(distance(m)) < Math.abs(distance(best)) ? m : best),
    null,
  )
  const close = run !== null && onMain && nearest !== null && Math.abs(distance(nearest)) < 130
  const zoom = 3
  const middle = width / 2
  const foot = 66 + (plan.rails.length - 1) * 46
  const pick = (l: number) => (onLine && l > 0 ? { onClick: () => onLine(l), style: { cursor: 'pointer' } } : {})
  return (
    <svg
      width={width}
      height={foot + (run ? 146 : 40)}
      role="img"
      aria-label={
        run
          ? `The eye is ${close && nearest ? `${show(Math.abs(distance(nearest)), 2)} mm ${distance(nearest) > 0 ? 'past' : 'before'} the middle of ${nearest.name}` : 'between tags'} at ${show(t)} s.`
          : `A rail of ${show(main.lengthMm)} mm with ${plan.markers.length} tags.`
      }
    >
      {plan.rails.map((r, i) => (
        <g key={i} {...pick(r.line)}>
          <line
            x1={i === 0 ? pad : along(i, 0)}
            x2={i === 0 ? width - pad : along(i, r.lengthMm)}
            y1={lineY(i)}
            y2={lineY(i)}
            stroke="var(--ink)"
            strokeWidth={r.line === line ? 3 : 1.5}
          />
          {i > 0 && <path d={`M${along(i, 0)} ${lineY(i)}L${along(i, 0) - 10} ${lineY(0)}`} stroke="var(--ink)" fill="none" />}
          {i > 0 && r.backAt !== null && r.backAt !== undefined && (
            <path d={`M${along(i, r.lengthMm)} ${lineY(i)}L${x(r.backAt)} ${lineY(0)}`} stroke="var(--ink)" fill="none" />
          )}
          {i > 0 && (
            <text x={along(i, r.lengthMm / 2)} y={lineY(i) + 20} fontSize={13} textAnchor="middle" fill="var(--muted)">
              {r.name}
            </text>
          )}
        </g>
      ))}
      <g fontSize={13} textAnchor="middle" fill="var(--ink)">
        {plan.markers.map((m) => {
          const i = Math.max(
            0,
            plan.rails.findIndex((r) => r.name === m.rail),
          )
          return (
            <g key={m.name} {...pick(m.line)}>
              <rect
                x={along(i, m.atMm)}
                y={lineY(i) - 6}
                width={Math.max(3, m.lengthMm * scale)}
                height={12}
                fill="var(--paper)"
                stroke={m.line === line ? 'var(--teal)' : 'var(--ink)'}
                strokeWidth={m.line === line ? 3 : 1}
              />
              <text x={along(i, m.atMm) + (m.lengthMm * scale) / 2} y={lineY(i) + 24} textAnchor={m.atMm < 60 ? 'start' : 'middle'}>
                {m.name}
              </text>
            </g>
          )
        })}
      </g>
      {run?.events.map((e, i) =>
        e.x === null || e.x === undefined || e.timeS > t + 1e-6 ? null : (
          <line
            key={i}
            x1={x(e.x)}
            x2={x(e.x)}
            y1={e.warning ? 40 : 46}
            y2={58}
            stroke={e.warning ? 'var(--kelp)' : 'var(--mussel)'}
            strokeWidth={i === eventIndex ? 3.5 : 1.6}
          />
        ),
      )}
      {plan.vehicles.map((v) => {
        const track = tracks.find((b) => b.name === v.name)
        const i = track?.heading[at] ?? 0
        const mm = track?.x[at] ?? 0
        if (!track && run) return null
        if (!run) return null
        return (
          <g key={v.name}>
            <rect
              x={along(i, mm) - v.lengthMm * scale}
              y={lineY(i) - 48}
              width={v.lengthMm * scale}
              height={20}
              rx={3}
              fill="var(--paper)"
              stroke="var(--ink)"
              strokeWidth={1.6}
            />
            {plan.vehicles.length > 1 && (
              <text x={along(i, mm) - (v.lengthMm * scale) / 2} y={lineY(i) - 52} fontSize={12} textAnchor="middle" fill="var(--muted)">
                {v.name}
              </text>
            )}
          </g>
        )
      })}
      {run && (
        <g>
          <path d={`M${x(eye)} 38V64`} stroke="var(--teal)" strokeWidth={1.6} />
          <circle cx={x(eye)} cy={66} r={3} fill="var(--teal)" />
          <text x={pad} y={foot + 56} fontSize={13} fill="var(--muted)">
            Under the eye, closer up
          </text>
          <line x1={middle - 390} x2={middle + 390} y1={foot + 98} y2={foot + 98} stroke="var(--line)" strokeWidth={26} />
          {close && nearest && (
            <g>
              <rect
                x={middle - (distance(nearest) + nearest.lengthMm / 2) * zoom}
                width={nearest.lengthMm * zoom}
                y={foot + 85}
                height={26}
                fill="var(--paper)"
                stroke="var(--ink)"
              />
              <text x={middle - distance(nearest) * zoom} y={foot + 132} fontSize={13} textAnchor="middle" fill="var(--ink)">
                {nearest.name}
              </text>
            </g>
          )}
          <circle
            cx={middle}
            cy={foot + 98}
            r={(spot / 2) * zoom}
            fill="var(--teal)"
            fillOpacity={0.35}
            stroke="var(--teal)"
            strokeWidth={2}
          />
        </g>
      )}
    </svg>
  )
}

/** Parts that move between ends: each a rule with its marks, notches and places, and a pointer where it stands. */
export function Parts({ plan, run, t, line, onLine, width }: Props) {
  const at = run ? sampleAt(run, t) : 0
  const row = 74
  const left = 118
  return (
    <svg
      width={width}
      height={plan.axes.length * row + 8}
      role="img"
      aria-label={plan.axes
        .map((a) => {
          const now = run?.signals.bodies.find((b) => b.kind === 'axis' && b.name === a.name)?.x[at]
          return `${a.name}${now === null || now === undefined ? '' : ` at ${show(now)} ${a.unit}`}`
        })
        .join(', ')}
    >
      {plan.axes.map((a, i) => {
        const y = i * row + 44
        const span = Math.max(1, a.to - a.from)
        const x = (v: number) =>
          left + ((Math.max(a.from - span * 0.06, Math.min(a.to + span * 0.06, v)) - a.from) / span) * (width - left - 40)
        const now = run?.signals.bodies.find((b) => b.kind === 'axis' && b.name === a.name)?.x[at]
        const pick = (l: number) => (onLine && l > 0 ? { onClick: () => onLine(l), style: { cursor: 'pointer' } } : {})
        return (
          <g key={a.name} fontSize={13}>
            <text x={left - 14} y={y + 4} textAnchor="end" fill="var(--ink)">
              {a.name}
            </text>
            <line x1={x(a.from)} x2={x(a.to)} y1={y} y2={y} stroke="var(--ink)" strokeWidth={1.5} />
            {[a.from, a.to].map((e) => (
              <g key={e}>
                <line x1={x(e)} x2={x(e)} y1={y - 7} y2={y + 7} stroke="var(--ink)" strokeWidth={2} />
                <text x={x(e)} y={y + 22} textAnchor="middle" fontSize={12} fill="var(--muted)" className="mono">
                  {show(e)}
                </text>
              </g>
            ))}
            {a.notches.map((n, k) => (
              <rect
                key={k}
                {...pick(n.line)}
                x={x(n.from)}
                width={Math.max(3, x(n.to) - x(n.from))}
                y={y - 5}
                height={10}
                fill="var(--kelp)"
                fillOpacity={0.5}
                stroke={n.line === line ? 'var(--teal)' : 'var(--ink)'}
              />
            ))}
            {a.zones.map((z, k) => (
              <g key={k} {...pick(z.line)}>
                <path
                  d={`M${x(z.from)} ${y - 10}V${y - 16}H${x(z.to)}V${y - 10}`}
                  fill="none"
                  stroke={z.line === line ? 'var(--teal)' : 'var(--mussel)'}
                  strokeWidth={2}
                />
                <text x={(x(z.from) + x(z.to)) / 2} y={y - 20} textAnchor="middle" fill="var(--mussel)">
                  {z.name}
                </text>
              </g>
            ))}
            {a.marks.map((m, k) => (
              <g key={m.name}>
                <line x1={x(m.at)} x2={x(m.at)} y1={y} y2={y + 10} stroke="var(--teal)" />
                <text x={x(m.at)} y={y + (k % 2 === 0 ? 36 : 22)} textAnchor="middle" fontSize={12} fill="var(--muted)">
                  {m.name}
                </text>
              </g>
            ))}
            {now !== null && now !== undefined && (
              <g>
                <path d={`M${x(now)} ${y - 2}l-7 -12h14z`} fill="var(--teal)" />
                <text x={width - 36} y={y + 4} fontSize={12} fill="var(--ink)" className="mono">
                  {show(now)}
                </text>
              </g>
            )}
          </g>
        )
      })}
    </svg>
  )
}

/** A belt with what lies on it, its sensors, its arm and its bins. */
export function Belt({ plan, run, t, width }: Props) {
  const belt = plan.belt!
  const at = run ? sampleAt(run, t) : 0
  const left = 60
  const scale = (width - left - 60) / (belt.lengthMm + 60)
  const x = (mm: number) => left + (mm + 60) * scale
  const things = run?.signals.bodies.filter((b) => b.kind === 'on belt') ?? []
  const bins = belt.bins.map((name) => ({ name, count: 0 }))
  let beside = 0
  // Bins come last among the places, in the order of the scene.
  const places = [...new Set(things.flatMap((b) => b.heading.filter((h): h is number => h !== null && h >= 0)))].sort((a, b) => a - b)
  for (const b of things) {
    const place = b.heading[at - (run!.signals.timeS.length - b.heading.length)] ?? -1
    const gone = b.x[at] === null && b.x.slice(0, at).some((v) => v !== null)
    if (place >= 0) {
      const bin = bins[places.indexOf(place)]
      if (bin) bin.count++
    } else if (gone) beside++
  }
  return (
    <svg
      width={width}
      height={210}
      role="img"
      aria-label={`A belt of ${show(belt.lengthMm)} mm. ${bins.map((b) => `${b.name}: ${b.count}`).join(', ')}.`}
    >
      <rect
        x={x(-60)}
        y={86}
        width={(belt.lengthMm + 60) * scale}
        height={34}
        rx={17}
        fill="var(--paper)"
        stroke="var(--ink)"
        strokeWidth={1.5}
      />
      {belt.sensors.map((s, i) => (
        <g key={s.name} fontSize={12}>
          <line x1={x(s.aheadMm)} x2={x(s.aheadMm)} y1={58 - (i % 2) * 18} y2={86} stroke="var(--teal)" strokeWidth={1.5} />
          <circle cx={x(s.aheadMm)} cy={86} r={3.5} fill="var(--teal)" />
          <text x={x(s.aheadMm)} y={52 - (i % 2) * 18} textAnchor="middle" fill="var(--ink)">
            {s.name}
          </text>
        </g>
      ))}
      {belt.armAtMm !== null && belt.armAtMm !== undefined && (
        <g fontSize={12}>
          <line x1={x(belt.armAtMm)} x2={x(belt.armAtMm) + 22} y1={80} y2={126} stroke="var(--ink)" strokeWidth={4} />
          <text x={x(belt.armAtMm) + 10} y={74} textAnchor="middle" fill="var(--muted)">
            {belt.arm}
          </text>
        </g>
      )}
      {things.map((b, i) => {
        const mm = b.x[at]
        if (mm === null || mm === undefined) return null
        return (
          <g key={i} fontSize={12}>
            <ellipse cx={x(mm)} cy={103} rx={Math.max(6, 15 * scale)} ry={9} fill="var(--line)" stroke="var(--edge)" />
            <text x={x(mm)} y={138} textAnchor="middle" fill="var(--muted)">
              {b.name}
            </text>
          </g>
        )
      })}
      {bins.map((b, i) => (
        <g key={b.name} fontSize={13}>
          <path d={`M${width - 60 - (bins.length - i) * 120} 158v34h96v-34`} fill="none" stroke="var(--ink)" strokeWidth={1.5} />
          <text x={width - 12 - (bins.length - i) * 120} y={180} textAnchor="middle" fill="var(--ink)">
            {b.name} <tspan className="mono">{b.count}</tspan>
          </text>
        </g>
      ))}
      {beside > 0 && (
        <text x={left} y={180} fontSize={13} fill="var(--kelp)">
          {beside} beside the bins
        </text>
      )}
    </svg>
  )
}

/** A tank with its water and probes. */
export function Tank({ plan, run, t, width }: Props) {
  const tank = plan.tank!
  const at = run ? sampleAt(run, t) : 0
  const level = run?.signals.bodies.find((b) => b.kind === 'water')?.x[at] ?? tank.startsAtMm
  const [top, high, wide] = [16, 190, Math.min(300, width * 0.4)]
  const y = (mm: number) => top + high - (mm / tank.highMm) * high
  const left = Math.max(120, width / 2 - wide / 2)
  return (
    <svg
      width={width}
      height={top + high + 16}
      role="img"
      aria-label={`${tank.name}: water ${show(level)} mm high of ${show(tank.highMm)} mm.`}
    >
      <rect x={left} y={y(level)} width={wide} height={top + high - y(level)} fill="var(--teal)" fillOpacity={0.25} />
      <path d={`M${left} ${top}V${top + high}H${left + wide}V${top}`} fill="none" stroke="var(--ink)" strokeWidth={2} />
      {tank.probes.map((p) => (
        <g key={p.name} fontSize={13}>
          <line x1={left - 8} x2={left + 14} y1={y(p.at)} y2={y(p.at)} stroke="var(--teal)" strokeWidth={2} />
          <text x={left - 14} y={y(p.at) + 4} textAnchor="end" fill="var(--ink)">
            {p.name}
          </text>
        </g>
      ))}
      <text x={left + wide + 12} y={y(level) + 4} fontSize={13} className="mono" fill="var(--ink)">
        {show(level, 3)} mm
      </text>
    </svg>
  )
}

/** What comes before sensors, by distance. */
export function Visitors({ plan, run, t, line, onLine, width }: Props) {
  const at = run ? sampleAt(run, t) : 0
  const tracks = run?.signals.bodies.filter((b) => b.kind === 'visitor') ?? []
  const reach = Math.max(200, ...tracks.flatMap((b) => b.x.filter((v): v is number => v !== null)))
  const left = 140
  const x = (mm: number) => left + (mm / reach) * (width - left - 40)
  const sensors = [...new Set(plan.visitors.map((v) => v.sensor))].filter((s) => s)
  const here = tracks.filter((b) => b.x[at] !== null && b.x[at] !== undefined)
  return (
    <svg
      width={width}
      height={sensors.length * 54 + 12}
      role="img"
      aria-label={
        here.length === 0 ? 'Nobody is there.' : here.map((b) => `${b.name.split(' ')[0]} ${show(b.x[at] ?? 0)} mm away`).join(', ')
      }
    >
      {sensors.map((s, i) => {
        const y = i * 54 + 34
        const own = plan.visitors.filter((v) => v.sensor === s)
        const there = tracks.filter((b) => own.some((v) => v.say === b.name))
        return (
          <g key={s} fontSize={13} onClick={() => onLine?.(own[0]?.line ?? null)} style={{ cursor: onLine ? 'pointer' : undefined }}>
            <text x={left - 14} y={y + 4} textAnchor="end" fill="var(--ink)">
              {s}
            </text>
            <line
              x1={left}
              x2={width - 40}
              y1={y}
              y2={y}
              stroke={own.some((v) => v.line === line) ? 'var(--teal)' : 'var(--line)'}
              strokeWidth={2}
            />
            <path d={`M${left} ${y - 9}V${y + 9}`} stroke="var(--ink)" strokeWidth={3} />
            {there.map((b, k) => {
              const mm = b.x[at]
              if (mm === null || mm === undefined) return null
              return (
                <g key={k}>
                  <rect x={x(mm)} y={y - 12} width={26} height={24} rx={4} fill="var(--paper)" stroke="var(--ink)" strokeWidth={1.6} />
                  <text x={x(mm) + 13} y={y - 16} textAnchor="middle" fill="var(--muted)">
                    {b.name.split(' ')[0]} {show(mm, 3)} mm
                  </text>
                </g>
              )
            })}
          </g>
        )
      })}
    </svg>
  )
}
