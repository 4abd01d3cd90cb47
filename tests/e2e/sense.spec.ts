import { expect, expectAccessible, press, rig, test } from './fixtures'

test('record, paste, open a CSV, and choose a threshold', async ({ page, open }) => {
  await open(`${rig}/sense`)
  const chart = page.getByRole('img', { name: /sleepers: 40 readings/ })
  await expect(chart).toBeVisible()
  await expect(page.getByTestId('live')).toHaveText(/\d+ %/)

  await page.getByTestId('record').click()
  await expect(page.getByTestId('recording')).toContainText(/\d+ of 300/)
  await expect(page.getByRole('img', { name: /bed tag: 340 readings/ })).toBeVisible()

  await page.getByRole('button', { name: 'Paste or type' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByLabel('Readings', { exact: true }).fill('55\nbarnacle\n57')
  await dialog.getByRole('button', { name: 'Take them in' }).click()
  await expect(dialog.getByRole('alert')).toContainText('Line 2: “barnacle” is not a number.')
  await expect(dialog.getByLabel('Readings', { exact: true })).toHaveValue('55\nbarnacle\n57')
  await dialog.getByLabel('Readings', { exact: true }).fill('55\n56\n57')
  await dialog.getByRole('button', { name: 'Take them in' }).click()
  await expect(page.getByRole('img', { name: /bed tag: 343 readings/ })).toBeVisible()

  await page
    .getByLabel('CSV file')
    .setInputFiles({ name: 'eye.csv', mimeType: 'text/csv', buffer: Buffer.from('zone;reading\nsleepers;22,5\nbed tag;54\n') })
  await dialog.getByRole('button', { name: 'Take them in' }).click()
  // Finer than the eye can tell: asked about, and kept by whoever is sure.
  await expect(dialog.getByRole('alert')).toContainText('22.5 is finer than Tag eye can tell, which is 1 %')
  await dialog.getByRole('button', { name: 'Keep them, I am sure' }).click()
  await expect(page.getByRole('img', { name: /sleepers: 41 readings.*bed tag: 344 readings/ })).toBeVisible()

  await page.getByLabel('Threshold placed at').selectOption('equal risk')
  await expect(page.getByRole('row', { name: /equal risk chosen/ })).toBeVisible()
  await expect(page.getByRole('heading', { name: 'Sleepers against bed tag' })).toBeVisible()

  // Undo reaches across: the choice, the file, the paste.
  for (let i = 0; i < 3; i++) {
    await page.keyboard.press('Control+z')
    await expect(page.getByText(/^Undone: /)).toBeVisible()
    await page.waitForTimeout(200)
  }
  await expect(page.getByRole('img', { name: /sleepers: 40 readings.*bed tag: 340 readings/ })).toBeVisible()
  await expect(page.getByRole('row', { name: /midpoint of means chosen/ })).toBeVisible()
})

test('a recording can be stopped and keeps what it has', async ({ page, open }) => {
  await open(`${rig}/sense`)
  await expect(page.getByTestId('live')).toHaveText(/\d+ %/)
  await page.keyboard.press('r')
  await expect(page.getByTestId('recording')).toContainText(/\d+ of 300/)
  await page.getByTestId('recording').getByRole('button', { name: 'Stop' }).click()
  await expect(page.getByText(/Stopped\. The \d+ readings? until then are kept\./)).toBeVisible()
})

test('a file over 4 MB is refused with a sentence and the dots stay', async ({ page, open }) => {
  await open(`${rig}/sense`)
  await page.getByLabel('CSV file').setInputFiles({ name: 'tide.csv', mimeType: 'text/csv', buffer: Buffer.alloc(5_000_000, '55\n') })
  await expect(page.getByText('“tide.csv” is larger than 4 MB.')).toBeVisible()
  await expect(page.getByRole('img', { name: /bed tag: 40 readings/ })).toBeVisible()
})

test('the marker sum follows the program', async ({ page, open }) => {
  await open(`${rig}/sense`)
  await expect(page.getByText(/At the program's 60 % it rolls 40\d mm\/s/)).toBeVisible()
  await page.getByRole('link', { name: 'Open in Program' }).click()
  await page.getByRole('button', { name: 'Use 55 %' }).click()
  await page.keyboard.press('2')
  await expect(page.getByText(/At the program's 55 % it rolls/)).toBeVisible()
  await expect(page.getByText('It stops on its tag')).toBeVisible()
})

test('an outlier is set aside with a reason and taken back, and an earlier calibration is restored', async ({ page, open }) => {
  await open(`${rig}/sense`)
  await page.getByText(/Kept with the readings/).click()
  await page.getByLabel('Taken by').fill('Limpets')
  await page.getByLabel('Place and light').fill('hall, blinds down')
  await page.getByRole('button', { name: 'Paste or type' }).click()
  await page.getByRole('combobox', { name: 'Into zone' }).selectOption('sleepers')
  await page.getByLabel('Readings', { exact: true }).fill('49')
  await page.getByRole('button', { name: 'Take them in' }).click()
  await page.getByRole('button', { name: 'Set 49 aside' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('button', { name: 'Set aside' }).click()
  await expect(dialog.getByRole('alert')).toContainText('Say why')
  await dialog.getByLabel('Why').fill('a hand in the way')
  await page.keyboard.press('Enter')
  await expect(page.getByText('set aside: a hand in the way')).toBeVisible()
  await expect(page.getByRole('row', { name: /midpoint of means/ })).toContainText('38.8')

  await page.getByText('Earlier calibrations and other copies').click()
  await page.getByRole('button', { name: 'Compare 2' }).click()
  await expect(page.getByTestId('comparison')).toContainText('sleepers')
  await page.getByRole('button', { name: 'Compare with copy 2' }).click()
  await expect(page.getByTestId('comparison')).toContainText('sleepers moved up')
  await expectAccessible(page)

  await page.getByRole('link', { name: 'Print the card' }).click()
  await expect(page.getByRole('heading', { name: 'Calibration card: Tag eye' })).toBeVisible()
  await expect(page.getByRole('row', { name: /pasted, on the stand-in Limpets hall, blinds down/ })).toBeVisible()
  await expect(page.getByText('49 of sleepers (a hand in the way)')).toBeVisible()
  await expectAccessible(page)
  await page.getByRole('link', { name: 'Back to Sense' }).click()

  await page.getByRole('button', { name: 'Take 49 back' }).click()
  await expect(page.getByRole('button', { name: 'Set 49 aside' })).toBeVisible()
  await page.getByText('Earlier calibrations and other copies').click()
  await page.getByRole('button', { name: 'Restore 1', exact: true }).click()
  await expect(page.getByRole('img', { name: /sleepers: 40 readings/ })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Set 49 aside' })).toHaveCount(0)
})

test('a third zone is added, recorded and used', async ({ page, open }) => {
  await open(`${rig}/sense`)
  await page.getByRole('button', { name: 'Add a zone' }).click()
  await page.getByLabel('Name of the zone').fill('Bed tag')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('already has a zone')
  await page.getByLabel('Name of the zone').fill('depot tag')
  await page.keyboard.press('Enter')
  await expect(page.getByText('depot tag has 0 readings')).toBeVisible()
  await page.getByRole('combobox', { name: 'Take readings into' }).selectOption('depot tag')
  await page.getByTestId('record').click()
  await expect(page.getByRole('heading', { name: 'Depot tag against sleepers' })).toBeVisible()
  await expect(page.getByRole('heading', { name: 'Sleepers against bed tag' })).toBeVisible()
  await page.keyboard.press('4')
  await press(page.locator('#line-12'))
  await page.getByRole('combobox', { name: 'Line 12' }).fill('when Tag eye becomes d')
  await expect(page.getByRole('option', { name: /depot tag/ })).toBeVisible()
})

test('labels of thresholds that stand close together do not cover each other', async ({ page, open }) => {
  await open('/rigs/berthing-lights/sense')
  const labels = page.locator('svg text', { hasText: 'each side' })
  await expect(labels).toHaveCount(3)
  const boxes = await labels.evaluateAll((all) => all.map((t) => t.getBoundingClientRect()).map((b) => [b.left, b.right] as const))
  boxes.sort((a, b) => a[0] - b[0])
  for (let i = 1; i < boxes.length; i++) expect(boxes[i]![0]).toBeGreaterThan(boxes[i - 1]![1])
})
