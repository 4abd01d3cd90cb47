import { Link } from 'react-router'
import { ClassFrame } from './ClassFrame'

/** Where an address leads to nothing: so, and the way back. */
export function NotThere({ title, to, back }: { title: string; to: string; back: string }) {
  return (
    <ClassFrame>
      <main className="page">
        <h1 className="page-title">{title}</h1>
        <p>
          <Link to={to}>{back}</Link>
        </p>
      </main>
    </ClassFrame>
  )
}
