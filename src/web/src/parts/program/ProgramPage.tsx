import { useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { useLocation } from 'react-router'
import Button from '@mui/material/Button'
import type { Finding, SheetLine } from '../../app/api'
import { useProgram, useProgramIndex, useRig } from '../../app/rig'
import { ChoiceMenu } from '../../shared/ChoiceMenu'
import { Note } from '../../shared/NoteCard'
import { Tide } from '../../shared/Tide'
import { ConflictDialog } from './ConflictDialog'
import { KeepRoutineDialog } from './KeepRoutineDialog'
import { LineEditor } from './LineEditor'
import { PatternsDialog } from './PatternsDialog'
import { applied, blocksOf, commentLines, moved, replaced, typed, withoutState, type Block } from './lines'
import {
  duplicatedLine,
  duplicatedState,
  endOfRegions,
  extent,
  hasRegions,
  inside,
  movedState,
  nested,
  parentOf,
  sibling,
  unnested,
  withRegion,
  withRegionInside,
  withRoutine,
  type Done,
} from './outline'
import { SheetBlock, type SheetActs } from './SheetBlock'
import { useSheet, type Draft } from './useSheet'
import { Views } from './Views'

const words: Record<string, string> = { stops: 'Stops', risky: 'Risky', advice: 'Good to know', holds: 'Holds' }

export default function ProgramPage() {
  const { rig } = useRig()
  const { hash } = useLocation()
  const query = useProgram()
  const program = query.data
  const which = useProgramIndex()
  const sheet = useSheet(program)
  const [chosen, setChosen] = useState<string | null>(null)
  const [pointed, setPointed] = useState<string | null>(null)
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set())
  const [sources, setSources] = useState(0)
  const [routine, setRoutine] = useState<string | null>(null)
  const refocus = useRef<{ line: number; text: string } | null>(null)
  const [patterns, setPatterns] = useState(false)
  const shown = program?.lines
  const blocks = useMemo(() => blocksOf(shown ?? []), [shown])
  const script = program?.script ?? ''
  const texts = useMemo(() => script.split('\n'), [script])

  useEffect(() => {
    const name = decodeURIComponent(hash.replace('#state-', ''))
    if (hash.startsWith('#state-')) {
      const block = blocks.find((b) => b.owner === name)
      if (block) {
        setChosen(block.path)
        setFolded((f) => (f.size === 0 ? f : new Set([...f].filter((p) => !`${block.path}/`.startsWith(`${p}/`)))))
      }
      document.getElementById(`state-${name}`)?.scrollIntoView({ block: 'center' })
    }
  }, [hash, blocks])
  useEffect(() => {
    if (refocus.current === null || sheet.draft) return
    // Only a focus that fell to nowhere with the editor is put back; one that was moved on meanwhile stays where it is.
    if (document.activeElement === null || document.activeElement === document.body) {
      // Keeping may set the script anew, so that the line stands elsewhere: it is known by its words, the nearest first.
      const { line, text } = refocus.current
      const same = (program?.lines ?? [])
        .filter((l) => text !== '' && (l.text === text || (l.part === 'state' && l.text.startsWith(`${text},`))))
        .sort((a, b) => Math.abs(a.line - line) - Math.abs(b.line - line))[0]
      document.getElementById(`line-${same?.line ?? line}`)?.focus()
    }
    refocus.current = null
  }, [program, sheet.draft])

  // States of one name in one place are a fault, but each is drawn.
  const twins = useMemo(() => {
    const seen = new Map<string, number>()
    return new Map(
      blocks.map((b) => {
        const n = seen.get(b.path) ?? 0
        seen.set(b.path, n + 1)
        return [b, n]
      }),
    )
  }, [blocks])
  const count = blocks.filter((b) => b.owner).length
  const regions = (shown ?? []).filter((l) => l.part === 'region' && l.depth === 0).length
  const current = blocks.find((b) => b.path === chosen) ?? blocks.find((b) => b.owner)
  const begin = (draft: Omit<Draft, 'base' | 'was'>) => sheet.setDraft({ ...draft, base: script, was: texts[draft.line - 1] ?? '' })
  const edit = (line: SheetLine) => begin({ line: line.line, isNew: false, part: line.part, owner: line.owner, text: line.text })
  // What is done to a line that is open is done to what was typed there.
  const base = () => (sheet.draft && !sheet.draft.isNew ? applied(script, sheet.draft, sheet.draft.text) : script)
  const put = (done: Done) => {
    if (done.script === script) return
    refocus.current = { line: done.line, text: done.script.split('\n')[done.line - 1]?.trim() ?? '' }
    if (document.activeElement instanceof HTMLElement && document.activeElement.closest('.block')) document.activeElement.blur()
    sheet.keep(done.script)
  }
  const takeOutLine = (line: number) => put({ script: replaced(base(), line, ''), line: Math.max(1, line - 1) })
  const stateAct = (act: Parameters<SheetActs['state']>[0], block: Block) => {
    const head = block.head!.line
    if (act === 'out of it') {
      put({ script: withoutState(script, block), line: sibling(texts, head, -1) || parentOf(texts, head) || 1 })
      return
    }
    put(
      act === 'up'
        ? movedState(script, head, -1)
        : act === 'down'
          ? movedState(script, head, 1)
          : act === 'in'
            ? nested(script, head)
            : act === 'out'
              ? unnested(script, head)
              : act === 'region'
                ? withRegionInside(script, head)
                : duplicatedState(script, head),
    )
  }
  const fold = (path: string) =>
    setFolded((f) => {
      const next = new Set(f)
      if (!next.delete(path)) next.add(path)
      return next
    })
  const addState = (block: Block | null, inner: boolean) => {
    if (!block?.head) {
      const last = endOfRegions(texts)
      begin({ line: last, isNew: true, part: 'state', owner: ' new', text: count === 0 ? 'state Start, initial' : 'state ' })
      return
    }
    const own = block.head.line
    const indent = texts[own - 1]!.length - texts[own - 1]!.trimStart().length + (inner ? 2 : 0)
    begin({
      line: extent(texts, own)[1],
      isNew: true,
      part: 'state',
      owner: block.path,
      text: 'state ',
      indent,
      first: inner && inside(texts, own).length === 0,
    })
  }
  const lineKeys = (e: React.KeyboardEvent, line: SheetLine, block: Block) => {
    if (e.target !== e.currentTarget || e.ctrlKey || e.metaKey) return
    const isState = line.part === 'state'
    const name = `${e.altKey ? 'Alt+' : ''}${e.shiftKey ? 'Shift+' : ''}${e.key}`
    const step = (by: number) => {
      const all = [...document.querySelectorAll<HTMLElement>('.sheet .sheet-line')]
      all[all.indexOf(e.currentTarget as HTMLElement) + by]?.focus()
    }
    const keys: Record<string, () => void> = {
      Enter: () => edit(line),
      'Alt+Enter': () => acts.addLine(line, block),
      'Alt+ArrowUp': () => (isState ? stateAct('up', block) : put(moved(script, block.lines, line.line, -1))),
      'Alt+ArrowDown': () => (isState ? stateAct('down', block) : put(moved(script, block.lines, line.line, 1))),
      'Alt+Shift+ArrowDown': () => (isState ? stateAct('copy', block) : block.head !== line && put(duplicatedLine(script, line.line))),
      Delete: () => (isState ? stateAct('out of it', block) : block.head !== line && takeOutLine(line.line)),
      ArrowDown: () => step(1),
      ArrowUp: () => step(-1),
      i: () => setSources(sources === line.line ? 0 : line.line),
    }
    if (isState) {
      keys['Alt+Shift+ArrowRight'] = () => stateAct('in', block)
      keys['Alt+Shift+ArrowLeft'] = () => stateAct('out', block)
      keys['ArrowLeft'] = () => {
        if (!folded.has(block.path)) fold(block.path)
      }
      keys['ArrowRight'] = () => {
        if (folded.has(block.path)) fold(block.path)
      }
    }
    const act = keys[name]
    if (!act) return
    e.preventDefault()
    act()
  }
  // The blocks are drawn anew only when what they show changes: they call whatever is right at the time.
  const latest = useRef<SheetActs>(null!)
  const acts = useMemo<SheetActs>(
    () => ({
      choose: (path) => setChosen(path),
      edit: (l) => latest.current.edit(l),
      comment: (c, b) => latest.current.comment(c, b),
      addLine: (l, b) => latest.current.addLine(l, b),
      lineKeys: (e, l, b) => latest.current.lineKeys(e, l, b),
      fold: (p) => latest.current.fold(p),
      addState: (b, i) => latest.current.addState(b, i),
      state: (a, b) => latest.current.state(a, b),
      keepRoutine: (n) => setRoutine(n),
      go: (f) => latest.current.go(f),
    }),
    [],
  )
  useLayoutEffect(() => {
    latest.current = {
      ...acts,
      edit,
      lineKeys,
      fold,
      addState,
      state: stateAct,
      comment: (at, block) => begin({ line: at, isNew: false, part: 'comment', owner: block.owner, text: texts[at - 1]!.trim() }),
      addLine: (line, block) =>
        begin({
          line: line.line,
          isNew: true,
          part: line.part === 'state' || line.part === 'program' ? (block.owner ? 'when' : 'var') : line.part,
          owner: block.owner,
          text: '',
        }),
      go: (f) => {
        const note = document.getElementById(`note-${f.code}-${f.line}`)
        note?.scrollIntoView({ block: 'center' })
        note?.focus({ preventScroll: true })
      },
    }
  })

  if (!program) return <p className="page muted">One moment…</p>
  const keep = (text: string) => {
    const draft = sheet.draft!
    refocus.current = { line: draft.isNew ? draft.line + (draft.part === 'state' ? 2 : 1) : draft.line, text: text.trim() }
    if (draft.isNew && text.trim() === '') sheet.setDraft(null)
    else sheet.keep(applied(script, draft, text))
  }
  const leave = () => {
    refocus.current = { line: sheet.draft!.line, text: '' }
    sheet.setDraft(null)
  }
  const draft = sheet.draft
  const holder =
    draft &&
    blocks.find((b) =>
      draft.isNew && draft.part === 'state'
        ? draft.owner === b.path
        : b.head?.line === draft.line ||
          b.regions.some((r) => r.line === draft.line) ||
          b.lines.some((l) => l.line === draft.line || commentLines(texts, l.line).includes(draft.line)),
    )
  const holderLine = draft && !draft.isNew ? holder?.lines.find((l) => l.line === draft.line) : undefined
  const editor = draft && (
    <LineEditor
      key={`${draft.isNew ? 'new' : 'at'} ${draft.line} ${draft.part}`}
      rigId={rig.id}
      label={draft.isNew ? `New line${draft.part !== 'state' && draft.owner.trim() ? ` in ${draft.owner}` : ''}` : `Line ${draft.line}`}
      text={draft.text}
      busy={sheet.busy}
      problem={sheet.problem}
      scriptWith={(text) => {
        const line = draft.isNew ? draft.line + (draft.part === 'state' ? 2 : 1) : draft.line
        // A placeholder holds the line's place and shows its indentation; then the text goes in exactly as typed.
        const whole = draft.isNew ? applied(script, draft, draft.part === 'state' ? 'state X' : 'when') : script
        const at = whole.split('\n')[line - 1] ?? ''
        return { script: typed(whole, line, text), line, indent: at.length - at.trimStart().length }
      }}
      onText={(text) => sheet.setDraft({ ...draft, text })}
      onKeep={keep}
      onLeave={leave}
      more={
        holderLine && holder
          ? [
              { label: 'Up', act: () => put(moved(base(), holder.lines, draft.line, -1)) },
              { label: 'Down', act: () => put(moved(base(), holder.lines, draft.line, 1)) },
              { label: 'Copy', act: () => put(duplicatedLine(base(), draft.line)) },
              { label: 'Take out', act: () => takeOutLine(draft.line) },
            ]
          : []
      }
    />
  )
  const lost = program.diagnostics.filter((d) => !program.lines.some((l) => l.line === d.line))
  const hidden = (b: Block) => folded.size > 0 && [...folded].some((p) => b.path.startsWith(`${p}/`))

  return (
    <main>
      <div className="program">
        <section className="sheet" aria-label="Sheet">
          <Views at="sheet">
            <span className="push muted fine">
              {regions > 1 ? `${regions} regions` : 'Main'}, {count} {count === 1 ? 'state' : 'states'}. Click a line to edit it.
            </span>
            <Button onClick={() => addState(null, false)}>Add a state</Button>
            <Button onClick={() => setPatterns(true)}>Put in a pattern</Button>
            <ChoiceMenu
              word="More"
              items={[
                ['Add a region beside the others', () => put(withRegion(script))],
                ['Add a routine', () => put(withRoutine(script))],
                [
                  'Add a variable, goal or rule',
                  () =>
                    begin({
                      line: blocks[0]!.lines.at(-1)?.line ?? blocks[0]!.head?.line ?? 1,
                      isNew: true,
                      part: 'var',
                      owner: '',
                      text: 'var ',
                    }),
                ],
                [
                  folded.size > 0 ? 'Unfold all' : 'Fold all states',
                  () =>
                    setFolded(
                      folded.size > 0
                        ? new Set()
                        : new Set(
                            blocks
                              .filter((b) => b.owner && !blocks.some((o) => o.owner && b.path.startsWith(`${o.path}/`)))
                              .map((b) => b.path),
                          ),
                    ),
                ],
              ]}
            />
          </Views>
          {count === 0 && (
            <p className="lead">A program has states, and a state has lines. Add the first state to begin, or put in a pattern.</p>
          )}
          {lost.map((d, i) => (
            <p key={i} className="fault">
              {d.message}
            </p>
          ))}
          {blocks
            .filter((b) => !hidden(b))
            .map((block) => {
              const at = holder === block && draft ? draft.line : 0
              const lines = [block.head?.line ?? 0, ...block.regions.map((r) => r.line), ...block.lines.map((l) => l.line)]
              const open = block.path === current?.path && !draft && block.head !== null
              const head = block.head?.line ?? 0
              const owned = open && block.owner !== ''
              const above = owned ? sibling(texts, head, -1) : 0
              return (
                <SheetBlock
                  key={`${block.path} ${twins.get(block) ?? 0}`}
                  block={block}
                  texts={texts}
                  acts={acts}
                  faults={program.diagnostics.filter((d) => lines.includes(d.line))}
                  findings={program.findings.filter((f) => f.line > 0 && lines.includes(f.line))}
                  lit={pointed !== null ? block.owner === pointed : block.path === current?.path}
                  open={open}
                  folded={folded.has(block.path)}
                  hides={folded.has(block.path) ? blocks.filter((b) => b.path.startsWith(`${block.path}/`)).length : 0}
                  tellsRegions={regions > 1}
                  editor={at > 0 ? editor : null}
                  at={at}
                  isNew={at > 0 && draft!.isNew}
                  newState={at > 0 && draft!.isNew && draft!.part === 'state'}
                  sources={lines.includes(sources) ? sources : 0}
                  up={above > 0}
                  down={owned && sibling(texts, head, 1) > 0}
                  into={above > 0 && !hasRegions(texts, above)}
                  out={owned && /^\s*state\b/.test(texts[parentOf(texts, head) - 1] ?? '')}
                  inner={owned && !hasRegions(texts, head)}
                  region={owned && inside(texts, head).length === 0}
                />
              )
            })}
          {draft?.isNew && draft.part === 'state' && !holder && (
            <div className="block editing">
              <div className="state-name">New state</div>
              {editor}
            </div>
          )}
        </section>
        <Margin
          lines={program.lines}
          findings={program.findings}
          faults={program.diagnostics.length}
          current={current?.owner ?? ''}
          busy={sheet.cure.isPending}
          onCure={(f) => sheet.cure.mutate(f)}
          onGo={(f) => {
            const block = blocks.find((b) => b.lines.some((l) => l.line === f.line) || b.head?.line === f.line)
            if (block) setChosen(block.path)
            setFolded(new Set())
            requestAnimationFrame(() => document.getElementById(`line-${f.line}`)?.focus())
          }}
        />
      </div>
      <Tide state={pointed ?? current?.owner ?? ''} onState={setPointed} />
      {patterns && <PatternsDialog program={program} onClose={() => setPatterns(false)} onInsert={(next) => sheet.keep(next)} />}
      {routine !== null && <KeepRoutineDialog routine={routine} program={which} onClose={() => setRoutine(null)} />}
      {sheet.conflict && <ConflictDialog conflict={sheet.conflict} onSettle={sheet.settle} />}
    </main>
  )
}

function Margin({
  lines,
  findings,
  faults,
  current,
  busy,
  onCure,
  onGo,
}: {
  lines: SheetLine[]
  findings: Finding[]
  faults: number
  current: string
  busy: boolean
  onCure: (f: Finding) => void
  onGo: (f: Finding) => void
}) {
  const order = ['stops', 'risky', 'holds', 'advice']
  const sorted = [...findings].sort(
    (a, b) => order.indexOf(a.severity) - order.indexOf(b.severity) || Number(b.owner === current) - Number(a.owner === current),
  )
  const numbers = lines
    .filter((l) => l.owner === current)
    .flatMap((l) => l.pieces)
    .filter((p) => p.kind === 'number')
  const open = findings.filter((f) => f.severity === 'stops' || f.severity === 'risky').length
  return (
    <aside className="margin" aria-label="Findings">
      <h2 className="small-head">{faults > 0 ? 'Mend the faults first' : open === 0 ? 'Nothing to settle' : `${open} to settle`}</h2>
      {faults > 0 && <p className="fine">The machine can be checked and run once every line can be read. What you typed is kept.</p>}
      {sorted.map((f, i) => (
        <Note
          key={f.code + f.line}
          id={`note-${f.code}-${f.line}`}
          lead={i === 0}
          tone={f.severity}
          word={`${words[f.severity]}${f.line > 0 ? `, ${f.owner ? `${f.owner} line ${f.lineOfOwner}` : 'head'}` : ''}`}
          title={f.headline}
          action={
            <span className="row">
              {f.cure && (
                <Button onClick={() => onCure(f)} disabled={busy}>
                  {f.cure.label}
                </Button>
              )}
              {f.line > 0 && f.severity !== 'holds' && (
                <Button variant="text" onClick={() => onGo(f)}>
                  Show the line
                </Button>
              )}
            </span>
          }
        >
          {f.say}
        </Note>
      ))}
      <div className="note">
        <h2 className="small-head">Where numbers come from</h2>
        <div className="keys">
          <span>
            <span className="num measured">measured</span> on this copy
          </span>
          <span>
            <span className="num calculated">calculated</span> from measurements
          </span>
          <span>
            <span className="num guessed">guessed</span> and never tested
          </span>
          <span>
            <span className="num chosen">chosen</span> by you
          </span>
        </div>
        {numbers.length > 0 && (
          <h2 className="small-head" style={{ marginTop: 14 }}>
            Numbers in {current || 'the head'}
          </h2>
        )}
        <div className="keys">
          {numbers.map((n, i) => (
            <span key={i}>
              <span className={`num ${n.provenance}`}>{n.text}</span> {n.source}
            </span>
          ))}
        </div>
      </div>
    </aside>
  )
}
