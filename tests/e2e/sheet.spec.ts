import { expect, test } from '@playwright/test'
import type { Draft } from '../../src/web/src/parts/program/drafts'
import { blocksOf, numbersOf, piecesOf, relocated } from '../../src/web/src/parts/program/sheet'

const script = [
  'program Tide',
  '',
  'region Main',
  '  state Low, initial',
  '    after 2 s: go High',
  '    on entry: stay',
  '',
  '  state High',
  '',
].join('\n')
type Program = Parameters<typeof blocksOf>[0]
const program = {
  revision: 3,
  script,
  kinds: [
    { kind: 'number', provenance: 'measured', source: '12 trials' },
    { kind: 'target', provenance: null, source: null },
  ],
  keys: { entry: 'on entry' },
  abilities: [[], ['down']],
  blocks: [
    { owner: '', depth: 0, lines: [], can: 0, head: { line: 1, part: 'program', pieces: [], name: 'Tide' } },
    {
      owner: 'Low',
      depth: 1,
      can: 1,
      head: { line: 4, part: 'state', pieces: [] },
      regions: [{ line: 3, part: 'region', pieces: [], depth: 0, name: 'Main' }],
      lines: [
        { line: 5, part: 'after', pieces: [6, 3, 0, 14, 4, 1] },
        { line: 6, part: 'entry', pieces: [] },
      ],
    },
    { owner: 'High', depth: 1, can: 0, head: { line: 8, part: 'state', pieces: [] }, lines: [] },
  ],
} as unknown as Program

test('the sheet is a head and a block a state, each with its path', () => {
  const blocks = blocksOf(program)
  expect(blocks.map((b) => [b.owner, b.path, b.head?.line, b.lines.map((l) => l.line)])).toEqual([
    ['', '', 1, []],
    ['Low', 'region Main/Low', 4, [5, 6]],
    ['High', 'region Main/High', 8, []],
  ])
  expect(blocks[1]!.can).toEqual(['down'])
  expect(blocksOf(program)).toBe(blocks)
})

test('a sentence falls into its pieces after the words it begins with', () => {
  const [after, entry] = blocksOf(program)[1]!.lines
  expect(piecesOf(after!, program.kinds).map((p) => [p.text, p.kind?.kind])).toEqual([
    ['2 s', 'number'],
    [': go ', undefined],
    ['High', 'target'],
  ])
  expect([entry!.key, piecesOf(entry!, program.kinds)]).toEqual(['on entry', [{ text: 'stay' }]])
  expect(numbersOf(after!, program.kinds).map((n) => [n.text, n.kind!.source])).toEqual([['2 s', '12 trials']])
})

const at = (n: number) => script.split('\n')[n - 1]!
const draft = (line: number): Draft => ({
  act: 'set',
  line,
  part: 'after',
  owner: 'Low',
  text: '',
  revision: 3,
  base: script,
  was: line ? at(line) : '',
})
const later = (change: (lines: string[]) => void) => {
  const lines = script.split('\n')
  change(lines)
  return { revision: 4, script: lines.join('\n') }
}

test('a draft follows its line when the program changes under it, and says when it is gone', () => {
  const longer = later((l) => l.splice(1, 0, 'var deep = 1'))
  expect(relocated(draft(5), longer)).toMatchObject({ line: 6, base: longer.script, revision: 4 })
  expect(relocated(draft(5), { revision: 4, script })).toMatchObject({ line: 5, revision: 4 })
  expect(
    relocated(
      draft(5),
      later((l) => (l[4] = '    after 7 s: go High')),
    ),
  ).toBeNull()
  // Two lines of the same text: nobody can say which one was meant.
  expect(
    relocated(
      draft(5),
      later((l) => l.splice(1, 0, at(5), at(5))),
    ),
  ).toBeNull()
  // A new state at the end stands nowhere yet.
  expect(relocated(draft(0), longer)).toMatchObject({ line: 0, revision: 4 })
})
