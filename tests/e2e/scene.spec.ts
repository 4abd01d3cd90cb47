import { expect, expectAccessible, test } from './fixtures'

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
  await line.press('Enter')
  await expect(page.getByText(/^Kept as revision 2: added to the scene As in the shed/)).toBeVisible()
  const bucket = page.getByRole('button', { name: /bucket/ }).first()
  await expect(bucket).toBeVisible()

  // What does not read is kept in the field and said with its line, as nothing typed is lost.
  await sheet.getByRole('button', { name: /bollard/ }).focus()
  await page.keyboard.press('Enter')
  const edit = page.getByRole('combobox', { name: /^Line \d+/ })
  await edit.fill('thing bollard round 50 bananas at (690, 400)')
  await edit.press('Enter')
  await expect(page.getByText(/mm, cm, m or in|a length such as/).first()).toBeVisible()
})

test('the scrubber falls in some runs: the run is replayed, its seed is its own, and the goal is answered', async ({ page, open }) => {
  await open(scrubber)
  await page.getByRole('textbox', { name: 'Seed' }).fill('3')
  await page.getByRole('button', { name: 'Run with this seed' }).click()
  const outcome = page.getByTestId('outcome')
  await expect(outcome).toContainText(/Passed|Failed/)
  const first = await outcome.textContent()
  const events = page.locator('.events')
  await expect(events.getByRole('button').first()).toBeVisible()
  const told = await events.textContent()
  await page.getByRole('textbox', { name: 'Seed' }).fill('4')
  await page.getByRole('button', { name: 'Run with this seed' }).click()
  await expect(events).not.toHaveText(told!)
  await page.getByRole('textbox', { name: 'Seed' }).fill('3')
  await page.getByRole('button', { name: 'Run with this seed' }).click()
  await expect(events).toHaveText(told!)
  await expect(outcome).toHaveText(first!)
  await expectAccessible(page)
})
