import { show } from '../../shared/format'
import { spread, type Quantity } from './move'

/** A number with its mark, its spread and where it comes from. */
export function Amount({ q, digits = 4 }: { q: Quantity; digits?: number }) {
  const sd = spread(q)
  const words = `${show(q.value, digits)} ${q.unit}, ${q.kind}: ${q.source}`
  return (
    <span title={words}>
      <span className={`num ${q.kind}`}>
        {show(q.value, digits)} {q.unit}
      </span>
      {sd > 0 && <span className="fine muted mono"> ± {show(2 * sd, 2)}</span>}
      <span className="hidden-text">
        , {q.kind}, {q.source}
      </span>
    </span>
  )
}
