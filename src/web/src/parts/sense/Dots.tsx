import { useEffect, useMemo, useRef, useState } from 'react'
import Button from '@mui/material/Button'
import type { Sense } from '../../app/api'
import { carried, show } from '../../shared/format'
import { useWidth } from '../../shared/useWidth'

type Props = { sense: Sense; live: number | null; fresh: { zone: string; readings: number[] } | null }
type Edge = { at: number; half: number; headline: string }

const rowHeight = 62
const left = 150
const right = 190
const top = 58

/**
 * Readings as rows of dots, thresholds as bands, zones as brackets on the axis, the live reading as a pointer. The axis is
 * moved by dragging or with the arrow keys, and stretched with plus and minus; dots are drawn on a canvas so that this
 * stays smooth with many thousands.
 */
/** Where labels over marks are put so that none stands on another: above its mark, else to the left or to the right of it. */
export function besides(marks: { at: number; width: number; shown: boolean }[]) {
  const order = marks.map((_, i) => i).sort((a, b) => marks[a]!.at - marks[b]!.at)
  const placed: { x: number; anchor: 'start' | 'middle' | 'end' }[] = marks.map((m) => ({ x: m.at, anchor: 'middle' }))
  const seen = order.filter((i) => marks[i]!.shown)
  let free = -Infinity
  seen.forEach((i, k) => {
    const { at, width } = marks[i]!
    const next = seen[k + 1]
    const closes = next !== undefined && at + width / 2 > marks[next]!.at - marks[next]!.width / 2 - 6
    if (at - width / 2 < free) placed[i] = { x: at + 4, anchor: 'start' }
    else if (closes && at - width - 4 >= Math.max(0, free)) placed[i] = { x: at - 4, anchor: 'end' }
    const end = placed[i]!.anchor === 'start' ? at + 4 + width : placed[i]!.anchor === 'end' ? at - 4 : at + width / 2
    free = end + 6
  })
  return placed
}

export function Dots({ sense, live, fresh }: Props) {
  const { ref, width } = useWidth<HTMLDivElement>(1040, 620)
  const zones = useMemo(() => [...sense.zones].sort((a, b) => (a.figures?.mean ?? 1e9) - (b.figures?.mean ?? 1e9)), [sense.zones])
  const bands = sense.bands && sense.bands.bands.length > 0 ? sense.bands : null
  const edges: Edge[] = bands
    ? bands.boundaries.map((b) => ({
        at: b.thresholdMm,
        half: b.hysteresisMm,
        headline: b.readingsNeeded && b.readingsNeeded > 1 ? `${b.grade}, ${b.readingsNeeded} in a row` : b.grade,
      }))
    : sense.pairs.map((p) => ({ at: p.sum.result.threshold, half: p.sum.result.hysteresis, headline: p.headline }))
  const whole = useMemo(() => {
    let [least, most] = [Infinity, -Infinity]
    for (const z of zones)
      for (const r of z.readings) {
        if (r < least) least = r
        if (r > most) most = r
      }
    for (const b of bands?.bands ?? []) {
      least = Math.min(least, b.fromMm)
      most = Math.max(most, Math.min(b.toMm, (most > 0 ? most : b.fromMm) * 1.3 + 50))
    }
    if (least > most) return [sense.low, sense.high] as const
    const pad = Math.max((most - least) * 0.06, sense.resolution * 2, 0.5)
    return [Math.max(sense.low, least - pad), Math.min(sense.high, most + pad)] as const
  }, [zones, bands, sense.low, sense.high, sense.resolution])
  const [view, setView] = useState<readonly [number, number] | null>(null)
  const [low, high] = view ?? whole
  const span = high - low || 1
  const plot = width - left - right
  const x = (v: number) => left + ((v - low) / span) * plot
  const bottom = top + zones.length * rowHeight
  const axis = bottom + 52
  const step = niceStep(span)
  const ticks = Array.from({ length: Math.floor(high / step) - Math.ceil(low / step) + 1 }, (_, i) => (Math.ceil(low / step) + i) * step)
  const canvas = useRef<HTMLCanvasElement>(null)
  const drag = useRef<{ x: number; low: number; high: number } | null>(null)
  const move = (by: number) => setView([low + by, high + by])
  const stretch = (factor: number) => {
    const middle = (low + high) / 2
    setView([middle - (span * factor) / 2, middle + (span * factor) / 2])
  }
  const fit = (v: number) => v >= left - 4 && v <= width - right + 4
  // Each label over its threshold, or beside it where two stand close together.
  const letters = edges.length > 2 ? 12 : 14
  const figures = (r: Edge) => `${show(r.at)}, ${show(r.half, 2)} each side`
  const labels = besides(
    edges.map((r) => ({ at: x(r.at), width: Math.max(figures(r).length * 0.61, r.headline.length * 0.56) * letters, shown: fit(x(r.at)) })),
  )

  useEffect(() => {
    const element = canvas.current
    const context = element?.getContext('2d')
    if (!element || !context) return
    const scale = window.devicePixelRatio || 1
    element.width = width * scale
    element.height = (bottom + 4) * scale
    context.scale(scale, scale)
    context.clearRect(0, 0, width, bottom + 4)
    const style = getComputedStyle(document.documentElement)
    const [ink, kelp] = [style.getPropertyValue('--ink').trim(), style.getPropertyValue('--kelp').trim()]
    zones.forEach((z, i) => {
      const y = top + (i + 1) * rowHeight - 10
      const shown = fresh?.zone === z.zone ? [...z.readings, ...fresh.readings] : z.readings
      const aside = new Set(z.setAside.map((a) => a.value))
      const outliers = new Set(z.figures?.outliers ?? [])
      const every = Math.max(1, Math.ceil(shown.length / 4000))
      context.strokeStyle = ink
      for (let k = 0; k < shown.length; k += every) {
        const v = shown[k]!
        const at = left + ((v - low) / span) * plot
        if (at < left - 6 || at > width - right + 6) continue
        context.beginPath()
        context.arc(at, y - jitter(k), 3.6, 0, 6.2832)
        if (aside.has(v)) {
          context.setLineDash([2, 2])
          context.lineWidth = 1.2
          context.globalAlpha = 0.9
          context.stroke()
          context.setLineDash([])
          continue
        }
        context.globalAlpha = shown.length > 800 ? 0.25 : 0.55
        context.fillStyle = ink
        context.fill()
        if (outliers.has(v)) {
          context.globalAlpha = 1
          context.beginPath()
          context.arc(at, y - jitter(k), 7, 0, 6.2832)
          context.strokeStyle = kelp
          context.lineWidth = 1.6
          context.stroke()
          context.strokeStyle = ink
        }
      }
      context.globalAlpha = 1
    })
  }, [zones, fresh, low, span, plot, width, bottom])

  return (
    <div>
      <div
        ref={ref}
        className="wide dots"
        tabIndex={0}
        role="group"
        data-testid="dots"
        aria-label="Readings and thresholds. Arrow keys move the axis, plus and minus stretch it, Home shows the whole."
        style={{ position: 'relative', touchAction: 'pan-y' }}
        onKeyDown={(e) => {
          if (e.key === 'ArrowLeft') {
            e.preventDefault()
            move(-span / 12)
          }
          if (e.key === 'ArrowRight') {
            e.preventDefault()
            move(span / 12)
          }
          if (e.key === '+' || e.key === '=') stretch(0.8)
          if (e.key === '-') stretch(1.25)
          if (e.key === 'Home') {
            e.preventDefault()
            setView(null)
          }
        }}
        onPointerDown={(e) => {
          drag.current = { x: e.clientX, low, high }
          e.currentTarget.setPointerCapture(e.pointerId)
        }}
        onPointerMove={(e) => {
          const d = drag.current
          if (d && Math.abs(e.clientX - d.x) > 2) {
            const by = ((d.x - e.clientX) / plot) * (d.high - d.low)
            setView([d.low + by, d.high + by])
          }
        }}
        onPointerUp={() => {
          drag.current = null
        }}
      >
        <canvas
          ref={canvas}
          style={{ position: 'absolute', left: 0, top: 0, width, height: bottom + 4, pointerEvents: 'none' }}
          aria-hidden="true"
        />
        <svg
          width={width}
          height={axis + 30}
          role="img"
          aria-label={describe(sense)}
          style={{ position: 'relative', cursor: 'grab', display: 'block' }}
        >
          {sense.view === 'bands' && sense.blindMm > low && (
            <g>
              <rect
                x={Math.max(left, x(Math.max(low, 0)))}
                width={Math.max(0, Math.min(x(sense.blindMm), width - right) - Math.max(left, x(Math.max(low, 0))))}
                y={top}
                height={bottom - top}
                fill="var(--line)"
                fillOpacity={0.55}
              />
              <text x={x(sense.blindMm) - 3} y={bottom + 12} fontSize={12} fill="var(--muted)" textAnchor="end">
                blind{sense.silent === 0 ? ', or nothing heard' : ''}
              </text>
            </g>
          )}
          {edges.map(
            (r, i) =>
              fit(x(r.at)) && (
                <g key={i}>
                  <rect
                    x={x(r.at - r.half)}
                    width={Math.max(1, x(r.at + r.half) - x(r.at - r.half))}
                    y={top}
                    height={bottom - top}
                    fill="var(--mussel-wash)"
                    fillOpacity={0.7}
                    stroke="var(--mussel)"
                  />
                  <line x1={x(r.at)} x2={x(r.at)} y1={top - 6} y2={bottom} stroke="var(--mussel)" strokeWidth={2.5} />
                  <text x={labels[i]!.x} y={22} fontSize={letters} fontWeight={650} fill="var(--ink)" textAnchor={labels[i]!.anchor}>
                    {r.headline}
                  </text>
                  <text
                    x={labels[i]!.x}
                    y={42}
                    fontSize={letters}
                    fill="var(--mussel)"
                    textAnchor={labels[i]!.anchor}
                    style={{ fontFamily: 'var(--mono)' }}
                  >
                    {figures(r)}
                  </text>
                </g>
              ),
          )}
          {(bands?.stretches ?? [])
            .filter((s) => s.kind === 'gap' || s.kind === 'overlap')
            .map(
              (s, i) =>
                fit(x(s.fromMm)) && (
                  <g key={`s${i}`}>
                    <line
                      x1={x(s.fromMm)}
                      x2={x(s.toMm)}
                      y1={bottom + 10}
                      y2={bottom + 10}
                      stroke="var(--kelp)"
                      strokeWidth={3}
                      strokeDasharray={s.kind === 'gap' ? '3 3' : undefined}
                    />
                  </g>
                ),
            )}
          {zones.map((z, i) => {
            const y = top + i * rowHeight
            const count = z.readings.length + (fresh?.zone === z.zone ? fresh.readings.length : 0)
            return (
              <g key={z.zone}>
                <line x1={left - 20} x2={width - right + 10} y1={y + rowHeight} y2={y + rowHeight} stroke="var(--line)" />
                <text x={0} y={y + 32} fontSize={16} fontWeight={650} fill="var(--ink)">
                  {z.zone}
                </text>
                <text x={0} y={y + 51} fontSize={13} fill="var(--muted)">
                  {count} {count === 1 ? 'reading' : 'readings'}
                </text>
                {sense.notes
                  .filter((n) => n.zone === z.zone && n.kind !== 'extremes')
                  .slice(0, 1)
                  .map((n) => (
                    <text key={n.kind} x={left - 24} y={y + 51} fontSize={12} fill="var(--kelp)" textAnchor="start">
                      {n.short}
                    </text>
                  ))}
                {z.figures && (
                  <g>
                    <text x={width - right + 24} y={y + 36} fontSize={14} fill="var(--ink)" style={{ fontFamily: 'var(--mono)' }}>
                      {carried(z.figures.mean, z.figures.sd).value} ± {carried(z.figures.mean, z.figures.sd).within ?? 0}
                    </text>
                    <text x={width - right + 24} y={y + 54} fontSize={13} fill="var(--muted)">
                      {show(z.figures.min)} to {show(z.figures.max)}
                    </text>
                  </g>
                )}
              </g>
            )
          })}
          {sense.notes
            .filter((n) => n.kind === 'extremes')
            .map((n) => {
              const [a, b] = [zones.find((z) => z.zone === n.zone)?.figures?.max, zones.find((z) => z.zone === n.other)?.figures?.min]
              return (
                a !== undefined &&
                b !== undefined && (
                  <g key={n.zone}>
                    <line
                      x1={Math.max(left, x(a)) + 8}
                      x2={Math.min(width - right, x(b)) - 8}
                      y1={bottom - 4}
                      y2={bottom - 4}
                      stroke="var(--kelp)"
                      strokeWidth={2}
                      strokeDasharray="3 5"
                    />
                    <text x={(x(a) + x(b)) / 2} y={bottom + 12} fontSize={12} fill="var(--kelp)" textAnchor="middle">
                      {n.short}
                    </text>
                  </g>
                )
              )
            })}
          {brackets(sense, zones, edges, low, high).map((b) => {
            const [a, c] = [Math.max(left, x(b.from)) + 3, Math.min(width - right, x(b.to)) - 3]
            return (
              c > a && (
                <g key={b.zone}>
                  <path d={`M${a} ${bottom + 28}V${bottom + 18}H${c}V${bottom + 28}`} fill="none" stroke="var(--mussel)" strokeWidth={2} />
                  {c - a > b.zone.length * 6 && (
                    <text x={(a + c) / 2} y={bottom + 38} fontSize={14} fontWeight={600} fill="var(--ink)" textAnchor="middle">
                      {b.zone}
                    </text>
                  )}
                </g>
              )
            )
          })}
          <line x1={left} x2={width - right} y1={axis} y2={axis} stroke="var(--edge)" />
          <g fontSize={13} fill="var(--muted)" textAnchor="middle">
            {ticks.map((t, i) => (
              <text key={t} x={x(t)} y={axis + 18}>
                {show(t, 4)}
                {i === 0 && sense.unit ? ` ${sense.unit}` : ''}
              </text>
            ))}
          </g>
          {live !== null && fit(x(live)) && <path d={`M${x(live)} ${axis} l-7 11 h14 z`} fill="var(--teal)" />}
        </svg>
      </div>
      <div className="row no-print" style={{ gap: 6 }}>
        <Button variant="text" onClick={() => stretch(0.8)} aria-label="Stretch the axis">
          +
        </Button>
        <Button variant="text" onClick={() => stretch(1.25)} aria-label="Shrink the axis">
          −
        </Button>
        {view && (
          <Button variant="text" onClick={() => setView(null)}>
            Show the whole
          </Button>
        )}
        <span className="fine muted">Drag to move along the axis.</span>
      </div>
    </div>
  )
}

// Where each zone lies on the axis: its band, or what the thresholds leave it.
function brackets(
  sense: Sense,
  zones: Sense['zones'],
  edges: Edge[],
  low: number,
  high: number,
): { zone: string; from: number; to: number }[] {
  if (sense.bands && sense.bands.bands.length > 0) return sense.bands.bands.map((b) => ({ zone: b.zone, from: b.fromMm, to: b.toMm }))
  const ready = zones.filter((z) => z.figures)
  const all = [low, ...edges.map((e) => e.at), high]
  return ready.map((z, i) => ({ zone: z.zone, from: all[i] ?? low, to: all[i + 1] ?? high }))
}

function niceStep(span: number) {
  const raw = span / 9
  const power = Math.pow(10, Math.floor(Math.log10(raw)))
  return ([1, 2, 5, 10].find((m) => m * power >= raw) ?? 10) * power
}

// A fixed, even scatter, so that equal readings lie beside each other and dots stay where they are.
const jitter = (k: number) => ((k * 0.618034) % 1) * 34

const describe = (sense: Sense) =>
  sense.zones
    .map((z) =>
      z.figures
        ? `${z.zone}: ${z.figures.count} readings, mean ${show(z.figures.mean)} ${sense.unit}`
        : `${z.zone}: ${z.readings.length} readings`,
    )
    .join('; ') +
  sense.pairs
    .map((p) => `; threshold between ${p.lower} and ${p.upper} at ${show(p.sum.result.threshold)} ${sense.unit}, ${p.headline}`)
    .join('') +
  (sense.bands?.boundaries ?? []).map((b) => `; ${b.nearer} ends and ${b.farther} begins at ${show(b.thresholdMm)} mm, ${b.grade}`).join('')
