import { Fragment, useEffect, useRef, useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { Link, useLocation } from 'react-router'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { partKey, useProgram, useProgramIndex, useRig } from '../../app/rig'
import { ConflictCard } from './ConflictCard'
import { LineEditor } from './LineEditor'
import { useMake } from './useMake'
import { useSheet } from './useSheet'
import { Views } from './Views'
import { Moment } from '../../shared/Moment'

type Part = Schemas['TablePart']
type Row = Schemas['TableRow']
type Cell = Schemas['TableCell']

/** Where the keys are: part, row, column. */
type At = { part: number; row: number; column: number }

const idOf = (at: At) => `cell-${at.part}-${at.row}-${at.column}`

/** The machine as tables, states against triggers: what is answered, and what nobody has thought of yet. */
export default function TablePage() {
  const { rig } = useRig()
  const { search } = useLocation()
  const program = useProgram().data
  const which = useProgramIndex()
  const table = useQuery({
    queryKey: [...partKey(rig.id, 'table', rig.copy), program?.revision, which ?? null],
    enabled: program !== undefined,
    placeholderData: (before) => before,
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/program/table', { params: { path: { id: rig.id }, query: { program: which } } })),
  })
  const [at, setAt] = useState<At>({ part: 0, row: 0, column: 0 })
  const back = useRef(false)
  const sheet = useSheet(program, () => {
    back.current = true
  })
  const { make } = useMake(which)
  const parts = table.data ?? []
  // With the editor gone the keys are where they were before it.
  useEffect(() => {
    if (!back.current || sheet.draft || table.isFetching) return
    back.current = false
    if (document.activeElement === null || document.activeElement === document.body) document.getElementById(idOf(at))?.focus()
  }, [sheet.draft, table.isFetching, table.data, at])

  if (!program) return <Moment />
  const texts = program.script.split('\n')
  const go = (to: At) => {
    setAt(to)
    document.getElementById(idOf(to))?.focus()
  }
  const edit = (row: Row, part: Part, cell: Cell, column: number, line?: number) => {
    const own = line ?? cell.answers[0]?.line
    sheet.setDraft(
      own
        ? {
            act: 'set',
            line: own,
            part: 'when',
            owner: row.state,
            text: texts[own - 1]!.trim(),
            was: texts[own - 1]!,
            base: program.script,
            revision: program.revision,
          }
        : {
            act: 'add',
            line: row.after,
            part: 'when',
            owner: row.state,
            text: part.triggers[column]!.begins,
            was: texts[row.after - 1]!,
            base: program.script,
            revision: program.revision,
          },
    )
  }
  const keys = (e: React.KeyboardEvent, here: At) => {
    if (e.ctrlKey || e.metaKey || e.altKey) return
    const steps: Record<string, [number, number]> = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }
    const step = steps[e.key]
    const part = parts[here.part]!
    let to: At | null = null
    if (e.key === 'Home') to = { ...here, column: 0 }
    if (e.key === 'End') to = { ...here, column: part.triggers.length - 1 }
    if (step) {
      const column = Math.min(part.triggers.length - 1, Math.max(0, here.column + step[1]))
      let row = here.row + step[0]
      let of = here.part
      // From one table into the next.
      const beside = (by: number) => {
        for (let p = of + by; p >= 0 && p < parts.length; p += by) if (parts[p]!.triggers.length > 0 && parts[p]!.rows.length > 0) return p
        return null
      }
      if (row < 0 || row >= part.rows.length) {
        const next = beside(row < 0 ? -1 : 1)
        if (next === null) row = here.row
        else {
          row = row < 0 ? parts[next]!.rows.length - 1 : 0
          of = next
        }
      }
      to = { part: of, row, column: Math.min(column, parts[of]!.triggers.length - 1) }
    }
    if (!to) return
    e.preventDefault()
    go(to)
  }
  const draft = sheet.draft
  const editor = draft && (
    <LineEditor
      key={`${draft.act} ${draft.line}`}
      rigId={rig.id}
      label={draft.act === 'add' ? `New line in ${draft.owner}` : `Line of ${draft.owner || 'the program'}`}
      text={draft.text}
      busy={sheet.busy}
      problem={sheet.problem}
      place={{ act: draft.act, line: draft.line, baseRevision: draft.revision, program: which ?? null }}
      onText={(text) => sheet.setDraft({ ...draft, text })}
      onKeep={sheet.keep}
      onLeave={() => {
        back.current = true
        if (sheet.conflict) sheet.settle(false)
        else sheet.setDraft(null)
      }}
      onMake={(offer) => make(offer, draft.line, draft.revision)}
    />
  )
  // A line that is being typed stands below the row of its state.
  const holds = (row: Row) =>
    draft !== null &&
    !sheet.conflict &&
    (draft.act === 'add' ? row.after === draft.line : row.cells.some((c) => c.answers.some((a) => a.line === draft.line)))
  const held = parts.some((p) => p.rows.some(holds))
  const empty = parts.reduce((n, p) => n + p.rows.reduce((m, r) => m + open(r), 0), 0)
  return (
    <main>
      <div className="page">
        <Views at="table">
          <span className="push" />
          <Button className="no-print" onClick={() => window.print()}>
            Print
          </Button>
        </Views>
        {table.isError && (
          <p className="fault" role="alert">
            {sentencesOf(table.error).join(' ')}
          </p>
        )}
        {table.isSuccess && parts.every((p) => p.rows.length === 0) && (
          <p className="lead">
            No state yet. <Link to={{ pathname: `/rigs/${rig.id}/program`, search }}>Write the first one in the sheet.</Link>
          </p>
        )}
        {parts.length > 0 && (
          <p className="fine muted" data-testid="open-cells">
            {empty === 0
              ? 'Every state answers every trigger of its region.'
              : `${empty} ${empty === 1 ? 'cell is' : 'cells are'} open: nothing happens there. Is that what you want?`}{' '}
            <span className="no-print">Arrow keys move, Enter writes.</span>
          </p>
        )}
        {sheet.conflict && <ConflictCard conflict={sheet.conflict} editor={editor} onSettle={sheet.settle} />}
        {draft && !held && !sheet.conflict && <div className="block editing">{editor}</div>}
        {parts.map((part, p) => (
          <Fragment key={`${part.name} ${p}`}>
            {part.rows.length > 0 && (
              <section className="machine-table" aria-label={`${part.routine ? 'Routine' : 'Region'} ${part.name}`}>
                <h2 className="small-head">{`${part.routine ? 'routine' : 'region'} ${part.name}`}</h2>
                {part.triggers.length === 0 ? (
                  <p className="fine muted">None of its states waits for anything.</p>
                ) : (
                  <div className="wide" tabIndex={0} role="group" aria-label={`Table of ${part.name}`}>
                    <table className="ruled">
                      <thead>
                        <tr>
                          <th scope="col">State</th>
                          {part.triggers.map((t) => (
                            <th key={t.says} scope="col">
                              {t.says}
                            </th>
                          ))}
                        </tr>
                      </thead>
                      <tbody>
                        {part.rows.map((row, r) => (
                          <Fragment key={row.line}>
                            <tr>
                              <th scope="row" style={{ paddingLeft: row.depth * 14 }}>
                                {row.state}
                                {(row.initial || row.final) && <small> {row.initial ? 'initial' : 'final'}</small>}
                              </th>
                              {row.cells.map((cell, c) => {
                                const here = { part: p, row: r, column: c }
                                const now = at.part === p && at.row === r && at.column === c
                                return (
                                  <td key={c}>
                                    <TableButton
                                      id={idOf(here)}
                                      now={now}
                                      row={row}
                                      cell={cell}
                                      trigger={part.triggers[c]!.says}
                                      onFocus={() => setAt(here)}
                                      onKeys={(e) => keys(e, here)}
                                      onEdit={(line) => edit(row, part, cell, c, line)}
                                    />
                                  </td>
                                )
                              })}
                            </tr>
                            {holds(row) && (
                              <tr className="editing">
                                <td colSpan={row.cells.length + 1}>{editor}</td>
                              </tr>
                            )}
                          </Fragment>
                        ))}
                      </tbody>
                    </table>
                  </div>
                )}
              </section>
            )}
          </Fragment>
        ))}
      </div>
    </main>
  )
}

const open = (row: Row) => (row.final ? 0 : row.cells.filter((c) => c.answers.length === 0 && c.outer === null).length)

/** One cell: its answers, what the state around says, or a question. */
function TableButton({
  id,
  now,
  row,
  cell,
  trigger,
  onFocus,
  onKeys,
  onEdit,
}: {
  id: string
  now: boolean
  row: Row
  cell: Cell
  trigger: string
  onFocus: () => void
  onKeys: (e: React.KeyboardEvent) => void
  onEdit: (line?: number) => void
}) {
  const question = trigger === 'by itself' ? `What if nothing happens in ${row.state}?` : `What if it happens in ${row.state}?`
  const common = { tabIndex: now ? 0 : -1, onFocus, onKeyDown: onKeys, type: 'button' as const }
  if (row.final)
    return (
      <button {...common} id={id} className="cell" aria-disabled aria-label={`${row.state} is final: nothing follows`}>
        <span className="muted">–</span>
      </button>
    )
  if (cell.answers.length === 0)
    return (
      <button
        {...common}
        id={id}
        className="cell"
        aria-label={
          cell.outer
            ? `${row.state}, ${trigger}: as ${cell.outer} around it says. Say otherwise`
            : `${row.state}, ${trigger}: nothing is said. ${question}`
        }
        title={cell.outer ? `as ${cell.outer} says` : question}
        onClick={() => onEdit()}
      >
        {cell.outer ? <span className="muted fine">as {cell.outer}</span> : <span className="open-cell">?</span>}
      </button>
    )
  return cell.answers.map((a, i) => (
    <button
      {...common}
      key={a.line}
      id={i === 0 ? id : undefined}
      tabIndex={now ? 0 : -1}
      className="cell"
      aria-label={`${row.state}, ${trigger}: ${a.says}`}
      onClick={() => onEdit(a.line)}
    >
      <Says says={a.says} target={a.target} />
    </button>
  ))
}

function Says({ says, target }: { says: string; target: string | null }) {
  if (!target || !says.endsWith(`go ${target}`)) return <span>{says}</span>
  return (
    <span>
      {says.slice(0, -target.length)}
      <b className="target">{target}</b>
    </span>
  )
}
