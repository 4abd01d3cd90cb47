import type { Page } from '@playwright/test'
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs'
import { test, expect } from './fixtures'

/** The text of each page of a sheet as it comes out of the printer. */
async function printed(page: Page, format: 'A4' | 'Letter'): Promise<string[]> {
  const data = new Uint8Array(await page.pdf({ format }))
  const file = await getDocument({ data, useSystemFonts: false, verbosity: 0 }).promise
  const pages: string[] = []
  for (let i = 1; i <= file.numPages; i++) {
    const at = await file.getPage(i)
    const [, , width, height] = at.view
    // Points: what was asked for is what comes out.
    const [wide, high] = format === 'A4' ? [595, 842] : [612, 792]
    expect(Math.abs(width! - wide!)).toBeLessThan(2)
    expect(Math.abs(height! - high!)).toBeLessThan(2)
    const text = await at.getTextContent()
    pages.push(
      text.items
        .map((t) => ('str' in t ? t.str : ''))
        .join(' ')
        .replace(/\s+/g, ' '),
    )
  }
  await file.cleanup()
  return pages
}

const formats = ['A4', 'Letter'] as const

/** Black on white, without what is only for the screen. */
async function expectPaper(page: Page) {
  await page.emulateMedia({ media: 'print' })
  await expect(page.locator('.spine').first()).toBeHidden()
  const colours = await page.evaluate(() => {
    const of = getComputedStyle(document.querySelector('h1')!)
    return [of.color, getComputedStyle(document.body).backgroundColor]
  })
  const [ink, ground] = colours.map((c) => (c.match(/[\d.]+/g) ?? []).map(Number))
  expect(ink!.slice(0, 3).every((v) => v < 60)).toBe(true)
  expect(ground![3] === 0 || ground!.slice(0, 3).every((v) => v > 240)).toBe(true)
  await page.emulateMedia({ media: null })
}

test('a lesson goes on paper, and what is for the educator alone is on a page of its own', async ({ page, open }) => {
  await open('/courses/a-season-on-the-oyster-farm/3/sheet')
  await expect(page.getByRole('heading', { name: 'Lesson 4: Stop over the third bed' })).toBeVisible()
  await expectPaper(page)
  for (const format of formats) {
    const pages = await printed(page, format)
    expect(pages.length).toBeGreaterThanOrEqual(2)
    expect(pages.length).toBeLessThanOrEqual(3)
    const front = pages.slice(0, -1).join(' ')
    for (const words of [
      'Lesson 4: Stop over the third bed',
      'Team',
      '5 of 10 runs pass in the bench',
      'Zones of sensors',
      'state Over tag',
      'Reasons are given',
    ])
      expect(front).toContain(words)
    expect(front).not.toContain('Walk through it by hand')
    expect(front).not.toContain('when beds = 3: go Stopping')
    expect(pages.at(-1)).toContain('For the educator')
    expect(pages.at(-1)).toContain('when beds = 3: go Stopping')
    expect(pages.at(-1)).toContain('Walk through it by hand')
    expect(pages.join(' ')).not.toContain('Courses')
  }
})

test('exercises go on paper with the answers on the back', async ({ page, open }) => {
  await page.addInitScript(() => {
    window.print = () => undefined
  })
  await open('/train')
  await page.getByLabel('Rig').selectOption('seed-trolley')
  await page.getByRole('button', { name: 'Print a sheet' }).click()
  await expect(page.locator('.exercise-back li')).toHaveCount(6, { timeout: 60_000 })
  await expectPaper(page)
  for (const format of formats) {
    const pages = await printed(page, format)
    expect(pages.length).toBeGreaterThanOrEqual(2)
    expect(pages.length).toBeLessThanOrEqual(8)
    const front = pages.filter((p) => !p.includes('Answers')).join(' ')
    expect(front).toContain('1. What happens next?')
    expect(front).toContain('6. Will it work?')
    expect(front).toContain('Which sentence goes?')
    expect(front).not.toContain('It fits, and it is the first that does')
    // The answers begin on a page of their own.
    expect(
      pages
        .find((p) => p.includes('Answers'))!
        .trim()
        .startsWith('Answers'),
    ).toBe(true)
    expect(pages.join(' ')).not.toContain('Print a sheet')
  }
})

const sheets: [string, string, string[], number][] = [
  ['the machine sheet', '/rigs/seed-trolley/program/table', ['Rolling', 'Over tag', 'beds = 3'], 2],
  ['the calibration card', '/rigs/seed-trolley/sense/card', ['Tag eye', 'bed tag', 'sleepers'], 2],
  ['the wiring table', '/rigs/seed-trolley/rig/wiring', ['Tag eye', 'Trolley'], 2],
]
for (const [name, path, words, most] of sheets)
  test(`${name} fits on its paper, A4 and Letter`, async ({ page, open }) => {
    await open(path)
    await expect(page.getByText(words[0]!).first()).toBeVisible()
    await page.waitForTimeout(500)
    for (const format of formats) {
      const pages = await printed(page, format)
      expect(pages.length).toBeLessThanOrEqual(most)
      for (const w of words) expect(pages.join(' ')).toContain(w)
    }
  })

test('the results of a lesson go on paper with both marks side by side', async ({ page, open, server }) => {
  const post = async (path: string, body: unknown, method = 'POST') =>
    (
      await fetch(server.url + path, { method, headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
    ).json() as Promise<Record<string, unknown>>
  const made = await post('/api/classes', { name: 'Tide pool' })
  await post(`/api/classes/${made.id}/teams`, { name: 'Gulls' })
  await post(`/api/classes/${made.id}/lessons`, { course: 'a-season-on-the-oyster-farm', lesson: 'Every lead in its place' })
  const list = (await (await fetch(`${server.url}/api/classes/${made.id}/lessons`)).json()) as {
    lessons: { teams: { assignment: number }[] }[]
  }
  const given = await post(`/api/lessons/${list.lessons[0]!.teams[0]!.assignment}/hand-in`, { says: 'The pump draws too much.' })
  await post(`/api/hand-ins/${given.id}/marks`, { levels: [2], note: 'Say how much.' }, 'PUT')
  await open(`/class/${made.id}/lessons`)
  await page.getByRole('button', { name: 'What Gulls handed in' }).click()
  await expect(page.getByText('The pump draws too much.')).toBeVisible()
  await expectPaper(page)
  for (const format of formats) {
    const pages = await printed(page, format)
    expect(pages.length).toBeLessThanOrEqual(2)
    for (const w of ['Tide pool', 'Gulls', 'The pump draws too much.', 'Reasons are given', 'The team', 'Say how much.'])
      expect(pages.join(' ')).toContain(w)
  }
})

test('a challenge goes on paper with its field to scale, and a sheet to score on', async ({ page, open }) => {
  await open('/challenges/crumbs-overboard/sheet')
  await expect(page.getByRole('heading', { name: 'Challenge: Crumbs overboard' })).toBeVisible()
  await expectPaper(page)
  for (const format of formats) {
    const pages = await printed(page, format)
    expect(pages.length).toBe(3)
    for (const words of ['Who has more points wins', 'score 10 for each crumb off the deck', 'A run lasts 60 s at most'])
      expect(pages[0]).toContain(words)
    for (const words of ['The field of', '760 by 560 mm', 'crumb', '18 mm across, 3 g', 'Two of it are built'])
      expect(pages[1]).toContain(words)
    for (const words of ['Score sheet', 'Judge', 'Lane', 'Touches', 'Score (points)']) expect(pages[2]).toContain(words)
    expect(pages.join(' ')).not.toContain('Scale of the print')
  }
  // To scale: 760 mm of deck at 1 to 5 are 152 mm of paper, at 96 dots to 25.4 mm.
  const scale = Number(/1 to (\d+)/.exec((await page.locator('.field-plan figcaption').textContent())!)![1])
  await page.emulateMedia({ media: 'print' })
  const edge = await page.evaluate(() => document.querySelector('.field-plan svg rect')!.getBoundingClientRect().width)
  expect(Math.abs((edge / 96) * 25.4 * scale - 760)).toBeLessThan(8)
})

test('results of heats go on paper with a score sheet of their teams', async ({ page, open, server }) => {
  const post = async (path: string, body: unknown) =>
    (
      await fetch(server.url + path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
    ).json() as Promise<Record<string, unknown>>
  const made = await post('/api/classes', { name: 'Tide pool' })
  for (const name of ['Gulls', 'Crabs', 'Whelks', 'Limpets']) await post(`/api/classes/${made.id}/teams`, { name })
  const heats = await post(`/api/classes/${made.id}/heats`, { challenge: 'crumbs-overboard' })
  const { first, second } = heats.next as { first: number; second: number }
  await post(`/api/heats/${heats.id}/score`, { first, second, one: { value: 70 }, other: { value: 40, touches: 1 } })
  await open(`/class/${made.id}/heats/${heats.id}`)
  await expect(page.getByRole('heading', { name: 'Crumbs overboard' })).toBeVisible()
  await expectPaper(page)
  for (const format of formats) {
    const pages = await printed(page, format)
    expect(pages.length).toBeLessThanOrEqual(3)
    const front = pages[0]!
    for (const words of ['Gulls', 'Limpets', '70 points to 30 points', '1 touch']) expect(front).toContain(words)
    expect(front).not.toContain('Start both')
    expect(pages.at(-1)).toContain('Score sheet')
    // Six heats of four teams, each with its lanes.
    expect(pages.at(-1)!.match(/Whelks/g)).toHaveLength(3)
  }
})
