import type { ReactNode } from 'react'
import Button from '@mui/material/Button'
import type { Conflict } from './useSheet'

/** Two windows changed one line: both versions, to choose from. What is typed goes on meanwhile. */
export function ConflictCard({
  conflict,
  editor,
  onSettle,
}: {
  conflict: Conflict
  editor: ReactNode
  onSettle: (useMine: boolean) => void
}) {
  const { edit, theirs } = conflict
  const base = (edit.of?.base ?? theirs.script).split('\n')
  const only = (a: string[], b: string[]) => {
    const others = new Set(b.map((l) => l.trim()))
    return a.map((l) => l.trim()).filter((l) => l !== '' && !others.has(l))
  }
  return (
    <section className="block editing" role="dialog" aria-labelledby="conflict-title" style={{ display: 'block' }}>
      <h2 id="conflict-title" className="small-head">
        This program was changed meanwhile
      </h2>
      <p>
        Another window kept revision {theirs.revision}, and the line you are typing is not there any more. Use yours on the program as it
        was when you began, or leave it.
      </p>
      {editor}
      <div className="cols">
        <section>
          <h3 className="small-head">Only where you began</h3>
          {only(base, theirs.script.split('\n')).map((l, i) => (
            <p key={i} className="mono">
              {l}
            </p>
          ))}
        </section>
        <section>
          <h3 className="small-head">Only in revision {theirs.revision}</h3>
          {only(theirs.script.split('\n'), base).map((l, i) => (
            <p key={i} className="mono">
              {l}
            </p>
          ))}
        </section>
      </div>
      <div className="row">
        <Button onClick={() => onSettle(false)}>Keep revision {theirs.revision}</Button>
        <Button variant="contained" onClick={() => onSettle(true)}>
          Use mine instead
        </Button>
      </div>
    </section>
  )
}
