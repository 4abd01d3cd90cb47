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
