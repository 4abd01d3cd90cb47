import { expect, expectAccessible, test } from './fixtures'

const parts = ['rig', 'sense', 'move', 'program', 'check', 'simulate', 'prove', 'log']

test('a controller is built port by port, its outline drawn, and a thing that goes takes its leads along', async ({ page, open }) => {
  await open('/rigs/deck-scrubber/rig/describe')
  const keep = async () => {
    await page.getByRole('button', { name: 'Keep', exact: true }).click()
    await expect(page.getByRole('button', { name: 'Keep', exact: true })).toBeHidden()
  }
  await page.getByLabel('Add a controller').selectOption('scratch')
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Spare box')
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(page.getByRole('alert')).toContainText('Give 1 to 100 ports')
  await page.getByRole('button', { name: 'Add a port' }).click()
  await page.getByRole('textbox', { name: 'Name of port 1' }).fill('top')
  await page.getByRole('group', { name: 'Sockets and pins' }).getByRole('checkbox', { name: 'motor', exact: true }).check()
  await page.getByRole('textbox', { name: 'Volts it gives of top' }).fill('9')
  await expectAccessible(page)
  await keep()
  await expect(page.getByRole('button', { name: /^Spare box/ })).toContainText('1 ports')
  await page.getByRole('link', { name: 'Port map' }).click()
  await page.getByRole('button', { name: 'Run Brush drive to top', exact: true }).click()
  await expect(page.getByRole('button', { name: 'Brush drive runs to top; open it' })).toBeVisible()

  // The outline: nonsense is named, and three corners are the least.
  await page.getByRole('link', { name: 'Describe' }).click()
  const body = page.getByRole('region', { name: 'Body' })
  await body.getByLabel(/Corners, one a line/).fill('70; -72\nseventy')
  await body.getByRole('button', { name: 'Keep the outline' }).click()
  await expect(body.getByRole('alert')).toContainText('Corner 2')
  await body.getByLabel(/Corners, one a line/).fill('70; -72\n70; 72')
  await body.getByRole('button', { name: 'Keep the outline' }).click()
  await expect(body.getByRole('alert')).toContainText('3 to 100 corners')
  await body.getByLabel(/Corners, one a line/).fill('90; -80\n90; 80\n-60; 80\n-60; -80')
  await body.getByRole('button', { name: 'Keep the outline' }).click()
  await expect(page.getByRole('complementary')).toContainText('sweeps a circle of 120 mm')

  // Taking the bumper out takes its lead along; undo brings both back.
  await page.getByRole('button', { name: /^Bumper/ }).click()
  await page.getByRole('button', { name: 'Take it out' }).click()
  await expect(page.getByText(/^Kept as revision \d+: took out Bumper/)).toBeVisible()
  await expect(page.getByRole('button', { name: 'Take it out' })).toBeHidden()
  await expect(page.getByRole('complementary')).toContainText('Every lead has its place')
  await expect(page.getByRole('complementary')).toContainText('Every lead has its place')
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: /^Bumper/ })).toBeVisible()
  await page.getByRole('link', { name: 'Port map' }).click()
  await expect(page.getByRole('button', { name: /Bumper signal runs to .*; open it/ })).toBeVisible()
})

test('what is typed is kept when something else is opened, and what cannot be kept yet outlives a reload', async ({
  page,
  open,
  server,
}) => {
  await open('/rigs/deck-scrubber/rig/describe')
  const design = async () =>
    (await (await fetch(`${server.url}/api/rigs/deck-scrubber/design?copy=1`)).json()).design as {
      controllers: { name: string; ports: { name: string }[] }[]
      mechanisms: { name: string; motors: string[]; trackWidthMm?: { span: number } }[]
      sensors: { name: string; note?: string }[]
    }
  // A controller's form is open, and another is opened without a word.
  const first = (await design()).controllers[0]!
  await page.getByRole('button', { name: new RegExp(`^${first.name}`) }).click()
  await page.getByRole('textbox', { name: 'Name of port 1', exact: true }).fill('bow')
  await page.getByRole('button', { name: /^Bumper/ }).click()
  await expect.poll(async () => (await design()).controllers[0]!.ports[0]!.name).toBe('bow')
  // A field that is left is kept by itself while the form stays open.
  await page.getByRole('textbox', { name: 'Note', exact: true }).fill('rubs at low water')
  await expect.poll(async () => (await design()).sensors.find((s) => s.name === 'Bumper')?.note).toBe('rubs at low water')
  await expect(page.getByRole('textbox', { name: 'Note', exact: true })).toHaveValue('rubs at low water')

  // Undo reaches what was kept by itself, and the open fields follow it instead of keeping it again.
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('textbox', { name: 'Note', exact: true })).toHaveValue('')
  await page.waitForTimeout(1500)
  expect((await design()).sensors.find((s) => s.name === 'Bumper')?.note ?? null).toBeNull()
  await page.getByRole('textbox', { name: 'Note', exact: true }).fill('rubs at high water')
  await expect.poll(async () => (await design()).sensors.find((s) => s.name === 'Bumper')?.note).toBe('rubs at high water')
  // What was kept once is not kept over and over.
  const revision = async () => (await (await fetch(`${server.url}/api/rigs/deck-scrubber/design?copy=1`)).json()).revision as number
  const kept = await revision()
  await page.waitForTimeout(2500)
  expect(await revision()).toBe(kept)

  // A mechanism without a motor cannot be kept yet: it stays as it was typed, through another form and a reload.
  await page.getByLabel('Add a mechanism').selectOption('twoWheelDrive')
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Spare drive')
  await page.getByRole('textbox', { name: 'Track width in mm' }).fill('640')
  await page.getByRole('button', { name: /^Bumper/ }).click()
  await expect(page.getByRole('button', { name: /^Spare drive/ })).toContainText('Not kept yet')
  await expectAccessible(page)
  await page.reload()
  await page.getByRole('button', { name: /^Spare drive/ }).click()
  await expect(page.getByRole('textbox', { name: 'Track width in mm' })).toHaveValue('640')
  // Its guess is as wide as its kind, not as its value.
  await expect(page.getByLabel('Track width: width of its plausible range')).toHaveValue('30')
  // Left and right are named, and one motor is never on both sides.
  await page.getByLabel('Left motor').selectOption('Right wheel')
  await page.getByLabel('Right motor').selectOption('Right wheel')
  await expect(page.getByLabel('Left motor')).toHaveValue('')
  await page.getByLabel('Left motor').selectOption('Left wheel')
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect
    .poll(async () => (await design()).mechanisms.find((m) => m.name === 'Spare drive')?.motors)
    .toEqual(['Left wheel', 'Right wheel'])
  await expect(page.getByText('Not kept yet')).toBeHidden()
})

test('a rail with its markers is typed, a start placed, and a number says where it comes from', async ({ page, open }) => {
  await open('/')
  await page.getByRole('button', { name: 'New rig' }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill('Shell cart')
  await page.getByRole('radio', { name: /rail vehicle/ }).check()
  await page.getByRole('button', { name: 'Make it' }).click()
  const rail = page.getByRole('region', { name: 'Rail' })
  await rail.getByLabel(/Markers, one a line/).fill('bed 1; marker; 800')
  await rail.getByRole('button', { name: 'Keep the rail' }).click()
  await expect(rail.getByRole('alert')).toContainText('write name; surface; where it begins; its length')
  await rail.getByLabel(/Markers, one a line/).fill('bed 1; marker; 800; 60\nbed 2; marker; 1600; 60')
  await rail.getByRole('button', { name: 'Keep the rail' }).click()
  await expect(page.getByText(/Kept as revision 2: changed the rail/)).toBeVisible()

  await page.getByRole('button', { name: 'Add a placement' }).click()
  await page.getByRole('textbox', { name: 'What is put down' }).fill('shells')
  await page.getByRole('textbox', { name: 'Along in mm' }).fill('120')
  await page.getByLabel('Along: where it comes from').selectOption('measured')
  await page.getByLabel('Along: standard error').fill('2')
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  const placed = page.getByRole('button', { name: /^shells/ })
  await expect(placed).toContainText('120 mm')
  await expect(placed.locator('.num')).toHaveClass(/measured/)
  await expectAccessible(page)
})

test('an empty rig says on every part what belongs there', async ({ page, open, server }) => {
  await fetch(`${server.url}/api/rigs`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ template: 'nothing yet', name: 'Empty' }),
  })
  for (const part of parts) {
    await open(`/rigs/empty/${part}`)
    await expect(page.locator('main')).toContainText(/\w/)
    await expect(page.getByTestId('rate')).toContainText('no program yet')
    await expectAccessible(page)
  }
  for (const view of ['ports', 'wiring', 'power', 'preflight', 'copies']) {
    await open(`/rigs/empty/rig/${view}`)
    await expect(page.locator('main')).toContainText(/\w/)
    await expectAccessible(page)
  }
})

test('a fault planted at random is found by doing what the page says, and shown afterwards', async ({ page, open }) => {
  await open('/rigs/shell-sorter/rig/preflight')
  await page.getByRole('button', { name: 'Plant any fault' }).click()
  await expect(page.getByText('A fault is in it now.')).toBeVisible()
  await page.getByRole('button', { name: 'Measure the pack' }).first().click()
  await expect(page.getByTestId('pack')).toContainText('V with everything on.')
  const table = page.getByRole('group', { name: 'Devices' })
  // Follow the page: press the first button it offers until it offers none, or a fault is named.
  for (let i = 0; i < 60; i++) {
    if (await page.getByTestId('named-fault').isVisible()) break
    const next = table.getByRole('button').first()
    if (!(await next.isVisible())) break
    const before = await page.getByTestId('preflight-state').textContent()
    await next.click()
    await expect
      .poll(
        async () =>
          (await page.getByTestId('named-fault').isVisible()) ||
          (await page.getByTestId('preflight-state').textContent()) !== before ||
          (await table.textContent()),
      )
      .toBeTruthy()
    await page.waitForTimeout(120)
  }
  await expect(page.getByTestId('named-fault').first()).toBeVisible()
  const named = (await page.getByTestId('named-fault').first().textContent()) ?? ''
  await page.getByRole('button', { name: 'Show it' }).click()
  await expect(page.getByTestId('planted')).toBeVisible()
  const shown = await page.getByTestId('planted').textContent()
  // The device that was planted is the device that was named.
  const devices = ['Shell eye', 'Belt gate', 'Jam bumper', 'Belt motor', 'Diverter', 'Beacon', 'pack']
  const planted = devices.filter((d) => shown?.includes(d))
  expect(planted.length).toBeGreaterThan(0)
  expect(planted.some((d) => named.includes(d))).toBe(true)
})
