/** What is done to whole states, regions and routines of a script. Lines count from 1; a script that cannot be changed so comes back as it was. */
export type Done = { script: string; line: number }

const deep = (line: string) => line.length - line.trimStart().length
const blank = (line: string | undefined) => line === undefined || line.trim() === ''
const note = (line: string) => line.trimStart().startsWith('#')
const isState = (line: string) => /^\s*state\b/.test(line)
const isRegion = (line: string) => /^\s*region\b/.test(line)
const nameIn = (line: string) => /^\s*(?:state|region|routine|deep history|history|var|const)\s+([^,:=(]+)/.exec(line)?.[1]?.trim() ?? null

/** Where a state, region or routine begins, with the comments above it, and where all that stands in it ends: as indices, the second past the end. */
export function extent(lines: string[], head: number): [number, number] {
  let start = head - 1
  while (start > 0 && note(lines[start - 1]!)) start--
  let end = head
  for (let i = head; i < lines.length; i++) {
    if (blank(lines[i])) continue
    if (deep(lines[i]!) <= deep(lines[head - 1]!)) break
    end = i + 1
  }
  return [start, end]
}

/** The line of the state before or after it in the same place; 0 when it is the first or last. */
export function sibling(lines: string[], head: number, by: -1 | 1): number {
  const own = deep(lines[head - 1]!)
  for (let i = head - 1 + by; i >= 0 && i < lines.length; i += by) {
    if (blank(lines[i]) || note(lines[i]!)) continue
    if (deep(lines[i]!) < own || (deep(lines[i]!) === own && isRegion(lines[i]!))) return 0
    if (deep(lines[i]!) === own && isState(lines[i]!)) return i + 1
  }
  return 0
}

/** The line that a state stands in; 0 at the margin. */
export function parentOf(lines: string[], head: number): number {
  for (let i = head - 2; i >= 0; i--) if (!blank(lines[i]) && !note(lines[i]!) && deep(lines[i]!) < deep(lines[head - 1]!)) return i + 1
  return 0
}

/** Lines of the states that stand directly in a state. */
export function inside(lines: string[], head: number, what: (line: string) => boolean = isState): number[] {
  const [, end] = extent(lines, head)
  const found: number[] = []
  for (let i = head; i < end; i++) if (what(lines[i]!) && deep(lines[i]!) === deep(lines[head - 1]!) + 2) found.push(i + 1)
  return found
}

/** True when regions stand in it, so that no states can. */
export const hasRegions = (lines: string[], head: number) => inside(lines, head, isRegion).length > 0

const flagged = (line: string, initial: boolean) => {
  const [head = '', ...flags] = line
    .trimEnd()
    .split(',')
    .map((p, i) => (i === 0 ? p : p.trim()))
  const kept = flags.filter((f) => f !== '' && f !== 'initial')
  return [head, ...(initial ? ['initial'] : []), ...kept].join(', ')
}
const isInitial = (line: string) =>
  line
    .split(',')
    .slice(1)
    .some((f) => f.trim() === 'initial')
const isFinal = (line: string) =>
  line
    .split(',')
    .slice(1)
    .some((f) => f.trim() === 'final')

/** A state moved past its neighbour, with everything in it. */
export function movedState(script: string, head: number, by: -1 | 1): Done {
  const lines = script.split('\n')
  const other = sibling(lines, head, by)
  if (other === 0) return { script, line: head }
  const [a, b] = by < 0 ? [extent(lines, other), extent(lines, head)] : [extent(lines, head), extent(lines, other)]
  const [first, gap, second] = [lines.slice(...a), lines.slice(a[1], b[0]), lines.slice(...b)]
  lines.splice(a[0], b[1] - a[0], ...second, ...gap, ...first)
  const comments = head - 1 - (by < 0 ? b[0] : a[0])
  return { script: lines.join('\n'), line: (by < 0 ? a[0] : a[0] + second.length + gap.length) + comments + 1 }
}

/** A state put into the one before it. The first in there is where it begins; where it was the beginning itself, the other is now. */
export function nested(script: string, head: number): Done {
  const lines = script.split('\n')
  const into = sibling(lines, head, -1)
  if (into === 0 || hasRegions(lines, into) || isFinal(lines[into - 1]!)) return { script, line: head }
  const first = inside(lines, into).length === 0
  const [start, end] = extent(lines, head)
  if (isInitial(lines[head - 1]!)) lines[into - 1] = flagged(lines[into - 1]!, true)
  lines[head - 1] = flagged(lines[head - 1]!, first)
  for (let i = start; i < end; i++) if (!blank(lines[i])) lines[i] = `  ${lines[i]}`
  return { script: lines.join('\n'), line: head }
}

/** A state taken out of the one it stands in, to follow it. Where it was the beginning, the first that is left is. */
export function unnested(script: string, head: number): Done {
  const lines = script.split('\n')
  const parent = parentOf(lines, head)
  if (parent === 0 || !isState(lines[parent - 1]!)) return { script, line: head }
  const began = isInitial(lines[head - 1]!)
  lines[head - 1] = flagged(lines[head - 1]!, false)
  const [start, end] = extent(lines, head)
  const after = extent(lines, parent)[1]
  const taken = lines.slice(start, end).map((l) => (blank(l) ? l : l.slice(2)))
  const rest = lines.slice(end, after)
  while (rest.length > 0 && blank(rest[0])) rest.shift()
  const before = lines.slice(0, start)
  while (before.length > 0 && blank(before.at(-1))) before.pop()
  const kept = rest.length > 0 ? ['', ...rest] : []
  const next = [...before, ...kept, '', ...taken, ...lines.slice(after)]
  const left = inside(next, parent)
  if (began && left.length > 0) next[left[0]! - 1] = flagged(next[left[0]! - 1]!, true)
  return { script: next.join('\n'), line: before.length + kept.length + 1 + (head - 1 - start) + 1 }
}

/** A name that nothing in the script has yet. */
export function freeName(script: string, stem: string): string {
  const taken = new Set(script.split('\n').map(nameIn))
  if (!taken.has(stem)) return stem
  const root = stem.replace(/ \d+$/, '')
  let n = 2
  while (taken.has(`${root} ${n}`)) n++
  return `${root} ${n}`
}

/** A copy of a state below it, with everything in it. Its states get names of their own, and what goes from one to another in it goes there in the copy. */
export function duplicatedState(script: string, head: number): Done {
  const lines = script.split('\n')
  const [start, end] = extent(lines, head)
  const names = new Map<string, string>()
  let known = script
  for (const l of lines.slice(head - 1, end)) {
    const name = /^\s*(?:state|region|deep history|history)\b/.test(l) ? nameIn(l) : null
    if (name === null) continue
    const fresh = freeName(known, name)
    names.set(name, fresh)
    known += `\nstate ${fresh}`
  }
  const escape = (s: string) => s.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')
  const copy = lines.slice(start, end).map((l, i) => {
    if (note(l) || blank(l)) return l
    let made = l
    const own = /^\s*(?:state|region|deep history|history)\b/.test(l) ? nameIn(l) : null
    if (own !== null) made = made.replace(own, names.get(own)!)
    for (const [was, is] of names)
      made = made
        .replace(new RegExp(`\\b(go|is in) ${escape(was)}(?= inside$|$|[:;,)]| (?:if|and|or|for)\\b)`, 'g'), `$1 ${is}`)
        .replace(new RegExp(`(^|[\\s(])${escape(was)} is in `, 'g'), `$1${is} is in `)
    return start + i === head - 1 ? flagged(made, false) : made
  })
  lines.splice(end, 0, '', ...copy)
  return { script: lines.join('\n'), line: end + 1 + (head - 1 - start) + 1 }
}

/** A line again below itself. */
export function duplicatedLine(script: string, line: number): Done {
  const lines = script.split('\n')
  lines.splice(line, 0, lines[line - 1]!)
  return { script: lines.join('\n'), line: line + 1 }
}

/** Where the regions end and the routines or the last comments begin: an index. */
export function endOfRegions(lines: string[]): number {
  let end = lines.findIndex((l) => /^routine\b/.test(l))
  if (end < 0) end = lines.length
  while (end > 0 && (blank(lines[end - 1]) || (note(lines[end - 1]!) && deep(lines[end - 1]!) === 0))) end--
  return end
}

/** A region more, beside the others, with a state to begin in. */
export function withRegion(script: string): Done {
  const lines = script.split('\n')
  const at = endOfRegions(lines)
  const name = freeName(script, lines.some((l) => /^region\b/.test(l)) ? 'Second region' : 'Main')
  lines.splice(at, 0, '', `region ${name}`, `  state ${freeName(script, 'Start')}, initial`)
  return { script: lines.join('\n'), line: at + 2 }
}

/** A routine more, with a state to begin in and one to end in. */
export function withRoutine(script: string): Done {
  const lines = script.trimEnd().split('\n')
  const name = freeName(script, 'Routine')
  lines.push('', `routine ${name}`, '  state Begin, initial', '', '  state Over, final', '')
  return { script: lines.join('\n'), line: lines.length - 4 }
}

/** A region more inside a state that holds no states. */
export function withRegionInside(script: string, head: number): Done {
  const lines = script.split('\n')
  if (inside(lines, head).length > 0 || isFinal(lines[head - 1]!)) return { script, line: head }
  const own = ' '.repeat(deep(lines[head - 1]!) + 2)
  const end = extent(lines, head)[1]
  const name = freeName(script, `${nameIn(lines[head - 1]!) ?? 'Inner'} side`)
  lines.splice(end, 0, '', `${own}region ${name}`, `${own}  state ${freeName(script, 'Start')}, initial`)
  return { script: lines.join('\n'), line: end + 2 }
}
