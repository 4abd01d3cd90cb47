import { useState } from 'react'
import Button from '@mui/material/Button'
import { sentencesOf, type Schemas } from '../../app/api'
import type { Design } from './useDesign'

const facing: Record<string, number> = { ahead: 0, right: 90, back: 180, left: -90 }

/** The outline of the body from above, to scale, with sensors, their beams, and tips. */
export function BodyPlan({
  design,
  notes,
  onSave,
}: {
  design: Design
  notes: Schemas['BodyNote'][]
  onSave: (d: Design) => Promise<unknown>
}) {
  const outline = design.outline ?? []
  const [text, setText] = useState(outline.map((c) => `${c.aheadMm}; ${c.rightMm}`).join('\n'))
  const [fault, setFault] = useState('')
  const sensors = design.sensors.filter((s) => s.mount?.aheadMm)
  const points = [
    ...outline,
    ...sensors.map((s) => ({ aheadMm: s.mount!.aheadMm!.value, rightMm: s.mount!.rightMm?.value ?? 0 })),
    { aheadMm: 0, rightMm: 0 },
  ]
  const reach = Math.max(60, ...points.map((p) => Math.max(Math.abs(p.aheadMm), Math.abs(p.rightMm)))) * 1.35
  const size = 300
  // Ahead is up, right is right.
  const at = (ahead: number, right: number): [number, number] => [
    size / 2 + (right / reach) * (size / 2),
    size / 2 - (ahead / reach) * (size / 2),
  ]
  const keep = async () => {
    const corners: Schemas['Corner'][] = []
    for (const [i, line] of text
      .split('\n')
      .map((l) => l.trim())
      .filter(Boolean)
      .entries()) {
      const [a, r] = line.split(/[;\t]/).map((c) => Number(c.trim().replace(',', '.')))
      if (a === undefined || r === undefined || Number.isNaN(a) || Number.isNaN(r)) {
        setFault(`Corner ${i + 1}: write how far ahead; how far to the right, such as “70; -65”.`)
        return
      }
      corners.push({ aheadMm: a, rightMm: r })
    }
    setFault('')
    await onSave({ ...design, outline: corners }).catch((e) => setFault(sentencesOf(e).join(' ')))
  }
  return (
    <section aria-label="Body" style={{ marginBottom: 20 }}>
      <h2 className="small-head">Body, seen from above</h2>
      <div className="row" style={{ alignItems: 'flex-start', gap: 24 }}>
        <svg
          className="scaled"
          width={size}
          height={size}
          viewBox={`0 0 ${size} ${size}`}
          role="img"
          aria-label={`Outline with ${outline.length} corners; ${sensors.map((s) => `${s.name} ${s.mount!.aheadMm!.value} mm ahead`).join(', ')}`}
          style={{ background: 'var(--paper)', border: '1px solid var(--line)', borderRadius: 8 }}
        >
          <line x1={size / 2} x2={size / 2} y1={8} y2={size - 8} stroke="var(--line)" strokeDasharray="2 4" />
          <line y1={size / 2} y2={size / 2} x1={8} x2={size - 8} stroke="var(--line)" strokeDasharray="2 4" />
          {outline.length > 2 && (
            <polygon
              points={outline.map((c) => at(c.aheadMm, c.rightMm).join(',')).join(' ')}
              fill="none"
              stroke="var(--ink)"
              strokeWidth={2}
            />
          )}
          {sensors.map((s) => {
            const [x, y] = at(s.mount!.aheadMm!.value, s.mount!.rightMm?.value ?? 0)
            const way = facing[s.mount!.facing ?? 'down']
            const half = s.beamHalfAngleDeg?.value ?? 0
            const ray = (deg: number) => {
              const r = (deg * Math.PI) / 180
              return `${x + Math.sin(r) * 90},${y - Math.cos(r) * 90}`
            }
            return (
              <g key={s.name}>
                {way !== undefined && s.kind === 'distance' && (
                  <polygon points={`${x},${y} ${ray(way - half)} ${ray(way + half)}`} fill="var(--mussel-wash)" stroke="var(--mussel)" />
                )}
                <circle cx={x} cy={y} r={4} fill="var(--teal)" />
                <text x={x + 7} y={y + 4} fontSize={12} fill="var(--ink)">
                  {s.name}
                </text>
              </g>
            )
          })}
          <path d={`M${size / 2 - 6} ${size / 2}h12M${size / 2} ${size / 2 - 6}v12`} stroke="var(--kelp)" strokeWidth={2} />
          <text x={8} y={size - 10} fontSize={12} fill="var(--muted)">
            {Math.round(reach)} mm to each side; cross: reference point
          </text>
        </svg>
        <div style={{ flex: '1 1 200px', minWidth: 0 }}>
          <label className="fine" style={{ display: 'block' }}>
            Corners, one a line: ahead; right, in mm
            <textarea
              className="mono figure"
              rows={Math.max(4, text.split('\n').length)}
              style={{ display: 'block', width: 200, marginTop: 4 }}
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
          </label>
          {fault && (
            <p className="fault" role="alert">
              {fault}
            </p>
          )}
          <Button sx={{ mt: 1 }} onClick={() => void keep()}>
            Keep the outline
          </Button>
          <ul style={{ paddingLeft: 18, margin: '10px 0 0' }}>
            {notes.map((n, i) => (
              <li key={i} className={n.attention ? 'risky' : ''} style={{ fontSize: 14 }}>
                {n.say}
              </li>
            ))}
          </ul>
        </div>
      </div>
    </section>
  )
}
