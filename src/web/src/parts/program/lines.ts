import type { SheetLine } from '../../app/api'
import type { Draft } from './drafts'
import { extent } from './outline'

/** A state (or the head) with its lines. Its path tells it from others of the same name. */
export type Block = { owner: string; path: string; depth: number; head: SheetLine | null; lines: SheetLine[]; regions: SheetLine[] }

/** Groups the sheet's lines: the head first, then a block a state. */
export function blocksOf(lines: SheetLine[]): Block[] {
  const blocks: Block[] = [{ owner: '', path: '', depth: 0, head: null, lines: [], regions: [] }]
  let regions: SheetLine[] = []
  const stack: { depth: number; name: string }[] = []
  const enter = (depth: number, name: string) => {
    while (stack.length > 0 && stack.at(-1)!.depth >= depth) stack.pop()
    stack.push({ depth, name })
    return stack.map((s) => s.name).join('/')
  }
  for (const line of lines) {
    if (line.part === 'region' || line.part === 'routine') {
      enter(line.depth, line.text)
      regions.push(line)
      continue
    }
    if (line.part === 'state') {
      blocks.push({ owner: line.owner, path: enter(line.depth, line.owner), depth: line.depth, head: line, lines: [], regions })
      regions = []
    } else if (line.part === 'program') blocks[0]!.head = line
    else blocks.at(-1)!.lines.push(line)
  }
  // A region without a state yet still has its line.
  if (regions.length > 0) blocks.push({ owner: '', path: enter(9, ''), depth: 1, head: null, lines: [], regions })
  return blocks
}

// A line stands as deep as the one above it; under a state line two blanks deeper.
const indentBelow = (above: string, part: string) => {
  if (part === 'state') return '  '
  const own = above.slice(0, above.length - above.trimStart().length)
  return /^\s*state\b/.test(above) ? `${own}  ` : own
}

/** The script with one line as it is being typed, spaces and all. */
export function typed(script: string, line: number, text: string): string {
  const lines = script.split('\n')
  const old = lines[line - 1] ?? ''
  lines[line - 1] = old.slice(0, old.length - old.trimStart().length) + text
  return lines.join('\n')
}

/** The script with one line replaced, or taken out when the text is empty. */
export function replaced(script: string, line: number, text: string): string {
  const lines = script.split('\n')
  const old = lines[line - 1] ?? ''
  const indent = old.slice(0, old.length - old.trimStart().length)
  if (text.trim() === '') lines.splice(line - 1, 1)
  else lines[line - 1] = indent + text.trim()
  return lines.join('\n')
}

/** The script with a new line after another, indented as that place asks. */
export function inserted(script: string, after: number, text: string, part: string, deep?: number): string {
  const lines = script.split('\n')
  const indent = deep === undefined ? indentBelow(lines[after - 1] ?? '', part) : ' '.repeat(deep)
  lines.splice(after, 0, ...text.split('\n').map((t) => (t === '' ? '' : indent + t)))
  return lines.join('\n')
}

/** The script with a line moved past its neighbour; the same when it cannot move. Comments above a line go with it. */
export function moved(script: string, block: SheetLine[], line: number, by: -1 | 1): { script: string; line: number } {
  const index = block.findIndex((l) => l.line === line)
  const other = block[index + by]
  if (index < 0 || !other) return { script, line }
  const lines = script.split('\n')
  const first = by < 0 ? other : block[index]!
  const second = by < 0 ? block[index]! : other
  const startOf = (l: SheetLine) => {
    let start = l.line - 1
    while (start > 0 && lines[start - 1]!.trim().startsWith('#')) start--
    return start
  }
  const a = lines.slice(startOf(first), first.line)
  const b = lines.slice(startOf(second), second.line)
  const top = startOf(first)
  lines.splice(top, second.line - top, ...b, ...a)
  return { script: lines.join('\n'), line: by < 0 ? top + b.length : top + b.length + a.length }
}

const commentsAbove = (lines: string[], line: number) => {
  let start = line - 1
  while (start > 0 && lines[start - 1]!.trim().startsWith('#')) start--
  return start
}

/** Where the comments above a line stand: their lines, from 1. */
export function commentLines(lines: string[], line: number): number[] {
  const start = commentsAbove(lines, line)
  return Array.from({ length: line - 1 - start }, (_, i) => start + 1 + i)
}

/** The script without a state: its line, its comments and everything in it. */
export function withoutState(script: string, block: Block): string {
  const lines = script.split('\n')
  const [start, end] = extent(lines, block.head!.line)
  lines.splice(start, end - start)
  return lines.join('\n')
}

/** The script with what is being typed put in. */
export function applied(script: string, draft: Draft, text: string): string {
  if (draft.isNew && draft.part === 'state') {
    // The first in its place is where it begins, said or not.
    const whole = draft.first && /^\s*state\s+[^,]+$/.test(text) ? `${text.trimEnd()}, initial` : text
    return inserted(script, draft.line, `\n${whole}`, draft.part, draft.indent)
  }
  if (draft.isNew) return inserted(script, draft.line, text, draft.part)
  return replaced(script, draft.line, text)
}

/** The draft on a script that changed under it: the same line wherever it now stands, or null when it is not there any more. */
export function relocated(draft: Draft, script: string): Draft | null {
  const lines = script.split('\n')
  if (lines[draft.line - 1] === draft.was) return { ...draft, base: script }
  const at = lines.indexOf(draft.was)
  return at >= 0 && lines.indexOf(draft.was, at + 1) < 0 ? { ...draft, line: at + 1, base: script } : null
}
