import { useEffect, useState } from 'react'
import { createPortal } from 'react-dom'
import Button from '@mui/material/Button'
import type { Plan } from '../../app/scenes'
import { show } from '../../shared/format'
import { ShapeView } from './Place'

/** What one sheet of A4 shows of the plan, mm of paper: what its margins and the line of words leave. */
const tileW = 180
const tileH = 256
/** Most sheets of one print. */
const most = 200
const scales = [1, 2, 5, 10, 20]

/** How large a plan is, mm: of a floor or deck all of it, of a rail its main line as a band. */
export function sizeOf(plan: Plan): { w: number; d: number } | null {
  if (plan.kind === 'floor' || plan.kind === 'deck') return { w: plan.w, d: plan.d }
  const main = plan.rails[0]
  return main ? { w: main.lengthMm, d: 120 } : null
}

/** Prints the plan to scale, on as many sheets of A4 as it takes. */
export function Tiles({ plan, name }: { plan: Plan; name: string }) {
  const size = sizeOf(plan)
  const [by, setBy] = useState<number | null>(null)
  const [printing, setPrinting] = useState(false)
  useEffect(() => {
    if (!printing) return
    const over = () => setPrinting(false)
    window.addEventListener('afterprint', over)
    window.print()
    return () => window.removeEventListener('afterprint', over)
  }, [printing])
  if (!size) return null
  const sheets = (s: number) => ({ across: Math.max(1, Math.ceil(size.w / s / tileW)), down: Math.max(1, Math.ceil(size.d / s / tileH)) })
  const offered = scales.filter((s) => sheets(s).across * sheets(s).down <= most)
  const scale =
    by !== null && offered.includes(by) ? by : (offered.find((s) => sheets(s).across * sheets(s).down <= 20) ?? offered.at(-1) ?? 20)
  const { across, down } = sheets(scale)
  const count = across * down
  return (
    <span className="tile-choice">
      <label>
        Scale{' '}
        <select value={scale} onChange={(e) => setBy(Number(e.target.value))} aria-label="Scale of the print">
          {offered.map((s) => (
            <option key={s} value={s}>
              1 to {s}
            </option>
          ))}
        </select>
      </label>
      <Button onClick={() => setPrinting(true)}>
        Print on {count} {count === 1 ? 'sheet' : 'sheets'} of A4
      </Button>
      {printing && createPortal(<Sheets plan={plan} name={name} size={size} scale={scale} across={across} down={down} />, document.body)}
    </span>
  )
}

type SheetsProps = { plan: Plan; name: string; size: { w: number; d: number }; scale: number; across: number; down: number }

function Sheets({ plan, name, size, scale, across, down }: SheetsProps) {
  const cells = Array.from({ length: across * down }, (_, i) => ({ column: i % across, row: Math.floor(i / across) }))
  return (
    <div className="tiles">
      <svg width={0} height={0} style={{ position: 'absolute' }} aria-hidden>
        <symbol id="whole-plan" overflow="visible">
          <Drawing plan={plan} size={size} />
        </symbol>
      </svg>
      {cells.map(({ column, row }) => (
        <div key={`${column} ${row}`} className="tile" data-testid="tile">
          <svg
            width={`${tileW}mm`}
            height={`${tileH}mm`}
            viewBox={`${column * tileW * scale} ${row * tileH * scale} ${tileW * scale} ${tileH * scale}`}
          >
            <use href="#whole-plan" />
            {/* Where the sheets are laid together. */}
            <rect
              x={column * tileW * scale}
              y={row * tileH * scale}
              width={tileW * scale}
              height={tileH * scale}
              fill="none"
              stroke="#777"
              strokeWidth={0.3 * scale}
              strokeDasharray={`${2 * scale} ${2 * scale}`}
            />
          </svg>
          <p>
            {name}, 1 to {scale}: sheet {column + 1} of {across} across, {row + 1} of {down} down. The frame is {tileW} by {tileH} mm,{' '}
            {show(tileW * scale, 5)} by {show(tileH * scale, 5)} mm of the plan; print without fitting it to the page.
          </p>
        </div>
      ))}
    </div>
  )
}

/** The plan in its own mm, y down from its upper edge. */
export function Drawing({ plan, size }: { plan: Plan; size: { w: number; d: number } }) {
  const sx = (x: number) => x
  const sy = (y: number) => size.d - y
  const rail = plan.kind !== 'floor' && plan.kind !== 'deck'
  return (
    <g>
      <rect x={0} y={0} width={size.w} height={size.d} fill="none" stroke="#000" strokeWidth={plan.kind === 'deck' ? 2 : 0.6} />
      {plan.shapes.map((s, i) => (
        <ShapeView key={i} s={s} sx={sx} sy={sy} scale={1} chosen={{}} run={false} left={s.x > plan.w * 0.82} />
      ))}
      {rail && <line x1={0} x2={size.w} y1={size.d / 2} y2={size.d / 2} stroke="#000" strokeWidth={1} />}
      {rail &&
        plan.markers
          .filter((m) => m.rail === '')
          .map((m) => (
            <g key={m.name}>
              <rect x={m.atMm} y={size.d / 2 - 16} width={m.lengthMm} height={32} fill="none" stroke="#000" strokeWidth={0.8} />
              <text x={m.atMm} y={size.d / 2 - 22} fontSize={8}>
                {m.name}, {show(m.lengthMm)} mm from {show(m.atMm, 5)} mm
              </text>
            </g>
          ))}
      {plan.bodies.map((b, i) => (
        <g key={i} transform={`translate(${sx(b.x)} ${sy(b.y)}) rotate(${b.heading})`} fill="none" stroke="#000" strokeWidth={0.8}>
          <path d={`M${b.outline.map((c) => `${c.y} ${-c.x}`).join('L')}Z`} strokeDasharray="4 3" />
          <path d="M0 8V-14M-4 -9L0 -14L4 -9M-8 0H8" />
        </g>
      ))}
    </g>
  )
}
