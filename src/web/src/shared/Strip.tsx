import { useMemo } from 'react'
import type { Run, Schemas } from '../app/api'
import { show } from './format'
import { useWidth } from './useWidth'

type Props = {
  run: Run
  at: number | null
  onAt?: (t: number | null) => void
  state?: string | null
  eventIndex?: number | null
  /** All regions, sensors, bodies, messages and disturbances, instead of the first of each. */
  whole?: boolean
  /** How far another strip goes that stands below on the same time line, s. */
  until?: number
}

type Trace = Schemas['SensorTrace']
type Row =
  | { kind: 'states'; label: string; top: number; stretches: Schemas['StateStretch'][] }
  | { kind: 'trace'; label: string; top: number; height: number; path: string; marks: { y: number; words: string }[]; words: string }
  | { kind: 'marks'; label: string; top: number; marks: { from: number; to: number; words: string }[] }

const left = 116
const right = 104

/** States and signals of a run over one time line. */
export function Strip({ run, at, onAt, state, eventIndex, whole = false, until = 0 }: Props) {
  const { ref, width } = useWidth<HTMLDivElement>()
  const report = run.report
  const end = Math.max(report.endS, until, 0.1)
  const x = (t: number) => left + (Math.min(t, end) / end) * (width - left - right)
  const { rows, height } = useMemo(() => {
    const rows: Row[] = []
    let top = 8
    const px = (t: number) => left + (Math.min(t, end) / end) * (width - left - right)
    for (const r of whole ? report.states.slice(0, 6) : report.states.slice(0, 1)) {
      const several = new Set(report.states.map((s) => s.program)).size > 1
      rows.push({ kind: 'states', label: several ? r.program : r.region || r.program, top, stretches: r.stretches })
      top += 30
    }
    const sensors = report.sensors.filter((s) => s.readings.length > 0)
    for (const s of whole ? sensors.slice(0, 6) : sensors.slice(0, 1)) {
      const tall = whole ? 40 : 56
      rows.push(traced(s, top + 6, tall, px))
      top += tall + 12
    }
    const moving = run.signals.bodies.filter((b) => ['drive', 'vehicle', 'axis'].includes(b.kind) && b.speed.some((v) => Math.abs(v) > 0.5))
    for (const b of whole ? moving.slice(0, 4) : moving.slice(0, 1)) {
      const most = b.speed.reduce((m, v) => Math.max(m, Math.abs(v)), 10)
      const low = b.speed.some((v) => v < -0.5) ? -most : 0
      const y = (v: number) => top + 32 - ((v - low) / (most - low)) * 28
      const path = run.signals.timeS.map((t, i) => `${i === 0 ? 'M' : 'L'}${px(t).toFixed(1)} ${y(b.speed[i] ?? 0).toFixed(1)}`).join('')
      rows.push({
        kind: 'trace',
        label: whole ? b.name : 'Speed',
        top,
        height: 32,
        path,
        marks: [],
        words: `${show(most)} ${b.kind === 'axis' ? 'deg/s' : 'mm/s'}`,
      })
      top += 40
    }
    if (whole && report.messages.length > 0) {
      rows.push({
        kind: 'marks',
        label: 'Messages',
        top,
        marks: report.messages.slice(0, 200).map((m) => ({ from: m.timeS, to: m.timeS, words: `${m.from} tells ${m.to} “${m.text}”` })),
      })
      top += 26
    }
    if (whole && report.happenings.length > 0) {
      const shown = report.happenings.filter((h) => !(h.fromS === 0 && h.toS === null)).slice(0, 60)
      if (shown.length > 0) {
        rows.push({
          kind: 'marks',
          label: 'Scene',
          top,
          marks: shown.map((h) => ({ from: h.fromS, to: h.toS ?? end, words: h.say })),
        })
        top += 34
      }
    }
    return { rows, height: top + 28 }
  }, [report, width, end, whole])
  const step: number = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 60].find((s) => end / s <= 10) ?? 100
  const ticks: number[] = Array.from({ length: Math.floor(end / step) + 1 }, (_, i) => i * step)
  const event = eventIndex === null || eventIndex === undefined ? undefined : run.events[eventIndex]
  const base = height - 28
  const moment = event?.timeS ?? at

  return (
    <div ref={ref} className="wide" tabIndex={0} role="group" aria-label={`Strip of run ${run.number}: ${report.say}`}>
      <svg
        width={width}
        height={height}
        role="img"
        aria-label={`States: ${report.states
          .slice(0, whole ? 6 : 1)
          .flatMap((r) => r.stretches.slice(0, 40).map((s) => `${s.state} ${show(s.fromS)} to ${show(s.toS)} s`))
          .join(', ')}`}
        onPointerMove={(e) => {
          if (!onAt) return
          const box = e.currentTarget.getBoundingClientRect()
          const t = ((e.clientX - box.left - left) / (width - left - right)) * end
          onAt(t >= 0 && t <= end ? t : null)
        }}
        onPointerLeave={() => onAt?.(null)}
      >
        {rows.map((r, i) => (
          <RowView key={i} row={r} x={x} width={width} state={state ?? null} />
        ))}
        {run.events
          .filter((e) => e.warning)
          .map((e, i) => (
            <path key={i} d={`M${x(e.timeS)} ${base - 10} l-4 7 h8 z`} fill="var(--kelp)" />
          ))}
        <line x1={left} x2={width - right} y1={base} y2={base} stroke="var(--edge)" />
        <g fontSize={12} fill="var(--muted)">
          {ticks.map((t) => (
            <text key={t} x={x(t)} y={base + 17} textAnchor="middle">
              {show(t)}
              {t === 0 ? ' s' : ''}
            </text>
          ))}
        </g>
        {report.failure && (
          <line x1={x(report.failure.atS)} x2={x(report.failure.atS)} y1={4} y2={base} stroke="var(--red)" strokeWidth={1.4} />
        )}
        {moment !== null && <line x1={x(moment)} x2={x(moment)} y1={4} y2={base} stroke="var(--kelp)" strokeWidth={1.5} />}
      </svg>
    </div>
  )
}

function traced(s: Trace, top: number, height: number, x: (t: number) => number): Row {
  const read = s.readings.filter((r): r is number => r !== null)
  const [lowest, highest] = [read.reduce((m, v) => Math.min(m, v), Infinity), read.reduce((m, v) => Math.max(m, v), -Infinity)]
  const span = Math.max(1, highest - lowest)
  const y = (v: number) => top + height - ((v - lowest) / span) * height
  // Readings are held until the next one; gaps where the sensor gave none.
  let path = ''
  let down = false
  s.timeS.forEach((t, i) => {
    const v = s.readings[i]
    if (v === null || v === undefined) {
      down = false
      return
    }
    path += down ? `H${x(t).toFixed(1)}V${y(v).toFixed(1)}` : `M${x(t).toFixed(1)} ${y(v).toFixed(1)}`
    down = true
  })
  const bounds = s.boundaries as { threshold: number; hysteresis: number }[]
  const marks = bounds
    .map((b, i) => ({ y: y(b.threshold), words: `${s.zones[i + 1] ?? ''} ${show(b.threshold)}` }))
    .filter((m) => m.y >= top - 2 && m.y <= top + height + 2)
    .slice(0, 2)
  return { kind: 'trace', label: s.sensor, top, height, path, marks, words: '' }
}

function RowView({ row, x, width, state }: { row: Row; x: (t: number) => number; width: number; state: string | null }) {
  const label = (y: number) => (
    <text x={left - 12} y={y} fontSize={13} fill="var(--muted)" textAnchor="end">
      {row.label.length > 15 ? `${row.label.slice(0, 14)}…` : row.label}
    </text>
  )
  if (row.kind === 'states')
    return (
      <g>
        {label(row.top + 20)}
        {row.stretches.map((s, i) => {
          const [a, b] = [x(s.fromS) + 1, Math.max(x(s.fromS) + 2, x(s.toS) - 1)]
          const chosen = s.state === state
          const wide = b - a > s.state.length * 7.2 + 10
          return (
            <g key={i}>
              <path
                d={`M${a} ${row.top + 14}V${row.top + 5}H${b}V${row.top + 14}`}
                fill="none"
                stroke={chosen ? 'var(--teal)' : 'var(--mussel)'}
                strokeWidth={chosen ? 3 : 2}
              />
              {wide && (
                <text x={a + 6} y={row.top + 22} fontSize={13.5} fontWeight={chosen ? 650 : 500} fill="var(--ink)">
                  {s.state}
                </text>
              )}
            </g>
          )
        })}
      </g>
    )
  if (row.kind === 'marks')
    return (
      <g>
        {label(row.top + 16)}
        {row.marks.map((m, i) => {
          const [a, b] = [x(m.from), Math.max(x(m.from) + 3, x(m.to))]
          return (
            <g key={i}>
              <title>{m.words}</title>
              <path d={`M${a} ${row.top + 14}V${row.top + 6}H${b}V${row.top + 14}`} fill="none" stroke="var(--kelp)" strokeWidth={2} />
              {b - a > m.words.length * 6.4 + 8 && (
                <text x={a + 5} y={row.top + 22} fontSize={12} fill="var(--kelp)">
                  {m.words}
                </text>
              )}
            </g>
          )
        })}
      </g>
    )
  return (
    <g>
      {label(row.top + row.height / 2 + 4)}
      {row.marks.map((m, i) => (
        <g key={i}>
          <line x1={left} x2={width - right} y1={m.y} y2={m.y} stroke="var(--mussel)" strokeDasharray="2 4" />
          <text x={width - right + 8} y={m.y + 4} fontSize={12} fill="var(--mussel)">
            {m.words}
          </text>
        </g>
      ))}
      {row.words && (
        <text x={width - right + 8} y={row.top + 12} fontSize={12} fill="var(--muted)">
          {row.words}
        </text>
      )}
      <path d={row.path} fill="none" stroke="var(--ink)" strokeWidth={1.3} />
    </g>
  )
}
