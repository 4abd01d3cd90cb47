import { expect, test } from '@playwright/test'
import {
  applied,
  blocksOf,
  commentLines,
  inserted,
  moved,
  relocated,
  replaced,
  typed,
  withoutState,
} from '../../src/web/src/parts/program/lines'
import type { Draft } from '../../src/web/src/parts/program/drafts'

const script = [
  'program Tide',
  '',
  '# How many.',
  'var beds = 0',
  '',
  'region Main',
  '  state Low, initial',
  '    # Wait.',
  '    # Long.',
  '    after 2 s: go High',
  '    after 9 s: go Low',
  '',
  '  # The other one.',
  '  state High',
  '    when beds = 3: set beds to 0; go Low',
  '',
].join('\n')

type Line = Parameters<typeof blocksOf>[0][number]
const line = (at: number, owner: string, part: string): Line => ({
  line: at,
  owner,
  part,
  text: script.split('\n')[at - 1]!.trim(),
  comments: [],
  pieces: [],
  depth: 0,
})
const lines = [
  line(1, '', 'program'),
  line(4, '', 'var'),
  line(6, '', 'region'),
  line(7, 'Low', 'state'),
  line(10, 'Low', 'after'),
  line(11, 'Low', 'after'),
  line(14, 'High', 'state'),
  line(15, 'High', 'when'),
]
const at = (text: string, n: number) => text.split('\n')[n - 1]
const draft = (part: Partial<Draft>): Draft => ({
  line: 10,
  isNew: false,
  part: 'after',
  owner: 'Low',
  text: '',
  base: script,
  was: at(script, part.line ?? 10)!,
  ...part,
})

test('the sheet is a head and a block a state', () => {
  const blocks = blocksOf(lines)
  expect(blocks.map((b) => [b.owner, b.head?.line, b.lines.map((l) => l.line)])).toEqual([
    ['', 1, [4]],
    ['Low', 7, [10, 11]],
    ['High', 14, [15]],
  ])
})

test('a line is replaced within its indentation, and an emptied one is taken out', () => {
  expect(at(replaced(script, 10, '  after 3 s: go High '), 10)).toBe('    after 3 s: go High')
  expect(replaced(script, 11, ' ').split('\n')).toHaveLength(script.split('\n').length - 1)
  expect(at(typed(script, 10, 'after 3 '), 10)).toBe('    after 3 ')
})

test('a new line is indented as its place asks', () => {
  expect(at(inserted(script, 4, 'var deep = 1', 'var'), 5)).toBe('var deep = 1')
  expect(at(inserted(script, 10, 'after 4 s: stay', 'when'), 11)).toBe('    after 4 s: stay')
  expect(inserted(script, 15, '\nstate Slack', 'state').split('\n').slice(15, 17)).toEqual(['', '  state Slack'])
})

test('a line moves with the comments above it', () => {
  const block = blocksOf(lines)[1]!.lines
  const down = moved(script, block, 10, 1)
  expect(down.script.split('\n').slice(7, 11)).toEqual(['    after 9 s: go Low', '    # Wait.', '    # Long.', '    after 2 s: go High'])
  expect(at(down.script, down.line)).toBe('    after 2 s: go High')
  const up = moved(script, block, 11, -1)
  expect(up.script).toBe(down.script)
  expect(at(up.script, up.line)).toBe('    after 9 s: go Low')
  // The first cannot go up, nor the last down, and a stranger not at all.
  expect(moved(script, block, 10, -1).script).toBe(script)
  expect(moved(script, block, 11, 1).script).toBe(script)
  expect(moved(script, block, 99, 1).script).toBe(script)
})

test('moving down and up again gives back the script', () => {
  const block = blocksOf(lines)[1]!.lines
  const down = moved(script, block, 10, 1)
  const after = [line(8, 'Low', 'after'), line(11, 'Low', 'after')]
  expect(moved(down.script, after, 11, -1).script).toBe(script)
})

test('comments are the lines right above', () => {
  expect(commentLines(script.split('\n'), 10)).toEqual([8, 9])
  expect(commentLines(script.split('\n'), 4)).toEqual([3])
  expect(commentLines(script.split('\n'), 11)).toEqual([])
  expect(commentLines(script.split('\n'), 1)).toEqual([])
})

test('a state goes with its comments and all its lines', () => {
  const without = withoutState(script, blocksOf(lines)[2]!)
  expect(without).not.toContain('High\n    when')
  expect(without).not.toContain('The other one')
  expect(without).toContain('after 9 s: go Low')
})

test('what is typed is put where it belongs', () => {
  expect(at(applied(script, draft({ text: 'x' }), 'after 5 s: go High'), 10)).toBe('    after 5 s: go High')
  const state = applied(script, draft({ line: 7, part: 'state', was: '  state Low, initial' }), 'state Ebb, initial')
  expect(state).toContain('  state Ebb, initial')
  // What goes there follows at the server, which knows which state is meant.
  expect(state).toContain('after 9 s: go Low')
  expect(at(applied(script, draft({ line: 10, isNew: true }), 'after 6 s: stay'), 11)).toBe('    after 6 s: stay')
})

test('a draft follows its line when the script changes under it, and says when it is gone', () => {
  const longer = inserted(script, 4, 'var deep = 1', 'var')
  expect(relocated(draft({}), longer)).toMatchObject({ line: 11, base: longer })
  expect(relocated(draft({}), script)).toMatchObject({ line: 10 })
  expect(relocated(draft({}), replaced(script, 10, 'after 7 s: go High'))).toBeNull()
  // Two lines of the same text: nobody can say which one was meant.
  const twice = inserted(longer, 11, 'after 2 s: go High', 'after')
  expect(relocated(draft({}), twice)).toBeNull()
})
