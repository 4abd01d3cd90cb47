import { carried, show, spread } from '../../shared/format'
import type { Quantity } from './move'

/** A number with its mark, its spread and where it comes from. */
export function Amount({ q, digits = 4 }: { q: Quantity; digits?: number }) {
  const sd = spread(q)
  // A guess stands as it was typed: its spread is not what its digits came from.
  const said = { ...carried(q.value, sd, digits), ...(q.kind === 'guessed' ? { value: show(q.value, digits) } : {}) }
  const words = `${said.value} ${q.unit}, ${q.kind}: ${q.source}`
  return (
    <span title={words}>
      <span className={`num ${q.kind}`}>
        {said.value} {q.unit}
      </span>
      {said.within && <span className="fine muted mono"> ± {said.within}</span>}
      <span className="hidden-text">
        , {q.kind}, {q.source}
      </span>
    </span>
  )
}
