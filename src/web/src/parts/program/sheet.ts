import type { Program, Schemas } from '../../app/api'
import type { Draft } from './drafts'

export type Act = Schemas['OutlineAct']
export type Kind = Schemas['KindOfPiece']
/** A piece of a sentence; plain words have no kind. */
export type Piece = { text: string; kind?: Kind }

/** A line of the sheet, as the server says it. */
export type Line = {
  line: number
  part: string
  key: string
  text: string
  comments: Schemas['SheetComment'][]
  depth: number
  name: string
  pieces: number[]
}

/** A state (or the head) with its lines. Its path tells it from others of the same name. */
export type Block = { owner: string; path: string; depth: number; head: Line | null; regions: Line[]; lines: Line[]; can: Act[] }

const known = new WeakMap<Program, Block[]>()

/** The blocks of a program; the same objects however often they are asked for. */
export function blocksOf(program: Program): Block[] {
  const found = known.get(program)
  if (found) return found
  const script = program.script.split('\n')
  const line = (l: Schemas['LineView']): Line => ({
    line: l.line,
    part: l.part,
    key: l.key ?? program.keys[l.part] ?? l.part,
    text: l.text ?? (script[l.line - 1] ?? '').trim(),
    comments: l.comments ?? [],
    depth: l.depth ?? 0,
    name: l.name ?? '',
    pieces: l.pieces,
  })
  // What a state stands in, by depth: names tell it from others of its name elsewhere.
  const stack: { depth: number; name: string }[] = []
  const enter = (depth: number, name: string) => {
    while (stack.length > 0 && stack.at(-1)!.depth >= depth) stack.pop()
    stack.push({ depth, name })
    return stack.map((s) => s.name).join('/')
  }
  const blocks = program.blocks.map((b, i) => {
    const regions = (b.regions ?? []).map(line)
    for (const r of regions) enter(r.depth, r.text)
    return {
      owner: b.owner,
      path: i === 0 ? '' : enter(b.head ? b.depth : 9, b.owner),
      depth: b.depth,
      head: b.head ? line(b.head) : null,
      regions,
      lines: b.lines.map(line),
      can: program.abilities[b.can] ?? [],
    }
  })
  known.set(program, blocks)
  return blocks
}

/** A sentence in pieces, without the words that say what kind of sentence it is. */
export function piecesOf(line: Line, kinds: Kind[]): Piece[] {
  const pieces: Piece[] = []
  const { text } = line
  let at = 0
  if (line.key && text.startsWith(line.key)) {
    at = line.key.length
    if (text[at] === ':') at++
    if (text[at] === ' ') at++
  }
  for (let i = 0; i + 2 < line.pieces.length; i += 3) {
    const [start, length, kind] = [line.pieces[i]!, line.pieces[i + 1]!, line.pieces[i + 2]!]
    if (start > at) pieces.push({ text: text.slice(at, start) })
    pieces.push({ text: text.slice(start, start + length), kind: kinds[kind]! })
    at = start + length
  }
  if (at < text.length) pieces.push({ text: text.slice(at) })
  return pieces
}

/** Its numbers, with where they come from. */
export const numbersOf = (line: Line, kinds: Kind[]) => piecesOf(line, kinds).filter((p) => p.kind?.kind === 'number')

/** Every line of a block that something can be said about. */
export const linesOf = (block: Block) => [...block.regions, ...(block.head ? [block.head] : []), ...block.lines]

/** The draft on a program that changed under it: the same line wherever it now stands, or null when it is not there any more. */
export function relocated(draft: Draft, program: { revision: number; script: string }): Draft | null {
  const at = { revision: program.revision, base: program.script }
  if (draft.line === 0) return { ...draft, ...at }
  const lines = program.script.split('\n')
  if (lines[draft.line - 1] === draft.was) return { ...draft, ...at }
  // Of several alike it is the same one of them, as long as there are as many as before.
  const places = (all: string[]) => all.flatMap((l, i) => (l === draft.was ? [i + 1] : []))
  const [before, now] = [places(draft.base.split('\n')), places(lines)]
  const found = before.length === now.length ? now[before.indexOf(draft.line)] : undefined
  return found === undefined ? null : { ...draft, line: found, ...at }
}
