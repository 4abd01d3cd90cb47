import { expect, test } from '@playwright/test'
import { applied } from '../../src/web/src/parts/program/lines'
import {
  duplicatedLine,
  duplicatedState,
  endOfRegions,
  freeName,
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
} from '../../src/web/src/parts/program/outline'

const script = `program Tide

region Main
  # Where it begins.
  state Low, initial
    after 2 s: go High

  state High
    history Back: go Rise
    when beds = 3: go Low

    state Rise, initial
      after 1 s: go Fall

    state Fall
      when Main is in Rise: go Back

  state Ended, final

routine Wave
  state Begin, initial, final
`
const lines = script.split('\n')
const at = (text: string) => lines.findIndex((l) => l.trim() === text) + 1
const text = (s: string, line: number) => s.split('\n')[line - 1]!.trim()

test('states know their neighbours and what they stand in', () => {
  expect(sibling(lines, at('state Low, initial'), 1)).toBe(at('state High'))
  expect(sibling(lines, at('state Low, initial'), -1)).toBe(0)
  expect(sibling(lines, at('state Ended, final'), -1)).toBe(at('state High'))
  expect(sibling(lines, at('state Fall'), 1)).toBe(0)
  expect(parentOf(lines, at('state Fall'))).toBe(at('state High'))
  expect(parentOf(lines, at('state Low, initial'))).toBe(at('region Main'))
  expect(inside(lines, at('state High'))).toEqual([at('state Rise, initial'), at('state Fall')])
  expect(hasRegions(lines, at('state High'))).toBe(false)
})

test('a state moves past its neighbour with all that is in it, and back', () => {
  const down = movedState(script, at('state Low, initial'), 1)
  expect(text(down.script, down.line)).toBe('state Low, initial')
  expect(down.script.split('\n').slice(2, 5)).toEqual(['region Main', '  state High', '    history Back: go Rise'])
  // The comment went along.
  expect(text(down.script, down.line - 1)).toBe('# Where it begins.')
  const back = movedState(down.script, down.line, -1)
  expect(back).toEqual({ script, line: at('state Low, initial') })
  const up = movedState(script, at('state High'), -1)
  expect([up.script, text(up.script, up.line)]).toEqual([down.script, 'state High'])
  expect(movedState(script, at('state Ended, final'), 1).script).toBe(script)
  expect(movedState(script, at('state Fall'), 1).script).toBe(script)
})

test('a state goes into the one above and out again, and something is always where it begins', () => {
  const into = nested(script, at('state High'))
  expect(text(into.script, at('state Low, initial'))).toBe('state Low, initial')
  // It is the first in there, so it begins there.
  expect(into.script.split('\n')[into.line - 1]).toBe('    state High, initial')
  expect(into.script).toContain('\n        after 1 s: go Fall\n')
  const out = unnested(into.script, into.line)
  expect(out).toEqual({ script, line: at('state High') })
  // Where the beginning itself goes in, the one around it begins.
  const swapped = movedState(script, at('state Low, initial'), 1)
  const began = nested(swapped.script, swapped.line)
  expect(began.script).toContain('  state High, initial\n')
  expect(began.script.split('\n')[began.line - 1]).toBe('    state Low')
  // The first that is left begins in its place.
  const taken = unnested(script, at('state Rise, initial'))
  expect(taken.script).toContain('    state Fall, initial\n')
  expect(taken.script.split('\n')[taken.line - 1]).toBe('  state Rise')
  // Not into a final one, nor one with regions, nor out of a region.
  expect(nested(`${script}`, at('state Low, initial')).script).toBe(script)
  expect(unnested(script, at('state Low, initial')).script).toBe(script)
  const sided = withRegionInside(script, at('state Low, initial')).script
  expect(nested(sided, sided.split('\n').findIndex((l) => l.trim() === 'state High') + 1).script).toBe(sided)
})

test('a copy has names of its own, and what goes round in it goes round in the copy', () => {
  const copy = duplicatedState(script, at('state High'))
  expect(copy.script.split('\n').slice(copy.line - 1, copy.line + 9)).toEqual([
    '  state High 2',
    '    history Back 2: go Rise 2',
    '    when beds = 3: go Low',
    '',
    '    state Rise 2, initial',
    '      after 1 s: go Fall 2',
    '',
    '    state Fall 2',
    '      when Main is in Rise 2: go Back 2',
    '',
  ])
  // A second copy gets the next names; the beginning stays where it was.
  expect(duplicatedState(copy.script, at('state High')).script).toContain('  state High 3\n')
  const low = duplicatedState(script, at('state Low, initial'))
  expect([text(low.script, low.line - 1), text(low.script, low.line)]).toEqual(['# Where it begins.', 'state Low 2'])
  expect(duplicatedLine(script, at('after 2 s: go High')).script).toContain('    after 2 s: go High\n    after 2 s: go High\n')
  expect(freeName('state A\nstate A 2', 'A')).toBe('A 3')
  expect(freeName('state A\nstate A 2', 'A 2')).toBe('A 3')
})

test('regions and routines are added where they belong', () => {
  const region = withRegion(script)
  expect(text(region.script, region.line)).toBe('region Second region')
  expect(region.script.indexOf('region Second')).toBeLessThan(region.script.indexOf('routine Wave'))
  expect(text(withRegion('program Empty\n').script, 3)).toBe('region Main')
  const routine = withRoutine(script)
  expect(text(routine.script, routine.line)).toBe('routine Routine')
  expect(routine.script.endsWith('routine Routine\n  state Begin, initial\n\n  state Over, final\n')).toBe(true)
  const inner = withRegionInside(script, at('state Low, initial'))
  expect(inner.script.split('\n').slice(inner.line - 1, inner.line + 1)).toEqual(['    region Low side', '      state Start, initial'])
  expect(withRegionInside(script, at('state High')).script).toBe(script)
  expect(endOfRegions(lines)).toBe(at('state Ended, final'))
})

test('a new state stands as deep as was asked, and the first in its place begins', () => {
  const base = { isNew: true, part: 'state', owner: '', text: '', base: script, was: '' }
  expect(applied(script, { ...base, line: at('after 2 s: go High'), indent: 4, first: true }, 'state Deep')).toContain(
    '    after 2 s: go High\n\n    state Deep, initial\n',
  )
  expect(applied(script, { ...base, line: at('after 2 s: go High'), indent: 2 }, 'state Next')).toContain(
    '    after 2 s: go High\n\n  state Next\n',
  )
})
