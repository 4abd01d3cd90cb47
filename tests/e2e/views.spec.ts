import { readFile } from 'node:fs/promises'
import { expect, expectAccessible, press, rig, test } from './fixtures'

const lift = `program Hoist

var notches = 0

region Main
  state Resting, initial
    on entry: set notches to 0
    when Order knob is tapped: go Rising

  state Rising
    while here: run Mast up at 35 %
    when Shelf eye becomes notch: set notches to notches + 1; stay
    when notches = 2: go Docked
    after 7 s: go Resting

  state Docked
    on entry: run Tongue out 310 motor deg at 30 %
    when Tongue is done: go Resting

region Beacon
  state Dark, initial
    when Main is in Rising: go Lit

  state Lit
    while here: blink Lamp 0.3 s on 0.7 s off
    when Main is in Resting: go Dark
`

test('a machine is written as text from nothing by keyboard, led to its faults, and shown as sheet and chart', async ({ page, open }) => {
  await open('/rigs/rack-hoist/program/script')
  const text = page.getByRole('textbox', { name: 'Script of the program' })
  await text.focus()
  await page.keyboard.press('Control+a')
  await page.keyboard.press('Delete')
  // Typed as somebody would, with a slip in it; the editor indents each new line like the one before.
  await page.keyboard.insertText(lift.replace('becomes notch', 'becomes noch'))
  await expect(page.locator('.cm-lintRange-error')).toHaveText('noch')
  await expect(page.getByText('Kept, with 1 fault to mend')).toBeVisible()
  await page.keyboard.press('F8')
  await expect(page.getByText('No zone “noch” on Shelf eye; did you mean “notch”?').first()).toBeVisible()
  await page.getByRole('button', { name: 'Write “notch”' }).first().click()
  await expect(page.getByText('Kept', { exact: true })).toBeVisible()
  await expect(page.locator('.cm-lintRange-error')).toHaveCount(0)

  // Completion from the grammar and the rig's own names.
  await text.focus()
  await page.keyboard.press('Control+End')
  await page.keyboard.insertText('    when Shelf eye ')
  await page.keyboard.press('Control+Space')
  await expect(page.getByRole('option', { name: /becomes/ })).toBeVisible()
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+z')
  await expect(page.getByText('Kept', { exact: true })).toBeVisible()
  await expectAccessible(page)

  await page.getByRole('link', { name: 'Sheet' }).click()
  await expect(page.getByText('2 regions, 5 states')).toBeVisible()
  await expect(page.locator('[id="state-Docked"]')).toContainText('run Tongue out 310 motor deg')
  await expect(page.getByRole('button', { name: 'region Beacon' })).toBeVisible()
  await expectAccessible(page)

  await page.getByRole('link', { name: 'Chart' }).click()
  const chart = page.getByTestId('chart')
  await expect(chart).toContainText('Docked')
  // A label may stand in two lines.
  await expect(chart).toContainText(/when\s*Main\s*is\s*in\s*Rising/)
  await expectAccessible(page)
  // Along the arrows by keyboard, and back to the sheet.
  await chart.getByRole('button', { name: /^State Resting, initial/ }).focus()
  await page.keyboard.press('ArrowRight')
  await expect(chart.getByRole('button', { name: /^State Rising/ })).toBeFocused()
  await page.keyboard.press('Enter')
  await expect(page.locator('[id="state-Rising"]')).toHaveClass(/chosen/)
})

test('a machine is walked by hand: what goes, what does not and why, and back again', async ({ page, open, server }) => {
  const rigs = `${server.url}/api/rigs/rack-hoist`
  const { revision } = await (await fetch(rigs)).json()
  await fetch(`${rigs}/program`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ baseRevision: revision, script: lift }),
  })
  await open('/rigs/rack-hoist/program/walk')
  const states = page.getByTestId('walk-states')
  const next = page.getByLabel('What happens next')
  await expect(states).toContainText('Main.Resting, Beacon.Dark')
  await expectAccessible(page)
  await press(next.getByRole('button', { name: 'Order knob tapped' }))
  await expect(states).toContainText('Main.Rising, Beacon.Lit')
  await expect(page.getByTestId('walk-steps')).toContainText('run Mast up at 35 %')
  await expect(page.getByLabel('What it waits for')).toContainText('notches = 2 does not hold')
  await next.getByRole('button', { name: 'Shelf eye is notch' }).click()
  await expect(page.getByTestId('walk-values')).toContainText('1')
  // The same zone again is no edge; it must leave it first.
  await next.getByRole('button', { name: 'Shelf eye is notch' }).click()
  await expect(page.getByTestId('walk-steps')).toContainText('and no sentence goes')
  await page.getByLabel('Another event').fill('Shelf eye is mast paint')
  await page.keyboard.press('Enter')
  await next.getByRole('button', { name: 'Shelf eye is notch' }).click()
  await expect(states).toContainText('Main.Docked')
  await next.getByRole('button', { name: 'Tongue done' }).click()
  await expect(states).toContainText('Main.Resting, Beacon.Dark')
  await page.getByRole('button', { name: 'Go back one' }).click()
  await expect(states).toContainText('Main.Docked')
  // What means nothing is refused in words, and nothing is lost.
  await page.getByLabel('Another event').fill('Shelf eye is notsh')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('has no zone “notsh”')
  await expect(states).toContainText('Main.Docked')
  // A state alone, and time.
  await page.getByLabel('Begin with').selectOption('Main.Rising')
  await expect(states).toContainText('Main.Rising')
  await next.getByRole('button', { name: '7 s pass' }).click()
  await expect(states).toContainText('Main.Resting')
})

test('the chart is saved as SVG, DOT and Mermaid', async ({ page, open, server }) => {
  await open(`${rig}/program/chart`)
  await expect(page.getByTestId('chart')).toContainText('Over tag')
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save as SVG' }).click()])
  const svg = await readFile(await download.path(), 'utf8')
  expect(svg).toContain('Stopping')
  expect(svg).not.toContain('var(--')
  expect(await (await fetch(`${server.url}/api/rigs/seed-trolley/program/chart.dot`)).text()).toContain('digraph "Seed trolley"')
  expect(await (await fetch(`${server.url}/api/rigs/seed-trolley/program/chart.mmd`)).text()).toMatch(/^stateDiagram-v2/)
})

test('two revisions are compared in sentences and the earlier program comes back', async ({ page, open }) => {
  await open(`${rig}/program`)
  await press(page.locator('#line-4'))
  await page.getByRole('combobox', { name: 'Line 4' }).fill('var cruise = 45 %')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Kept as revision 3.')).toBeVisible()
  await page.getByRole('link', { name: 'History' }).click()
  await expect(page.getByTestId('changes')).toContainText('var cruise = 60 %')
  await expect(page.getByTestId('changes')).toContainText('var cruise = 45 %')
  await expectAccessible(page)
  await page.getByLabel('Before: revision 3').check()
  await expect(page.getByText('Choose two different revisions.')).toBeVisible()
  await page.getByLabel('Before: revision 2').check()
  await page.getByRole('button', { name: 'Bring back the programs of revision 2' }).click()
  await expect(page.getByText('Kept as revision 4: brought back the program of revision 2.')).toBeVisible()
  await page.getByRole('link', { name: 'Sheet' }).click()
  await expect(page.locator('#line-4')).toContainText('60 %')
})
