import { memo, type ReactNode } from 'react'
import Button from '@mui/material/Button'
import type { Finding, Program } from '../../app/api'
import { ChoiceMenu } from '../../shared/ChoiceMenu'
import { Sentence } from './Sentence'
import { numbersOf, type Act, type Block, type Kind, type Line } from './sheet'

type Diagnostic = Program['diagnostics'][number]

/** What can be done in the sheet; the same object however often the page is drawn. */
export type SheetActs = {
  choose: (path: string) => void
  edit: (line: Line) => void
  comment: (at: number, text: string, block: Block) => void
  addLine: (line: Line, block: Block) => void
  lineKeys: (e: React.KeyboardEvent, line: Line, block: Block) => void
  fold: (path: string) => void
  addState: (block: Block, inside: boolean) => void
  state: (act: Act, block: Block) => void
  /** Left out where there is no library to keep it in. */
  keepRoutine?: (name: string) => void
  go: (f: Finding) => void
}

type Props = {
  block: Block
  kinds: Kind[]
  acts: SheetActs
  faults: Diagnostic[]
  /** What lines mean otherwise now than when they were written. */
  changed: Program['changed']
  /** What the lesson does not offer. */
  kindly: NonNullable<Program['notOffered']>
  findings: Finding[]
  /** The block is the chosen one, or pointed at in the strip. */
  lit: boolean
  /** Its buttons stand below it. */
  open: boolean
  folded: boolean
  /** How many states are folded away in it. */
  hides: number
  /** Where region lines are told: with one region only, its line says nothing. */
  tellsRegions: boolean
  editor: ReactNode
  /** The line the editor stands for; 0 for none, and whether it is a new one below that. */
  at: number
  isNew: boolean
  newState: boolean
  /** Line whose numbers say where they come from. */
  sources: number
}

const words: Record<string, string> = { stops: 'Stops', risky: 'Risky', advice: 'Good to know', holds: 'Holds' }

// Lists are made anew with every drawing; what is in them counts.
const unchanged = (a: Props, b: Props) =>
  (Object.keys(a) as (keyof Props)[]).every((k) => {
    const [x, y] = [a[k], b[k]]
    return Array.isArray(x) && Array.isArray(y) && k !== 'kinds' ? x.length === y.length && x.every((v, i) => v === y[i]) : x === y
  })

/** A state of the sheet (or its head) with its lines. */
export const SheetBlock = memo(function SheetBlock({
  block,
  kinds,
  acts,
  faults,
  changed,
  kindly,
  findings,
  lit,
  open,
  folded,
  hides,
  tellsRegions,
  editor,
  at,
  isNew,
  newState,
  sources,
}: Props) {
  const editing = (line: number) => at === line && !isNew
  const can = (act: Act) => block.can.includes(act)
  const step = block.depth > 1 ? { marginLeft: (block.depth - 1) * 14, borderLeft: '1px solid var(--line)' } : undefined
  return (
    <>
      {block.regions.map(
        (region) =>
          (tellsRegions || region.part === 'routine' || region.depth > 0) && (
            <h2 key={region.line} className="small-head region-head" style={{ marginLeft: region.depth * 14 }}>
              {editing(region.line) ? (
                editor
              ) : (
                <span
                  id={`line-${region.line}`}
                  className="sheet-line"
                  role="button"
                  tabIndex={0}
                  style={{ cursor: 'text' }}
                  onClick={() => acts.edit(region)}
                  onKeyDown={(e) => acts.lineKeys(e, region, block)}
                >
                  {region.text}
                </span>
              )}
              {region.part === 'routine' && !editing(region.line) && acts.keepRoutine && (
                <Button variant="text" sx={{ ml: 1.5 }} onClick={() => acts.keepRoutine?.(region.name)}>
                  Keep in the library
                </Button>
              )}
            </h2>
          ),
      )}
      {block.regions
        .flatMap((r) => faults.filter((d) => d.line === r.line && !editing(r.line)))
        .map((d, j) => (
          <p key={j} className="fault">
            {d.message}
          </p>
        ))}
      {(block.head || block.lines.length > 0) && (
        <div
          style={step}
          id={block.owner ? `state-${block.owner}` : undefined}
          className={`block${lit && block.owner ? ' chosen' : ''}${at > 0 ? ' editing' : ''}`}
          onFocus={(e) => {
            if (e.target.matches(':focus-visible')) acts.choose(block.path)
          }}
          onClick={() => acts.choose(block.path)}
        >
          <div>
            {block.head && (
              <div
                id={`line-${block.head.line}`}
                className="state-name sheet-line"
                role="button"
                tabIndex={0}
                aria-label={`Edit ${block.head.text}`}
                aria-expanded={block.owner ? !folded : undefined}
                onKeyDown={(e) => acts.lineKeys(e, block.head!, block)}
                onClick={() => acts.edit(block.head!)}
                style={{ cursor: 'text' }}
              >
                {block.owner || 'Head'}
                <small>{block.owner ? block.head.text.split(',').slice(1).join(',').trim() : block.head.name}</small>
              </div>
            )}
            {block.owner && (folded || lit) && (
              <button
                type="button"
                className="link fine"
                aria-label={`${folded ? 'Unfold' : 'Fold'} ${block.owner}`}
                onClick={(e) => {
                  e.stopPropagation()
                  acts.fold(block.path)
                }}
              >
                {folded ? 'unfold' : 'fold'}
              </button>
            )}
            {block.head &&
              !editing(block.head.line) &&
              faults
                .filter((d) => d.line === block.head!.line)
                .map((d, j) => (
                  <p key={j} className="fault">
                    {d.message}
                  </p>
                ))}
          </div>
          <div>
            {block.head && at === block.head.line && !(isNew && newState) && editor}
            {folded && (
              <p
                className="muted fine"
                style={{ padding: '5px 4px' }}
              >{`${block.lines.length} ${block.lines.length === 1 ? 'line' : 'lines'}${hides > 0 ? ` and ${hides} ${hides === 1 ? 'state' : 'states'}` : ''} folded away`}</p>
            )}
            {!folded &&
              block.lines.map((line) => {
                const found = findings.filter((f) => f.line === line.line && f.severity !== 'holds')
                return (
                  <div key={line.line}>
                    <Comments line={line} block={block} acts={acts} editing={editing} editor={editor} />
                    {editing(line.line) ? (
                      editor
                    ) : (
                      <div className="sentence-row">
                        <div
                          id={`line-${line.line}`}
                          className="sentence sheet-line"
                          role="button"
                          tabIndex={0}
                          onClick={() => acts.edit(line)}
                          onKeyDown={(e) => acts.lineKeys(e, line, block)}
                        >
                          <Sentence line={line} kinds={kinds} />
                        </div>
                        {found.map((f, j) => (
                          <button key={j} type="button" className={`flag ${f.severity}`} title={f.headline} onClick={() => acts.go(f)}>
                            {words[f.severity]}
                            <span className="hidden-text">: {f.headline}</span>
                          </button>
                        ))}
                      </div>
                    )}
                    {sources === line.line && (
                      <p className="under fine" role="status">
                        {numbersOf(line, kinds).map((p, j) => (
                          <span key={j} style={{ marginRight: 14 }}>
                            <span className={`num ${p.kind!.provenance}`}>{p.text}</span> {p.kind!.source}
                          </span>
                        ))}
                        {numbersOf(line, kinds).length === 0 && 'No number stands in this line.'}
                      </p>
                    )}
                    {faults
                      .filter((d) => d.line === line.line && !editing(line.line))
                      .map((d, j) => (
                        <p key={j} className="fault under">
                          {d.message}
                        </p>
                      ))}
                    {changed
                      .filter((c) => c.line === line.line)
                      .map((c, j) => (
                        <p key={j} className="changed under fine">
                          Otherwise now: {c.say}
                        </p>
                      ))}
                    {kindly
                      .filter((n) => n.line === line.line)
                      .map((n) => (
                        <p key={n.kind} className="under fine muted">
                          {n.say}
                        </p>
                      ))}
                    {isNew && !newState && at === line.line && editor}
                  </div>
                )
              })}
            {open && block.head && (
              <div className="under row" style={{ paddingTop: 4, gap: '4px 8px' }}>
                <Button onClick={() => acts.addLine(block.lines.at(-1) ?? block.head!, block)}>Add a line</Button>
                {block.owner && (
                  <ChoiceMenu
                    word="Change this state"
                    label={`Change this state, ${block.owner}`}
                    items={[
                      ['Add a state below', () => acts.addState(block, false), true],
                      ['Add a state inside', () => acts.addState(block, true), can('addInside')],
                      ['Add a region inside', () => acts.state('regionInside', block), can('regionInside')],
                      ['Move it up', () => acts.state('up', block), can('up')],
                      ['Move it down', () => acts.state('down', block), can('down')],
                      ['Put it into the state above', () => acts.state('in', block), can('in')],
                      ['Take it out of the state around it', () => acts.state('out', block), can('out')],
                      ['Copy it', () => acts.state('copy', block), true],
                    ]}
                  />
                )}
                {block.owner && (
                  <Button variant="text" onClick={() => acts.state('takeOut', block)}>
                    Take out this state
                  </Button>
                )}
              </div>
            )}
          </div>
        </div>
      )}
      {isNew && newState && (
        <div className="block" style={step}>
          <div className="state-name">New state</div>
          {editor}
        </div>
      )}
    </>
  )
}, unchanged)

function Comments({
  line,
  block,
  acts,
  editing,
  editor,
}: {
  line: Line
  block: Block
  acts: SheetActs
  editing: (line: number) => boolean
  editor: ReactNode
}) {
  return line.comments.map((c) =>
    editing(c.line) ? (
      <div key={c.line}>{editor}</div>
    ) : (
      <p
        key={c.line}
        id={`line-${c.line}`}
        className="comment"
        role="button"
        tabIndex={0}
        onClick={() => acts.comment(c.line, c.text, block)}
        onKeyDown={(e) => {
          if (e.key === 'Enter') {
            e.preventDefault()
            acts.comment(c.line, c.text, block)
          }
        }}
      >
        <span className="hidden-text">Comment: </span>
        {c.text || '#'}
      </p>
    ),
  )
}
