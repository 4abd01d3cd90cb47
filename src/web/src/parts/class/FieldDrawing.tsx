import type { Plan } from '../../app/scenes'
import { show } from '../../shared/format'
import { Drawing, sizeOf } from '../simulate/Tiles'

const scales = [2, 5, 10, 20, 50, 100]

/** A challenge's field, black on white and to scale: with a ruler along two edges, to lay it out by. */
export function FieldDrawing({ plan, name, width = 165 }: { plan: Plan; name: string; width?: number }) {
  const size = sizeOf(plan)
  if (!size || size.w <= 0) return null
  const margin = 0.05 * Math.max(size.w, size.d)
  const scale = scales.find((s) => (size.w + 2 * margin) / s <= width && (size.d + 2 * margin) / s <= 150) ?? 200
  const step = [50, 100, 200, 500, 1000].find((s) => size.w / s <= 14) ?? 2000
  const tick = 0.4 * margin
  const font = 2.6 * scale
  const marks = (length: number) => Array.from({ length: Math.floor(length / step) + 1 }, (_, i) => i * step)
  return (
    <figure className="field-plan">
      <svg
        role="img"
        aria-label={`The field of ${name}, ${show(size.w)} by ${show(size.d)} mm`}
        width={`${(size.w + 2 * margin) / scale}mm`}
        height={`${(size.d + 2 * margin + font) / scale}mm`}
        viewBox={`${-margin} ${-margin} ${size.w + 2 * margin} ${size.d + 2 * margin + font}`}
      >
        <Drawing plan={plan} size={size} />
        {plan.bodies.map((b, i) => (
          <text key={i} x={b.x} y={size.d - b.y + 0.5 * font + 0.6 * margin} textAnchor="middle" fontSize={font} fontFamily="inherit">
            {plan.bodies.length > 1 ? `lane ${i + 1}` : b.name}
          </text>
        ))}
        {/* How far it is from the lower left corner. */}
        <g stroke="#000" strokeWidth={0.15 * scale} fontSize={font} fontFamily="inherit">
          {marks(size.w).map((x) => (
            <g key={`x${x}`}>
              <line x1={x} x2={x} y1={size.d} y2={size.d + tick} />
              <text x={x} y={size.d + tick + font} textAnchor="middle" stroke="none" fill="#000">
                {x}
              </text>
            </g>
          ))}
          {marks(size.d).map((y) => (
            <g key={`y${y}`}>
              <line x1={-tick} x2={0} y1={size.d - y} y2={size.d - y} />
            </g>
          ))}
        </g>
      </svg>
      <figcaption className="fine">
        1 to {scale}; {show(size.w)} by {show(size.d)} mm. A tick is {step} mm. Print without fitting it to the page.
      </figcaption>
    </figure>
  )
}

/** What a field is built from. */
export function FieldList({ parts }: { parts: { count: number; what: string; size: string; where: string }[] }) {
  return (
    <table className="ruled field-parts">
      <thead>
        <tr>
          <th scope="col">How many</th>
          <th scope="col">What</th>
          <th scope="col">How large</th>
          <th scope="col">Where</th>
        </tr>
      </thead>
      <tbody>
        {parts.map((p, i) => (
          <tr key={i}>
            <td className="mono">{p.count}</td>
            <th scope="row">{p.what}</th>
            <td>{p.size}</td>
            <td>{p.where}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
