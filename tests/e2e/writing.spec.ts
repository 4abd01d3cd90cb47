import type { Locator, Page } from '@playwright/test'
import { expect, press, test } from './fixtures'

const machine = `program Day work

region Main
  state Resting, initial
    when Order knob is tapped: go Rising

  state Rising
    while here: run Mast up at 30 %
    when Shelf eye becomes notch: go Serving

  state Serving
    on entry: do Greet
    when all done: go Lowering

  state Lowering
    while here: run Mast down at 20 %
    when Mast stalls: go Resting

region Beacon
  state Dark, initial
    when Main is in Rising: go Lit

  state Lit
    while here: show "going up"
    when Main is in Resting: go Dark

routine Greet
  state Bow, initial
    after 1 s: go Over

  state Over, final
`

/** Goes to something with the tab key alone. */
async function tabTo(page: Page, to: Locator, back = false) {
  await expect(to).toBeVisible()
  for (let i = 0; i < 300; i++) {
    if (await to.evaluate((e) => e === document.activeElement)) return
    await page.keyboard.press(back ? 'Shift+Tab' : 'Tab')
  }
  throw new Error('The tab key never came there.')
}

const editor = (page: Page) => page.getByRole('combobox', { name: /^(New line|Line)/ })

async function script(page: Page, server: { url: string }) {
  const program = (await (await page.request.get(`${server.url}/api/rigs/rack-hoist/program?program=1`)).json()) as { script: string }
  return program.script
}

test('a machine of two regions, six states and a routine is written by keyboard alone', async ({ page, open, server }) => {
  test.setTimeout(240_000)
  await open('/rigs/rack-hoist/program')
  const type = async (text: string) => {
    // Typed without pause the moment the field is there.
    await expect(editor(page)).toBeFocused()
    await page.keyboard.press('Control+A')
    await page.keyboard.type(text)
    await page.keyboard.press('Enter')
    await expect(editor(page)).toHaveCount(0)
    await expect(page.locator('.sheet-line:focus')).toBeVisible()
  }
  const focused = (name: RegExp) => expect(page.getByRole('button', { name })).toBeFocused()
  const addLine = async (text: string) => {
    await page.keyboard.press('Alt+Enter')
    await type(text)
    // The cursor stands on the new line.
    await expect(page.locator('.sheet-line:focus')).toContainText(text.split(' ').at(-1)!.replace('"', ''))
  }
  await tabTo(page, page.getByRole('button', { name: 'Programs', exact: true }))
  await page.keyboard.press('Enter')
  await tabTo(page, page.getByLabel('Name of the new program'))
  await page.keyboard.type('Day work')
  await page.keyboard.press('Enter')
  await tabTo(page, page.getByRole('button', { name: 'Day work', exact: true }), true)
  await page.keyboard.press('Enter')
  await expect(page.getByText('A program has states, and a state has lines.')).toBeVisible()

  // The head has the keys already: s is a state, r a region, o a routine.
  await tabTo(page, page.getByRole('button', { name: 'Edit program Day work' }))
  await page.keyboard.press('s')
  await type('state Resting, initial')
  await focused(/^Edit state Resting/)
  await addLine('when Order knob is tapped: go Rising')
  // The state that it names is made with a key, and the line goes on being typed.
  await page.keyboard.press('Enter')
  await expect(page.getByRole('button', { name: 'Make the state Rising' })).toBeVisible()
  await expect(page.getByTestId('line-fault')).toContainText('No state “Rising”')
  await page.keyboard.press('Alt+1')
  await expect(page.getByRole('button', { name: 'Edit state Rising' })).toBeVisible()
  await expect(editor(page)).toBeFocused()
  await expect(page.getByTestId('line-fault')).not.toContainText('No state')
  await page.keyboard.press('Enter')
  await expect(page.locator('.fault')).toHaveCount(0)
  await page.keyboard.press('ArrowDown')
  await focused(/^Edit state Rising/)
  await addLine('while here: run Mast up at 30 %')
  await addLine('when Shelf eye becomes notch: go Serving')
  await page.keyboard.press('s')
  await type('state Serving')
  await focused(/^Edit state Serving/)
  await page.keyboard.press('s')
  await type('state Lowering')
  await focused(/^Edit state Lowering/)
  await addLine('while here: run Mast down at 20 %')
  await addLine('when Mast stalls: go Resting')

  await page.keyboard.press('o')
  await expect(page.locator('.region-head')).toHaveCount(1)
  await expect(page.locator('.sheet-line:focus')).toBeVisible()
  const head = page.locator('.region-head .sheet-line')
  if (!(await head.evaluate((e) => e === document.activeElement))) await tabTo(page, head, true)
  await page.keyboard.press('Enter')
  await type('routine Greet')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await type('state Bow, initial')
  await addLine('after 1 s: go Over')

  await tabTo(page, page.getByRole('button', { name: /^Edit state Serving/ }), true)
  await addLine('on entry: do Greet')
  await addLine('when all done: go Lowering')

  await page.keyboard.press('r')
  await expect(page.locator('.region-head')).toHaveCount(3)
  const beacon = page.locator('.region-head .sheet-line').nth(1)
  if (!(await beacon.evaluate((e) => e === document.activeElement))) await tabTo(page, beacon)
  await page.keyboard.press('Enter')
  await type('region Beacon')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await type('state Dark, initial')
  await addLine('when Main is in Rising: go Lit')
  await page.keyboard.press('s')
  await type('state Lit')
  await addLine('while here: show "going up"')
  await addLine('when Main is in Resting: go Dark')
  await expect(page.locator('.fault')).toHaveCount(0)
  expect(await script(page, server)).toBe(machine)

  // Undone and done again, the keys stay in the sheet.
  await page.keyboard.press('Control+z')
  await expect(page.getByText('when Main is in Resting')).toHaveCount(0)
  await expect(page.locator('.sheet-line:focus')).toBeVisible()
  await page.keyboard.press('Control+Shift+z')
  await expect(page.locator('.sheet-line:focus')).toBeVisible()
  await expect.poll(() => script(page, server)).toBe(machine)
})

test('what is typed the moment a field opens is never lost, however slow the machine and the answers', async ({ page, open, server }) => {
  await open('/rigs/rack-hoist/program')
  const sheet = page.locator('.sheet-line')
  await expect(sheet.first()).toBeVisible()
  // Every answer comes late, each later or sooner than the one before, and the page has a sixth of the processor.
  let asked = 0
  await page.route('**/api/**', async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 30 + ((asked++ * 97) % 300)))
    await route.continue().catch(() => undefined)
  })
  const cdp = await page.context().newCDPSession(page)
  await cdp.send('Emulation.setCPUThrottlingRate', { rate: 6 })

  // Asked past the page, whose answers are held back.
  const kept = async () => ((await (await fetch(`${server.url}/api/rigs/rack-hoist/program`)).json()) as { script: string }).script

  /** Opens what has the keys, and types at once over what stands in it: nothing is waited for between the keys. */
  const over = async (line: Locator, key: string, text: string, keep: boolean) => {
    await line.focus()
    await page.keyboard.press(key)
    await page.keyboard.press('Control+A')
    await page.keyboard.type(text)
    await expect(editor(page)).toHaveValue(text)
    if (keep) {
      await page.keyboard.press('Enter')
      await expect(editor(page)).toHaveCount(0)
      await expect.poll(kept).toContain(text)
    } else {
      // What comes late does not change it either.
      await page.waitForTimeout(400)
      await expect(editor(page)).toHaveValue(text)
      await page.keyboard.press('Escape')
      await expect(editor(page)).toHaveCount(0)
    }
  }
  for (const kind of ['Edit program', 'Edit state', 'when', 'after', 'on entry', 'while here', 'var', 'goal', 'region'])
    await over(page.getByRole('button', { name: new RegExp(`^${kind} `) }).first(), 'Enter', `said of ${kind} in full`, false)
  // New lines, states, regions and routines are fields with something in them already.
  const state = page.getByRole('button', { name: /^Edit state/ }).first()
  await over(state, 'Alt+Enter', 'after 9 s: show "late"', true)
  await over(state, 's', 'state Evening', true)
  await over(page.getByRole('button', { name: /^Edit state Evening/ }), 'Shift+S', 'state Late evening', true)
  await over(page.getByRole('button', { name: /^Edit state Evening/ }), 'Enter', 'state Night', true)
  await page.getByRole('button', { name: /^Edit state Night/ }).focus()
  await page.keyboard.press('r')
  await page.keyboard.press('o')
  // The fields of the dialogs beside the sheet.
  await press(page.getByRole('button', { name: 'Programs', exact: true }))
  const name = page.getByLabel('Name of the new program')
  await name.focus()
  await page.keyboard.type('Written without a pause')
  await expect(name).toHaveValue('Written without a pause')
})

test('the same machine is written with the mouse', async ({ page, open, server }) => {
  test.setTimeout(240_000)
  await open('/rigs/rack-hoist/program')
  const keep = async (text: string) => {
    await editor(page).fill(text)
    await page.getByRole('button', { name: 'Keep', exact: true }).click()
    await expect(editor(page)).toHaveCount(0)
  }
  const state = async (name: string) => {
    await page.getByRole('button', { name: 'Add a state', exact: true }).click()
    await keep(`state ${name}`)
  }
  // A new state is the chosen one: its next line goes there without looking for it.
  const addLine = async (text: string) => {
    await page.getByRole('button', { name: 'Add a line' }).click()
    await keep(text)
  }
  const menu = async (item: string) => {
    await page.getByRole('button', { name: 'More', exact: true }).click()
    await page.getByRole('menuitem', { name: item }).click()
  }
  const rename = async (line: Locator, text: string) => {
    await line.click()
    await keep(text)
  }
  await page.getByRole('button', { name: 'Programs', exact: true }).click()
  await page.getByLabel('Name of the new program').fill('Day work')
  await page.getByRole('button', { name: 'Add it' }).click()
  await page.getByRole('button', { name: 'Day work', exact: true }).click()
  await state('Resting, initial')
  await addLine('when Order knob is tapped: go Rising')
  await state('Rising')
  await addLine('while here: run Mast up at 30 %')
  await addLine('when Shelf eye becomes notch: go Serving')
  await state('Serving')
  await addLine('on entry: do Greet')
  await addLine('when all done: go Lowering')
  await state('Lowering')
  await addLine('while here: run Mast down at 20 %')
  await addLine('when Mast stalls: go Resting')

  // The faulty line is in the list, and one press away.
  const list = page.getByRole('list', { name: 'Lines with faults' })
  await expect(list.getByRole('button')).toHaveText(['on entry: do Greet'])
  await list.getByRole('button').click()
  await expect(page.locator('.sheet-line:focus')).toContainText('do Greet')
  await expect(page.getByText('No routine “Greet”')).toHaveCount(1)

  await menu('Add a region beside the others')
  await expect(page.locator('.region-head')).toHaveCount(2)
  await rename(page.locator('.region-head .sheet-line').nth(1), 'region Beacon')
  await rename(page.locator('.state-name.sheet-line').last(), 'state Dark, initial')
  await addLine('when Main is in Rising: go Lit')
  await state('Lit')
  await addLine('while here: show "going up"')
  await addLine('when Main is in Resting: go Dark')
  await menu('Add a routine')
  await expect(page.locator('.region-head')).toHaveCount(3)
  await rename(page.locator('.region-head .sheet-line').nth(2), 'routine Greet')
  const states = page.locator('.state-name.sheet-line')
  await rename(states.nth(7), 'state Bow, initial')
  await addLine('after 1 s: go Over')
  await expect(page.locator('.fault')).toHaveCount(0)
  await expect(list).toHaveCount(0)
  expect(await script(page, server)).toBe(machine)
})

test('Keep stays under the finger when what can follow comes while it is pressed', async ({ page, open }) => {
  await open('/rigs/rack-hoist/program')
  let letGo = () => {}
  const held = new Promise<void>((done) => (letGo = done))
  await page.getByRole('button', { name: 'Add a state', exact: true }).click()
  await expect(editor(page)).toBeFocused()
  await page.route('**/program/diagnose', async (route) => {
    await held
    await route.continue()
  })
  await editor(page).fill('state Night')
  const keep = page.getByRole('button', { name: 'Keep', exact: true })
  const before = (await keep.boundingBox())!
  await page.mouse.move(before.x + before.width / 2, before.y + before.height / 2)
  await page.mouse.down()
  letGo()
  await expect(page.getByTestId('line-fault')).toHaveAttribute('data-diagnosed', 'state Night')
  await expect(page.getByRole('listbox', { name: 'What can follow' })).toBeVisible()
  expect((await keep.boundingBox())!).toEqual(before)
  await page.mouse.up()
  await expect(editor(page)).toHaveCount(0)
  await expect(page.getByRole('button', { name: /^Edit state Night/ })).toBeVisible()
})
