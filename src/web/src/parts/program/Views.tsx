import { useState, type ReactNode } from 'react'
import { Link, useLocation, useSearchParams } from 'react-router'
import Button from '@mui/material/Button'
import { useProgram, useRig } from '../../app/rig'
import { ProgramsDialog } from './ProgramsDialog'

const views = [
  ['sheet', 'Sheet', ''],
  ['script', 'Script', '/script'],
  ['chart', 'Chart', '/chart'],
  ['table', 'Table', '/table'],
  ['walk', 'Walk through', '/walk'],
  ['history', 'History', '/history'],
  ['outside', 'Take it out', '/outside'],
] as const

/** The views of one program. */
export function Views({ at, children }: { at: (typeof views)[number][0]; children?: ReactNode }) {
  const { rig } = useRig()
  const { search } = useLocation()
  const [params, setParams] = useSearchParams()
  const [open, setOpen] = useState(false)
  const program = useProgram().data
  const all = program?.programs ?? []
  const choose = (index: number) => {
    const next = new URLSearchParams(params)
    next.set('program', String(index))
    setParams(next)
  }
  return (
    <nav className="tools" aria-label="Views of the program">
      {views.map(([id, word, path]) => (
        <Link
          key={id}
          to={{ pathname: `/rigs/${rig.id}/program${path}`, search }}
          className={`tab${id === at ? '' : ' off'}`}
          aria-current={id === at ? 'page' : undefined}
        >
          {word}
        </Link>
      ))}
      {children}
      {all.length > 1 && (
        <label className="fine">
          Program{' '}
          <select className="figure" aria-label="Program" value={program!.index} onChange={(e) => choose(Number(e.target.value))}>
            {all.map((p) => (
              <option key={p.index} value={p.index}>
                {p.name}
                {p.runs ? '' : ' (stored)'}
              </option>
            ))}
          </select>
        </label>
      )}
      {all.length > 0 && (
        <Button variant="text" onClick={() => setOpen(true)}>
          {all.length > 1 ? `${all.length} programs` : 'Programs'}
        </Button>
      )}
      {open && program && <ProgramsDialog program={program} onClose={() => setOpen(false)} onOpen={choose} />}
    </nav>
  )
}
