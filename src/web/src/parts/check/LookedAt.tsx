import type { Schemas } from '../../app/api'
import { Explored } from './Explored'
import { Tried } from './Tried'

type Looked = Schemas['Looked']

/** What was looked for and what came of it. */
export function LookedAt({ looked }: { looked: Looked[] }) {
  const of = (state: Looked['state']) => looked.filter((l) => l.state === state)
  return (
    <aside className="margin" aria-label="What was looked at">
      <h2 className="small-head">Found</h2>
      {of('found').length === 0 && <p className="fine muted">Nothing.</p>}
      <ul className="looked">
        {of('found').map((l) => (
          <li key={l.code}>
            <b>{l.title}</b> <span className="mono">{l.count}</span>
            <small>{l.says}</small>
          </li>
        ))}
      </ul>
      <Rest title="Looked for, and not there" of={of('nothing')} />
      <Rest title="Cannot be looked for here" of={of('cannot')} why />
      <Rest title="Not looked at to the end" of={of('notYet')} why />
      {looked.some((l) => l.state !== 'cannot') && <Tried />}
      <Explored />
    </aside>
  )
}

function Rest({ title, of, why = false }: { title: string; of: Looked[]; why?: boolean }) {
  if (of.length === 0) return null
  return (
    <details className="looked-rest">
      <summary>
        {title}: <span className="mono">{of.length}</span>
      </summary>
      <ul className="looked">
        {of.map((l) => (
          <li key={l.code}>
            {l.title}
            {(why ? l.why : l.says) && <small>{why ? l.why : l.says}</small>}
          </li>
        ))}
      </ul>
    </details>
  )
}
