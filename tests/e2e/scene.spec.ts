import { readFile } from 'node:fs/promises'
import { expect, expectAccessible, press, test } from './fixtures'

const scrubber = '/rigs/deck-scrubber/simulate'

test('a scene is written by keyboard, drawn, moved on the plan, undone, and a fault is said at its line', async ({ page, open }) => {
  await open(scrubber)
  const sheet = page.getByRole('group', { name: 'Sentences of As in the shed' })
  await expect(sheet.getByText(/bollard/)).toBeVisible()
  await expectAccessible(page)

  // A line is added with what may follow it.
  await sheet.getByRole('button', { name: /^scene/ }).focus()
  await page.keyboard.press('Alt+Enter')
  const line = page.getByRole('combobox', { name: 'New line' })
  await line.fill('thing buc')
  await line.fill('thing bucket round 60 mm 200 g at (500, 300)')
  await press(line)
  await expect(page.getByText(/^Kept as revision 2: added to the scene As in the shed/)).toBeVisible()
  const bucket = page.getByRole('button', { name: /bucket/ }).first()
  await expect(bucket).toBeVisible()

  // It is moved on the plan by keys, which writes its numbers anew.
  const row = await bucket.getAttribute('data-row')
  await page
    .getByRole('button', { name: `Line ${row}, move with the arrow keys` })
    .first()
    .focus()
  await page.keyboard.press('ArrowRight')
  await expect(page.getByText(/^Kept as revision 3: moved something/)).toBeVisible()
  await expect(sheet.getByText(/\(500, 300\)/)).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(sheet.getByRole('button', { name: /bucket/ })).toContainText('(500, 300)')

  // A paint that no eye knows is told below its own line, and goes with it.
  await sheet.getByRole('button', { name: /bucket/ }).focus()
  await page.keyboard.press('Alt+Enter')
  await page
    .getByRole('combobox', { name: 'New line' })
    .fill('patch slick of weed 90 by 60 mm at (500 give or take 9, 150), in 30 of 100 runs')
  await page.keyboard.press('Enter')
  const slick = sheet.locator('div', { has: page.getByRole('button', { name: /slick/ }) }).last()
  await expect(slick).toContainText('Left edge eye and Right edge eye look at “weed” in this scene and know nothing of it')
  await expectAccessible(page)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(sheet.getByText(/look at “weed”/)).toHaveCount(0)

  // What does not read is kept in the field and said with its line, as nothing typed is lost.
  await press(sheet.getByRole('button', { name: /bollard/ }))
  const edit = page.getByRole('combobox', { name: /^Line \d+/ })
  await edit.fill('thing bollard round 50 bananas at (690, 400)')
  await press(edit)
  await expect(page.getByText(/mm, cm, m or in|a length such as/).first()).toBeVisible()
})

test('the same seed is the same run, a number is held, the run is taken along, and another scene is proved', async ({ page, open }) => {
  await open(scrubber)
  await page.getByRole('textbox', { name: 'Seed' }).fill('3')
  await page.getByRole('button', { name: 'Run with this seed' }).click()
  const outcome = page.getByTestId('outcome')
  await expect(outcome).toContainText(/Passed|Failed/)
  const said = (text: string | null) => text!.replace(/Run \d+/, '')
  const first = said(await outcome.textContent())
  const events = page.locator('.events')
  await expect(events.getByRole('button').first()).toBeVisible()
  const told = await events.textContent()
  await page.getByRole('textbox', { name: 'Seed' }).fill('4')
  await page.getByRole('button', { name: 'Run with this seed' }).click()
  await expect(events).not.toHaveText(told!)
  await page.getByRole('textbox', { name: 'Seed' }).fill('3')
  await page.getByRole('button', { name: 'Run with this seed' }).click()
  await expect(events).toHaveText(told!)
  expect(said(await outcome.textContent())).toBe(first)

  const download = page.waitForEvent('download')
  await page.getByRole('link', { name: 'value changes as VCD' }).click()
  expect((await download).suggestedFilename()).toMatch(/^deck-scrubber-run-\d+\.vcd$/)

  await page
    .getByRole('button', { name: /^What if/ })
    .first()
    .click()
  const hold = page.getByRole('textbox', { name: /^Hold / })
  await hold.fill('lots')
  await press(hold)
  await expect(page.getByText('Give a number.')).toBeVisible()
  await hold.fill('1')
  await press(hold)
  await expect(outcome).toContainText('Held:')
  // The first run stays beside it, on the same time line.
  await expect(page.getByTestId('beside')).toContainText(/(passed|failed)\. .*(They part at [\d.]+ s|Both go the same way)\./s)
  await expect(page.getByRole('heading', { name: 'With nothing held' })).toBeVisible()
  await expectAccessible(page)

  // Place and strips as pictures that need nothing else.
  const drawn = page.waitForEvent('download')
  await page.getByRole('button', { name: 'SVG', exact: true }).click()
  const file = await drawn
  expect(file.suggestedFilename()).toMatch(/^deck-scrubber-run-\d+\.svg$/)
  const text = await readFile((await file.path())!, 'utf8')
  expect(text).not.toContain('var(--')
  expect(text.match(/<svg/g)!.length).toBeGreaterThanOrEqual(4)
  const painted = page.waitForEvent('download')
  await page.getByRole('button', { name: 'PNG', exact: true }).click()
  const png = await readFile((await (await painted).path())!)
  expect(png.subarray(1, 4).toString()).toBe('PNG')

  // The deck of 760 by 560 mm on sheets of 180 by 256 mm, each of them exactly so large on paper.
  await page.evaluate(() => {
    window.print = () => undefined
  })
  await page.getByRole('combobox', { name: 'Scale of the print' }).selectOption('1')
  await page.getByRole('button', { name: 'Print on 15 sheets of A4' }).click()
  await expect(page.getByTestId('tile')).toHaveCount(15)
  await page.emulateMedia({ media: 'print' })
  const tile = page.getByTestId('tile').nth(6).locator('svg')
  const paper = (await tile.boundingBox())!
  expect(paper.width / 96).toBeCloseTo(180 / 25.4, 2)
  expect(paper.height / 96).toBeCloseTo(256 / 25.4, 2)
  expect(await tile.getAttribute('viewBox')).toBe('180 256 180 256')
  await page.emulateMedia({ media: null })
  const sheets = (await page.pdf({ format: 'A4' })).toString('latin1')
  expect(sheets.match(/\/Type\s*\/Page\b/g)).toHaveLength(15)

  await page.getByRole('link', { name: /^Prove/ }).click()
  await page.getByRole('combobox', { name: 'Scene' }).selectOption('At a slant')
  await page.getByRole('textbox', { name: 'Runs' }).fill('20')
  await page.getByRole('button', { name: 'Prove with 20 runs' }).click()
  await expect(page.getByTestId('proof')).toContainText('of 20 runs pass')
  await expect(page.getByTestId('proof')).toContainText('At a slant')
  await expectAccessible(page)
})
