import { useMemo } from 'react'
import type { Run } from '../app/api'
import { show } from './format'
import { useWidth } from './useWidth'

type Props = { run: Run; at: number | null; onAt?: (t: number | null) => void; state?: string | null; eventIndex?: number | null }

const left = 116
const right = 104

/** States and signals of a run over one time line. */
export function Strip({ run, at, onAt, state, eventIndex }: Props) {
  const { ref, width } = useWidth<HTMLDivElement>()
  const report = run.report
  const end = Math.max(report.endS, 0.1)
  const x = (t: number) => left + (t / end) * (width - left - right)
  const sensor = report.sensors[0]
  const read = sensor ? sensor.readings.filter((r): r is number => r !== null) : []
  const [lowest, highest] = [read.reduce((m, v) => Math.min(m, v), 100), read.reduce((m, v) => Math.max(m, v), 1)]
  const sensorY = (v: number) => 102 - ((v - lowest) / Math.max(1, highest - lowest)) * 52
  const speedMax = run.signals.speedMmPerS.reduce((m, v) => Math.max(m, Math.abs(v)), 50)
  const speedY = (v: number) => 146 - (v / speedMax) * 28
  const trace = useMemo(() => {
    if (!sensor) return ''
    // Readings are held until the next one; gaps where the sensor gave none.
    let path = ''
    let down = false
    sensor.timeS.forEach((t, i) => {
      const v = sensor.readings[i]
      if (v === null || v === undefined) {
        down = false
        return
      }
      path += down ? `H${x(t).toFixed(1)}V${sensorY(v).toFixed(1)}` : `M${x(t).toFixed(1)} ${sensorY(v).toFixed(1)}`
      down = true
    })
    return path
    // eslint-disable-next-line
  }, [sensor, width, end])
  const speed = useMemo(
    () =>
      run.signals.timeS
        .map((t, i) => `${i === 0 ? 'M' : 'L'}${x(t).toFixed(1)} ${speedY(run.signals.speedMmPerS[i] ?? 0).toFixed(1)}`)
        .join(''),
    // eslint-disable-next-line
    [report, width],
  )
  const step: number = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 60].find((s) => end / s <= 10) ?? 100
  const ticks: number[] = Array.from({ length: Math.floor(end / step) + 1 }, (_, i) => i * step)
  const event = eventIndex === null || eventIndex === undefined ? undefined : run.events[eventIndex]
  const boundary = sensor?.boundaries[0] as { threshold: number; hysteresis: number } | undefined

  return (
    <div ref={ref} className="wide" tabIndex={0} role="group" aria-label={`Strip of run ${run.number}: ${report.say}`}>
      <svg
        width={width}
        height={182}
        role="img"
        aria-label={`States: ${report.states.map((s) => `${s.state} ${show(s.fromS)} to ${show(s.toS)} s`).join(', ')}`}
        onPointerMove={(e) => {
          if (!onAt) return
          const box = e.currentTarget.getBoundingClientRect()
          const t = ((e.clientX - box.left - left) / (width - left - right)) * end
          onAt(t >= 0 && t <= end ? t : null)
        }}
        onPointerLeave={() => onAt?.(null)}
      >
        <g fontSize={13} fill="var(--muted)" textAnchor="end">
          <text x={left - 12} y={28}>
            Main
          </text>
          {sensor && (
            <text x={left - 12} y={80}>
              {sensor.sensor}
            </text>
          )}
          <text x={left - 12} y={140}>
            Speed
          </text>
        </g>
        {report.states.map((s, i) => {
          const [a, b] = [x(s.fromS) + 1, Math.max(x(s.fromS) + 2, x(s.toS) - 1)]
          const chosen = s.state === state
          const wide = b - a > s.state.length * 7.2 + 10
          return (
            <g key={i}>
              <path d={`M${a} 22V13H${b}V22`} fill="none" stroke={chosen ? 'var(--teal)' : 'var(--mussel)'} strokeWidth={chosen ? 3 : 2} />
              {wide && (
                <text x={a + 6} y={30} fontSize={13.5} fontWeight={chosen ? 650 : 500} fill="var(--ink)">
                  {s.state}
                </text>
              )}
            </g>
          )
        })}
        {boundary && (
          <g>
            <line
              x1={left}
              x2={width - right}
              y1={sensorY(boundary.threshold)}
              y2={sensorY(boundary.threshold)}
              stroke="var(--mussel)"
              strokeDasharray="2 4"
            />
            <text x={width - right + 8} y={sensorY(boundary.threshold) + 4} fontSize={13} fill="var(--mussel)">
              {sensor?.zones[1]} {show(boundary.threshold)} %
            </text>
          </g>
        )}
        <path d={trace} fill="none" stroke="var(--ink)" strokeWidth={1.3} />
        <path d={speed} fill="none" stroke="var(--ink)" strokeWidth={1.6} />
        <text x={width - right + 8} y={speedY(speedMax) + 8} fontSize={13} fill="var(--muted)">
          {show(speedMax)} mm/s
        </text>
        {run.events
          .filter((e) => e.warning)
          .map((e, i) => (
            <path key={i} d={`M${x(e.timeS)} 108 l-4 7 h8 z`} fill="var(--kelp)" />
          ))}
        <line x1={left} x2={width - right} y1={156} y2={156} stroke="var(--edge)" />
        <g fontSize={12} fill="var(--muted)">
          {ticks.map((t) => (
            <text key={t} x={x(t)} y={173} textAnchor="middle">
              {show(t)}
              {t === 0 ? ' s' : ''}
            </text>
          ))}
        </g>
        {(event ?? at) !== null && (event || at !== null) && (
          <g>
            <line x1={x(event?.timeS ?? at ?? 0)} x2={x(event?.timeS ?? at ?? 0)} y1={8} y2={156} stroke="var(--kelp)" strokeWidth={1.5} />
            {event && <circle cx={x(event.timeS)} cy={sensor ? sensorY(valueAt(sensor, event.timeS)) : 60} r={4.5} fill="var(--kelp)" />}
          </g>
        )}
      </svg>
    </div>
  )
}

function valueAt(sensor: { timeS: number[]; readings: (number | null)[] }, t: number): number {
  let value = 0
  for (let i = 0; i < sensor.timeS.length; i++) {
    if ((sensor.timeS[i] ?? 0) > t + 1e-9) break
    value = sensor.readings[i] ?? value
  }
  return value
}
