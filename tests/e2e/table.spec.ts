import { expect, expectAccessible, press, test } from './fixtures'

test('the machine is read and written as a table by keyboard, and its empty cells ask', async ({ page, open }) => {
  await open('/rigs/rack-hoist/program/table')
  const main = page.getByRole('region', { name: 'Region Main' })
  const openCells = page.getByTestId('open-cells')
  await expect(openCells).toContainText('cells are open')
  const before = Number(/\d+/.exec((await openCells.textContent())!)![0])
  await expectAccessible(page)
  // One stop for the tab key; arrows go from cell to cell and into the next table.
  const first = main.getByRole('row').nth(1).getByRole('button').first()
  await first.focus()
  await expect(main.locator('.cell[tabindex="0"]')).toHaveCount(1)
  await page.keyboard.press('End')
  await expect(page.locator('.cell:focus')).toHaveAttribute('aria-label', /^Lowering, by itself: after /)
  for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowDown')
  await expect(page.locator('.cell:focus')).toHaveAttribute('aria-label', /^Dark, /)
  await page.keyboard.press('ArrowUp')
  await expect(page.locator('.cell:focus')).toHaveAttribute('aria-label', /^Stuck, /)

  // A question is answered where it stands.
  await press(main.getByRole('button', { name: 'Resting, when Mast stalls: nothing is said. What if it happens in Resting?' }))
  const line = page.getByRole('combobox', { name: 'New line in Resting' })
  await expect(line).toHaveValue('when Mast stalls: ')
  await expect(line).toBeFocused()
  await page.keyboard.type('go Stuck')
  await expectAccessible(page)
  await page.keyboard.press('Enter')
  await expect(line).toHaveCount(0)
  const made = main.getByRole('button', { name: 'Resting, when Mast stalls: go Stuck' })
  await expect(made).toBeFocused()
  await expect(openCells).toContainText(`${before - 1} cells are open`)

  // It is the same line as in the sheet: changed here, with what is wrong said in place.
  await page.keyboard.press('Enter')
  const own = page.getByRole('combobox', { name: 'Line of Resting' })
  await own.fill('when Mast stalls: go Jammed')
  await expect(page.getByTestId('line-fault')).toContainText('No state “Jammed”')
  await page.keyboard.press('Escape')
  await expect(made).toBeFocused()
  await page.getByRole('link', { name: 'Sheet' }).click()
  await expect(page.locator('[id="state-Resting"]')).toContainText('Mast stalls')

  // Printed without what only the screen needs.
  await page.getByRole('link', { name: 'Table' }).click()
  await expect(made).toBeVisible()
  await page.emulateMedia({ media: 'print' })
  await expect(page.getByRole('button', { name: 'Print' })).toBeHidden()
  await expect(page.getByText('Arrow keys move, Enter writes.')).toBeHidden()
  await expect(made).toBeVisible()
})
