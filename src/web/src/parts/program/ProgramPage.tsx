import { Fragment, useEffect, useRef, useState } from 'react'
import { useLocation } from 'react-router'
import Button from '@mui/material/Button'
import type { Finding, SheetLine } from '../../app/api'
import { useProgram, useRig } from '../../app/rig'
import { Note } from '../../shared/NoteCard'
import { Tide } from '../../shared/Tide'
import { ConflictDialog } from './ConflictDialog'
import { LineEditor } from './LineEditor'
import { PatternsDialog } from './PatternsDialog'
import { applied, blocksOf, commentLines, moved, typed, withoutState, type Block } from './lines'
import { Sentence } from './Sentence'
import { useSheet, type Draft } from './useSheet'
import { Views } from './Views'

const words: Record<string, string> = { stops: 'Stops', risky: 'Risky', advice: 'Good to know', holds: 'Holds' }

export default function ProgramPage() {
  const { rig } = useRig()
  const { hash } = useLocation()
  const query = useProgram()
  const program = query.data
  const sheet = useSheet(program)
  const [chosen, setChosen] = useState<string | null>(null)
  const [pointed, setPointed] = useState<string | null>(null)
  const refocus = useRef<number | null>(null)
  const [patterns, setPatterns] = useState(false)

  useEffect(() => {
    const name = decodeURIComponent(hash.replace('#state-', ''))
    if (hash.startsWith('#state-')) {
      setChosen(name)
      document.getElementById(`state-${name}`)?.scrollIntoView({ block: 'center' })
    }
  }, [hash, program])
  useEffect(() => {
    if (refocus.current === null || sheet.draft) return
    // Only a focus that fell to nowhere with the editor is put back; one that was moved on meanwhile stays where it is.
    if (document.activeElement === null || document.activeElement === document.body) document.getElementById(`line-${refocus.current}`)?.focus()
    refocus.current = null
  }, [program, sheet.draft])

  if (!program) return <p className="page muted">One moment…</p>
  const blocks = blocksOf(program.lines)
  const count = blocks.length - 1
  const regions = program.lines.filter(l => l.part === 'region' && l.depth === 0).length
  const current = chosen ?? blocks[1]?.owner ?? ''
  const begin = (draft: Omit<Draft, 'base' | 'was'>) => sheet.setDraft({ ...draft, base: program.script, was: program.script.split('\n')[draft.line - 1] ?? '' })
  const edit = (line: SheetLine) => begin({ line: line.line, isNew: false, part: line.part, owner: line.owner, text: line.text })
  const comment = (at: number, block: Block) =>
    begin({ line: at, isNew: false, part: 'comment', owner: block.owner, text: program.script.split('\n')[at - 1]!.trim() })
  const addBelow = (line: SheetLine, block: Block) =>
    begin({ line: line.line, isNew: true, part: line.part === 'state' || line.part === 'program' ? (block.owner ? 'when' : 'var') : line.part, owner: block.owner, text: '' })
  const addState = () => {
    const lines = program.script.split('\n')
    let last = lines.length
    while (last > 0 && lines[last - 1]!.trim() === '') last--
    begin({ line: last, isNew: true, part: 'state', owner: ' new', text: count === 0 ? 'state Start, initial' : 'state ' })
  }
  const keep = (text: string) => {
    const draft = sheet.draft!
    refocus.current = draft.isNew ? draft.line + (draft.part === 'state' ? 2 : 1) : draft.line
    if (draft.isNew && text.trim() === '') sheet.setDraft(null)
    else sheet.keep(applied(program.script, draft, text))
  }
  const leave = () => {
    refocus.current = sheet.draft!.line
    sheet.setDraft(null)
  }
  const editor = (draft: Draft) => (
    <LineEditor rigId={rig.id} label={draft.isNew ? `New line${draft.owner.trim() ? ` in ${draft.owner}` : ''}` : `Line ${draft.line}`} text={draft.text} busy={sheet.busy} problem={sheet.problem}
      scriptWith={text => {
        const line = draft.isNew ? draft.line + (draft.part === 'state' ? 2 : 1) : draft.line
        // A placeholder holds the line's place and shows its indentation; then the text goes in exactly as typed.
        const base = draft.isNew ? applied(program.script, draft, 'when') : program.script
        const at = base.split('\n')[line - 1] ?? ''
        return { script: typed(base, line, text), line, indent: at.length - at.trimStart().length }
      }}
      onText={text => sheet.setDraft({ ...draft, text })} onKeep={keep} onLeave={leave} />
  )
  const lineKeys = (e: React.KeyboardEvent, line: SheetLine, block: Block) => {
    if (e.target !== e.currentTarget) return
    if (e.key === 'Enter' && e.altKey) { e.preventDefault(); addBelow(line, block) }
    else if (e.key === 'Enter') { e.preventDefault(); edit(line) }
    else if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) {
      e.preventDefault()
      const next = moved(program.script, block.lines, line.line, e.key === 'ArrowUp' ? -1 : 1)
      if (next.script !== program.script) {
        refocus.current = next.line
        sheet.keep(next.script)
      }
    }
  }
  const faultsAt = (line: number) => program.diagnostics.filter(d => d.line === line)
  const lost = program.diagnostics.filter(d => !program.lines.some(l => l.line === d.line))

  return (
    <main>
      <div className="program">
        <section className="sheet" aria-label="Sheet">
          <Views at="sheet">
            <span className="push muted fine">{regions > 1 ? `${regions} regions` : 'Main'}, {count} {count === 1 ? 'state' : 'states'}. Click a line to edit it.</span>
            <Button onClick={addState}>Add a state</Button>
            <Button onClick={() => setPatterns(true)}>Put in a pattern</Button>
          </Views>
          {count === 0 && <p className="lead">A program has states, and a state has lines. Add the first state to begin, or put in a pattern.</p>}
          {lost.map((d, i) => <p key={i} className="fault">{d.message}</p>)}
          {blocks.map((block, i) => (
            <Fragment key={block.owner + i}>
            {block.region && (regions > 1 || block.region.part === 'routine' || block.region.depth > 0) && (
              <h2 className="small-head region-head" style={{ marginLeft: block.region.depth * 14 }}>
                {sheet.draft && !sheet.draft.isNew && sheet.draft.line === block.region.line ? editor(sheet.draft)
                  : <span id={`line-${block.region.line}`} role="button" tabIndex={0} style={{ cursor: 'text' }} onClick={() => edit(block.region!)} onKeyDown={e => { if (e.key === 'Enter') { e.preventDefault(); edit(block.region!) } }}>{block.region.text}</span>}
              </h2>
            )}
            <div style={block.head && block.head.depth > 1 ? { marginLeft: (block.head.depth - 1) * 14, borderLeft: '1px solid var(--line)' } : undefined} id={block.owner ? `state-${block.owner}` : undefined} className={`block${block.owner === (pointed ?? current) && block.owner ? ' chosen' : ''}`}
              onFocus={() => setChosen(block.owner)} onClick={() => setChosen(block.owner)}>
              <div>
                {block.head && (
                  <div id={`line-${block.head.line}`} className="state-name" role="button" tabIndex={0} aria-label={`Edit ${block.head.text}`}
                    onKeyDown={e => lineKeys(e, block.head!, block)} onClick={() => edit(block.head!)} style={{ cursor: 'text' }}>
                    {block.owner || 'Head'}
                    <small>{block.owner ? block.head.text.split(',').slice(1).join(',').trim() : block.head.text.replace('program ', '')}</small>
                  </div>
                )}
                {block.head && faultsAt(block.head.line).map((d, j) => <p key={j} className="fault">{d.message}</p>)}
              </div>
              <div>
                {sheet.draft && block.head && sheet.draft.line === block.head.line && sheet.draft.part !== 'comment' && editor(sheet.draft)}
                {block.lines.map(line => (
                  <div key={line.line}>
                    {commentLines(program.script, line.line).map((at, j) =>
                      sheet.draft && !sheet.draft.isNew && sheet.draft.line === at
                        ? <div key={at}>{editor(sheet.draft)}</div>
                        : (
                          <p key={at} id={`line-${at}`} className="comment" role="button" tabIndex={0} onClick={() => comment(at, block)}
                            onKeyDown={e => { if (e.key === 'Enter') { e.preventDefault(); comment(at, block) } }}>
                            <span className="hidden-text">Comment: </span>{line.comments[j] || '#'}
                          </p>
                        ))}
                    {sheet.draft && !sheet.draft.isNew && sheet.draft.line === line.line
                      ? editor(sheet.draft)
                      : (
                        <div id={`line-${line.line}`} className="sentence" role="button" tabIndex={0} onClick={() => edit(line)} onKeyDown={e => lineKeys(e, line, block)}>
                          <Sentence line={line} />
                        </div>
                      )}
                    {faultsAt(line.line).map((d, j) => <p key={j} className="fault under">{d.message}</p>)}
                    {sheet.draft?.isNew && sheet.draft.line === line.line && sheet.draft.part !== 'state' && editor(sheet.draft)}
                  </div>
                ))}
                {block.owner === current && !sheet.draft && block.head && (
                  <div className="under row" style={{ paddingTop: 4 }}>
                    <Button onClick={() => addBelow(block.lines.at(-1) ?? block.head!, block)}>Add a line</Button>
                    {block.owner && <Button variant="text" onClick={() => sheet.keep(withoutState(program.script, block))}>Take out this state</Button>}
                  </div>
                )}
              </div>
            </div>
            </Fragment>
          ))}
          {sheet.draft?.isNew && sheet.draft.part === 'state' && <div className="block"><div className="state-name">New state</div>{editor(sheet.draft)}</div>}
        </section>
        <Margin lines={program.lines} findings={program.findings} faults={program.diagnostics.length} current={current} busy={sheet.cure.isPending} onCure={f => sheet.cure.mutate(f)} onGo={f => {
          setChosen(f.owner)
          document.getElementById(`line-${f.line}`)?.focus()
        }} />
      </div>
      <Tide state={pointed ?? current} onState={setPointed} />
      {patterns && <PatternsDialog program={program} onClose={() => setPatterns(false)} onInsert={script => sheet.keep(script)} />}
      {sheet.conflict && <ConflictDialog conflict={sheet.conflict} onSettle={sheet.settle} />}
    </main>
  )
}

function Margin({ lines, findings, faults, current, busy, onCure, onGo }: { lines: SheetLine[]; findings: Finding[]; faults: number; current: string; busy: boolean; onCure: (f: Finding) => void; onGo: (f: Finding) => void }) {
  const order = ['stops', 'risky', 'holds', 'advice']
  const sorted = [...findings].sort((a, b) => order.indexOf(a.severity) - order.indexOf(b.severity) || Number(b.owner === current) - Number(a.owner === current))
  const numbers = lines.filter(l => l.owner === current).flatMap(l => l.pieces).filter(p => p.kind === 'number')
  const open = findings.filter(f => f.severity === 'stops' || f.severity === 'risky').length
  return (
    <aside className="margin" aria-label="Findings">
      <h2 className="small-head">{faults > 0 ? 'Mend the faults first' : open === 0 ? 'Nothing to settle' : `${open} to settle`}</h2>
      {faults > 0 && <p className="fine">The machine can be checked and run once every line can be read. What you typed is kept.</p>}
      {sorted.map((f, i) => (
        <Note key={f.code + f.line} lead={i === 0} tone={f.severity} word={`${words[f.severity]}${f.line > 0 ? `, ${f.owner ? `${f.owner} line ${f.lineOfOwner}` : 'head'}` : ''}`} title={f.headline}
          action={
            <span className="row">
              {f.cure && <Button onClick={() => onCure(f)} disabled={busy}>{f.cure.label}</Button>}
              {f.line > 0 && f.severity !== 'holds' && <Button variant="text" onClick={() => onGo(f)}>Show the line</Button>}
            </span>
          }>
          {f.say}
        </Note>
      ))}
      <div className="note">
        <h2 className="small-head">Where numbers come from</h2>
        <div className="keys">
          <span><span className="num measured">12</span> measured on this copy</span>
          <span><span className="num calculated">12</span> calculated from measurements</span>
          <span><span className="num guessed">12</span> guessed, never tested</span>
          <span><span className="num chosen">12</span> chosen by you</span>
        </div>
        {numbers.length > 0 && <h2 className="small-head" style={{ marginTop: 14 }}>Numbers in {current || 'the head'}</h2>}
        <div className="keys">
          {numbers.map((n, i) => <span key={i}><span className={`num ${n.provenance}`}>{n.text}</span> {n.source}</span>)}
        </div>
      </div>
    </aside>
  )
}
