import { useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { useLocation } from 'react-router'
import Button from '@mui/material/Button'
import { client, tabId, unwrap, type Finding, type Program } from '../../app/api'
import { useEdit } from '../../app/edit'
import { useIsTeam } from '../../app/me'
import { useProgram, useProgramIndex, useRig } from '../../app/rig'
import { ChoiceMenu } from '../../shared/ChoiceMenu'
import { Note } from '../../shared/NoteCard'
import { Tide } from '../../shared/Tide'
import { ConflictCard } from './ConflictCard'
import { ConflictDialog } from './ConflictDialog'
import { KeepRoutineDialog } from './KeepRoutineDialog'
import { LineEditor } from './LineEditor'
import { PatternsDialog } from './PatternsDialog'
import { Place, Resting, useInSight } from './Resting'
import { blocksOf, linesOf, numbersOf, type Act, type Block, type Line } from './sheet'
import { SheetBlock, type SheetActs } from './SheetBlock'
import { useHand } from './useHand'
import { useMake } from './useMake'
import { useScript } from './useScript'
import { useSheet, type Draft } from './useSheet'
import { Views } from './Views'
import { Moment } from '../../shared/Moment'

const words: Record<string, string> = { stops: 'Stops', risky: 'Risky', advice: 'Good to know', holds: 'Holds' }

const offeredAll: NonNullable<Program['notOffered']> = []
const none: Program['changed'] = []

export default function ProgramPage() {
  const { rig } = useRig()
  const team = useIsTeam()
  const { hash } = useLocation()
  const query = useProgram()
  const program = query.data
  const which = useProgramIndex()
  const refocus = useRef<number | null>(null)
  const hand = useHand()
  const sheet = useSheet(program, (line) => {
    refocus.current = line
  })
  const text = useScript(program)
  const { make } = useMake(which)
  const understood = useEdit({
    call: (index: number) =>
      unwrap(
        client.POST('/api/rigs/{id}/programs/{index}/read', {
          params: { path: { id: rig.id, index } },
          body: { baseRevision: program!.revision, copy: rig.copy, by: tabId },
        }),
      ),
    aloud: true,
  })
  const [chosen, setChosen] = useState<string | null>(null)
  const [pointed, setPointed] = useState<string | null>(null)
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set())
  const [sources, setSources] = useState(0)
  const [routine, setRoutine] = useState<string | null>(null)
  const [patterns, setPatterns] = useState(false)
  const blocks = useMemo(() => (program ? blocksOf(program) : []), [program])
  const sight = useInSight(blocks.length)
  const texts = useMemo(() => (program?.script ?? '').split('\n'), [program])
  const holds = (line: number) =>
    blocks.findIndex((b) => linesOf(b).some((l) => l.line === line || l.comments.some((c) => c.line === line)))

  // A line that may be out of sight is drawn before it is gone to.
  const goTo = (line: number) => {
    const at = holds(line)
    if (at >= 0) sight.draw(at)
    requestAnimationFrame(() => document.getElementById(`line-${line}`)?.focus())
  }

  useEffect(() => {
    if (!hash.startsWith('#state-')) return
    const name = decodeURIComponent(hash.replace('#state-', ''))
    const at = blocks.findIndex((b) => b.owner === name)
    const block = blocks[at]
    if (block) {
      setChosen(block.path)
      sight.draw(at)
      setFolded((f) => (f.size === 0 ? f : new Set([...f].filter((p) => !`${block.path}/`.startsWith(`${p}/`)))))
    }
    document.getElementById(`state-${name}`)?.scrollIntoView({ block: 'center' })
    // Where the address points is gone to once for each program that is shown.
    // eslint-disable-next-line
  }, [hash, blocks])
  // At once, before another key can be pressed: none falls beside the sheet.
  useLayoutEffect(() => {
    if (refocus.current === null || sheet.draft) return
    const line = refocus.current
    refocus.current = null
    // What is added next goes where the cursor is, whether it came here by a key or not.
    const home = blocks.find((b) => linesOf(b).some((l) => l.line === line))
    if (home) setChosen(home.path)
    // A focus that fell to nowhere with the editor is put back, one that waits goes along; one that was moved on stays there.
    const take = () => hand.takes(document.getElementById(`line-${line}`))
    if (!take()) {
      sight.draw(holds(line))
      requestAnimationFrame(take)
    }
    // What it calls is made anew with every drawing.
    // eslint-disable-next-line
  }, [program, sheet.draft])

  // A line that was undone, or changed elsewhere, may be drawn anew: the keys stay where they were.
  const lately = useRef(0)
  useEffect(() => {
    if (lately.current === 0 || sheet.draft || document.activeElement !== document.body) return
    const lines = blocks.flatMap((b) => linesOf(b).map((l) => l.line))
    const near = Math.max(...lines.filter((l) => l <= lately.current), 0) || lines[0]
    document.getElementById(`line-${near}`)?.focus({ preventScroll: true })
    // Only a new text takes lines away.
    // eslint-disable-next-line
  }, [program?.script])

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
  const regions = blocks.flatMap((b) => b.regions).filter((l) => l.part === 'region' && l.depth === 0).length
  const faultsOf = useMemo(() => Map.groupBy(program?.diagnostics ?? [], (d) => d.line), [program])
  const findingsOf = useMemo(() => Map.groupBy(program?.findings ?? [], (f) => f.line), [program])
  const current = blocks.find((b) => b.path === chosen) ?? blocks.find((b) => b.owner)
  const begin = (draft: Omit<Draft, 'base' | 'was' | 'revision'>) =>
    program && sheet.setDraft({ ...draft, base: program.script, revision: program.revision, was: texts[draft.line - 1] ?? '' })
  const edit = (line: Line) => begin({ act: 'set', line: line.line, part: line.part, owner: '', text: line.text })
  const put = (act: Act, line: number) => {
    hand.asks()
    void sheet.act(act, line)
  }
  const stateAct = (act: Act, block: Block) => block.head && put(act, block.head.line)
  const fold = (path: string) =>
    setFolded((f) => {
      const next = new Set(f)
      if (!next.delete(path)) next.add(path)
      return next
    })
  const addState = (block: Block | null, inner: boolean) =>
    block?.head
      ? begin({ act: inner ? 'addInside' : 'addState', line: block.head.line, part: 'state', owner: block.path, text: 'state ' })
      : begin({ act: 'addState', line: 0, part: 'state', owner: ' new', text: count === 0 ? 'state Start, initial' : 'state ' })
  const lineKeys = (e: React.KeyboardEvent, line: Line, block: Block) => {
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
      'Alt+ArrowUp': () => put('up', line.line),
      'Alt+ArrowDown': () => put('down', line.line),
      'Alt+Shift+ArrowDown': () => put('copy', line.line),
      Delete: () => put('takeOut', line.line),
      ArrowDown: () => step(1),
      ArrowUp: () => step(-1),
      i: () => setSources(sources === line.line ? 0 : line.line),
      s: () => addState(block.owner ? block : null, false),
      r: () => put('region', 0),
      o: () => put('routine', 0),
    }
    if (isState) {
      if (block.can.includes('addInside')) keys['Shift+S'] = () => addState(block, true)
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
      comment: (c, t, b) => latest.current.comment(c, t, b),
      addLine: (l, b) => latest.current.addLine(l, b),
      lineKeys: (e, l, b) => latest.current.lineKeys(e, l, b),
      fold: (p) => latest.current.fold(p),
      addState: (b, i) => latest.current.addState(b, i),
      state: (a, b) => latest.current.state(a, b),
      keepRoutine: team ? undefined : (n) => setRoutine(n),
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
      comment: (at) => begin({ act: 'set', line: at, part: 'comment', owner: '', text: texts[at - 1]!.trim() }),
      addLine: (line, block) =>
        begin({
          act: 'add',
          line: line.line,
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

  if (!program) return <Moment />
  const leave = () => {
    hand.asks()
    refocus.current = sheet.draft!.line
    if (sheet.conflict) sheet.settle(false)
    else sheet.setDraft(null)
  }
  const draft = sheet.draft
  const isNew = draft !== null && draft.act !== 'set'
  const newState = isNew && draft.act !== 'add'
  const holder = !draft || sheet.conflict ? undefined : newState ? blocks.find((b) => b.path === draft.owner) : blocks[holds(draft.line)]
  const holderLine = draft && !isNew ? holder?.lines.some((l) => l.line === draft.line) : false
  const editor = draft && (
    <LineEditor
      key={`${draft.act} ${draft.line}`}
      rigId={rig.id}
      label={isNew ? `New line${!newState && draft.owner.trim() ? ` in ${draft.owner}` : ''}` : `Line ${draft.line}`}
      text={draft.text}
      busy={sheet.busy}
      problem={sheet.problem}
      place={{ act: draft.act, line: draft.line, baseRevision: draft.revision, program: which ?? null }}
      onText={(text) => sheet.setDraft({ ...draft, text })}
      onKeep={(text) => {
        hand.asks()
        sheet.keep(text)
      }}
      onLeave={leave}
      onMake={(offer) => make(offer, draft.line, draft.revision)}
      more={
        holderLine
          ? [
              { label: 'Up', act: () => put('up', draft.line) },
              { label: 'Down', act: () => put('down', draft.line) },
              { label: 'Copy', act: () => put('copy', draft.line) },
              { label: 'Take out', act: () => put('takeOut', draft.line) },
            ]
          : []
      }
    />
  )
  const lost = program.diagnostics.filter((d) => holds(d.line) < 0)
  const hidden = (b: Block) => folded.size > 0 && [...folded].some((p) => b.path.startsWith(`${p}/`))

  return (
    <main>
      <div className="program">
        <section
          className="sheet"
          aria-label="Sheet"
          onFocus={(e) => {
            lately.current = Number(e.target.id.match(/^line-(\d+)$/)?.[1] ?? 0)
          }}
          onBlur={(e) => {
            if (e.relatedTarget) lately.current = 0
          }}
        >
          <Views at="sheet">
            <span className="push hidden-text">
              {regions > 1 ? `${regions} regions` : 'Main'}, {count} {count === 1 ? 'state' : 'states'}. Click a line to edit it.
            </span>
            <span className="push" />
            <Button onClick={() => addState(null, false)}>Add a state</Button>
            <Button onClick={() => setPatterns(true)} aria-label="Put in a pattern">
              Pattern
            </Button>
            <ChoiceMenu
              word="More"
              items={[
                ['Add a region beside the others', () => put('region', 0)],
                ['Add a routine', () => put('routine', 0)],
                [
                  'Add a variable, goal or rule',
                  () =>
                    begin({
                      act: 'add',
                      line: blocks[0]!.lines.at(-1)?.line ?? blocks[0]!.head?.line ?? 1,
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
          {program.changed.length > 0 && (
            <div className="row" style={{ marginBottom: 8 }} data-testid="otherwise">
              <p className="fine" style={{ margin: 0 }}>
                This program was written before. {program.changed.length === 1 ? 'One line does' : `${program.changed.length} lines do`}{' '}
                otherwise now; each says so.
              </p>
              <Button onClick={() => understood.keep(program.index)} disabled={understood.busy}>
                I have read it
              </Button>
            </div>
          )}
          {count === 0 && (
            <p className="lead">A program has states, and a state has lines. Add the first state to begin, or put in a pattern.</p>
          )}
          {lost.map((d, i) => (
            <p key={i} className="fault">
              {d.message}
            </p>
          ))}
          {sheet.conflict && <ConflictCard conflict={sheet.conflict} editor={editor} onSettle={sheet.settle} />}
          {blocks.map((block, index) => {
            if (hidden(block)) return null
            const here = holder === block
            const key = `${block.path} ${twins.get(block) ?? 0}`
            if (!here && !sight.drawn(index))
              return (
                <Place key={key} index={index} path={key} watch={sight.watch}>
                  <Resting block={block} height={sight.heights.get(key)} />
                </Place>
              )
            const at = here && draft ? draft.line : 0
            const lines = linesOf(block)
            return (
              <Place key={key} index={index} path={key} watch={sight.watch}>
                <SheetBlock
                  block={block}
                  kinds={program.kinds}
                  acts={acts}
                  faults={lines.flatMap((l) => faultsOf.get(l.line) ?? [])}
                  changed={program.changed.length === 0 ? none : lines.flatMap((l) => program.changed.filter((c) => c.line === l.line))}
                  kindly={
                    program.notOffered?.length ? lines.flatMap((l) => program.notOffered!.filter((n) => n.line === l.line)) : offeredAll
                  }
                  findings={lines.flatMap((l) => findingsOf.get(l.line) ?? [])}
                  lit={pointed !== null ? block.owner === pointed : block.path === current?.path}
                  open={block.path === current?.path && !draft && block.head !== null}
                  folded={folded.has(block.path)}
                  hides={folded.has(block.path) ? blocks.filter((b) => b.path.startsWith(`${block.path}/`)).length : 0}
                  tellsRegions={regions > 1}
                  editor={here ? editor : null}
                  at={at}
                  isNew={here && isNew}
                  newState={here && newState}
                  sources={lines.some((l) => l.line === sources) ? sources : 0}
                />
              </Place>
            )
          })}
          {newState && !holder && !sheet.conflict && (
            <div className="block editing">
              <div className="state-name">New state</div>
              {editor}
            </div>
          )}
        </section>
        <Margin
          program={program}
          lines={(current ? blocks.filter((b) => b.owner === current.owner) : blocks.slice(0, 1)).flatMap((b) => [
            ...(b.head ? [b.head] : []),
            ...b.lines,
          ])}
          findings={program.findings}
          faults={[...new Set(program.diagnostics.map((d) => d.line))].map((line) => ({
            line,
            text: texts[line - 1]?.trim() || `line ${line}`,
          }))}
          onLine={(line) => {
            const block = blocks[holds(line)]
            if (block) setChosen(block.path)
            setFolded(new Set())
            goTo(line)
          }}
          current={current?.owner ?? ''}
          busy={sheet.cure.busy}
          onCure={(f) => sheet.cure.keep(f)}
          onGo={(f) => {
            const block = blocks.find((b) => b.lines.some((l) => l.line === f.line) || b.head?.line === f.line)
            if (block) setChosen(block.path)
            setFolded(new Set())
            goTo(f.line)
          }}
        />
      </div>
      <Tide state={pointed ?? current?.owner ?? ''} onState={setPointed} />
      {text.conflict && <ConflictDialog conflict={text.conflict} onSettle={text.settle} />}
      {patterns && <PatternsDialog program={program} onClose={() => setPatterns(false)} onInsert={text.keep} />}
      {routine !== null && <KeepRoutineDialog routine={routine} program={which} onClose={() => setRoutine(null)} />}
    </main>
  )
}

function Margin({
  program,
  lines,
  findings,
  faults,
  current,
  busy,
  onCure,
  onGo,
  onLine,
}: {
  program: Program
  lines: Line[]
  findings: Finding[]
  /** Lines that cannot be read, or make no sense yet. */
  faults: { line: number; text: string }[]
  onLine: (line: number) => void
  current: string
  busy: boolean
  onCure: (f: Finding) => void
  onGo: (f: Finding) => void
}) {
  const order = ['stops', 'risky', 'holds', 'advice']
  const sorted = [...findings].sort(
    (a, b) => order.indexOf(a.severity) - order.indexOf(b.severity) || Number(b.owner === current) - Number(a.owner === current),
  )
  const numbers = lines.flatMap((l) => numbersOf(l, program.kinds))
  const open = findings.filter((f) => f.severity === 'stops' || f.severity === 'risky').length
  return (
    <aside className="margin" aria-label="Findings">
      <h2 className="small-head">{faults.length > 0 ? 'Mend the faults first' : open === 0 ? 'Nothing to settle' : `${open} to settle`}</h2>
      {faults.length > 0 && (
        <>
          <p className="fine">The machine can be checked and run once every line can be read. What you typed is kept.</p>
          <ul className="faults" aria-label="Lines with faults">
            {faults.slice(0, 30).map((f) => (
              <li key={f.line}>
                <button type="button" className="link" onClick={() => onLine(f.line)}>
                  {f.text}
                </button>
              </li>
            ))}
            {faults.length > 30 && <li className="fine muted">and {faults.length - 30} more</li>}
          </ul>
        </>
      )}
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
              <span className={`num ${n.kind!.provenance}`}>{n.text}</span> {n.kind!.source}
            </span>
          ))}
        </div>
      </div>
    </aside>
  )
}
