import { expect, expectAccessible, test } from './fixtures'

test('a new rig is described, wired, checked, calibrated, cured and its card printed', async ({ page, open }) => {
  test.setTimeout(600_000)
  await page.addInitScript(() => {
    window.print = () => {
      document.title = 'printed'
    }
  })
  await open('/')
  await page.getByRole('button', { name: 'New rig' }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill('Tray gate')
  await page.getByRole('radio', { name: /nothing yet/ }).check()
  await expectAccessible(page)
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/\/rigs\/tray-gate\/rig\/describe/)

  // Describe: a controller, an eye with three zones, a motor, and the gate it moves.
  const keep = async () => {
    await page.getByRole('button', { name: 'Keep', exact: true }).click()
    await expect(page.getByRole('button', { name: 'Keep', exact: true })).toBeHidden()
  }
  await page.getByLabel('Add a controller').selectOption('six sockets')
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Gate box')
  await keep()
  await page.getByLabel('Add a sensor').selectOption('reflectedLight')
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Tray eye')
  await page.getByLabel('Zones, separated by commas').fill('black, grey, sand')
  await page.getByRole('textbox', { name: 'Ahead in mm' }).fill('12')
  await keep()
  await page.getByLabel('Add an actuator').selectOption('regulatedMotor')
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Gate motor')
  await keep()
  // Two devices of one name are refused, and what was typed stays.
  await page.getByLabel('Add an actuator').selectOption('lamp')
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Tray eye')
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(page.getByRole('alert')).toContainText('There already is a “Tray eye”')
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Lamp')
  await keep()
  await page.getByLabel('Add a mechanism').selectOption('lid')
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Gate')
  await page.getByRole('checkbox', { name: 'Gate motor' }).check()
  await page.getByRole('textbox', { name: 'Travel begins at in motor deg' }).fill('0')
  await page.getByRole('textbox', { name: 'Travel ends at in motor deg' }).fill('90')
  await page.getByLabel('Positions, separated by commas').fill('shut, open')
  await expectAccessible(page)
  await keep()
  await page.getByRole('button', { name: 'This is open' }).click()
  await expect(page.getByRole('region', { name: 'Positions' })).toContainText(/\d+ motor deg/)

  // Chiton wires it.
  const margin = page.getByRole('complementary', { name: 'Findings about the rig' })
  await expect(margin).toContainText('goes nowhere')
  await page.getByRole('link', { name: 'Port map' }).click()
  await page.getByRole('button', { name: 'Let Chiton assign' }).click()
  await expect(margin).toContainText('Every lead has its place')

  // Preflight finds what was planted.
  await page.getByRole('link', { name: 'Preflight' }).click()
  await page.getByLabel('Plant this fault').selectOption({ label: 'Tray eye is dead.' })
  for (let i = 0; i < 3; i++) {
    await page.getByRole('button', { name: 'Test Tray eye' }).click()
    await expect(page.getByTestId('preflight-state')).toContainText('stays as it is')
    if (i < 2) await expect(page.getByText(`Try ${2 - i} more time`)).toBeVisible()
  }
  await page.getByRole('button', { name: 'Try every port for Tray eye' }).click()
  await expect(page.getByTestId('named-fault')).toContainText('Tray eye changes nothing at any port')
  await expectAccessible(page)
  await page.getByRole('button', { name: 'Begin anew' }).click()

  // Three zones by recording.
  await page.getByRole('link', { name: /Sense/ }).click()
  await page.getByLabel('Seconds to record, 0.5 to 60').fill('1')
  const record = async (zone: string, over: string) => {
    await page.getByRole('combobox', { name: 'Take readings into' }).selectOption(zone)
    await page.getByRole('combobox', { name: 'Held over' }).selectOption(over)
    await page.getByTestId('record').click()
    await expect(page.getByText(`100 readings recorded into ${zone}.`)).toBeVisible()
  }
  await record('black', 'black card')
  await record('grey', 'grey card')
  await record('sand', 'dry sand')
  const judgement = page.getByTestId('judgement')
  await expect(judgement).toContainText(/grey against sand is (fragile|unusable)/)
  await expect(judgement).toContainText(/Ask for \d readings in a row of grey and sand/)
  await expect(judgement).toContainText(/Shade it or mount it closer: once its readings tremble/)
  await expectAccessible(page)

  // The cure in the mechanics: shade it, and take the two anew.
  await page.getByLabel('Light and quiet').selectOption('shaded')
  await page.getByRole('button', { name: 'Start sand anew' }).click()
  await expect(page.getByText('sand has 0 readings')).toBeVisible()
  await record('sand', 'dry sand')
  await page.getByRole('combobox', { name: 'Take readings into' }).selectOption('grey')
  await page.getByRole('button', { name: 'Start grey anew' }).click()
  await expect(page.getByText('grey has 0 readings')).toBeVisible()
  await record('grey', 'grey card')
  await expect(judgement).not.toContainText(/fragile|unusable/)
  await expect(judgement).toContainText(/Tray eye: (workable|solid)/)

  await page.getByRole('link', { name: 'Print the card' }).click()
  await expect(page.getByRole('heading', { name: 'Calibration card: Tray eye' })).toBeVisible()
  await expect(page.getByRole('table').first()).toContainText('sand')
  await expect(page.getByText(/shaded/).first()).toBeVisible()
  await page.getByRole('button', { name: 'Print' }).click()
  await expect(page).toHaveTitle('printed')
  await expectAccessible(page)
})

test('a rig is copied, exported, put away and taken out; a file is taken in, and nonsense is refused', async ({ page, open, server }) => {
  await open('/')
  await page.getByRole('button', { name: 'Copy Header tank' }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill('Second tank')
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/\/rigs\/second-tank\/rig/)
  await open('/')
  await page.getByRole('button', { name: 'Put away Second tank' }).click()
  await expect(page.getByRole('link', { name: 'Second tank', exact: true })).toBeHidden()
  await page.getByRole('button', { name: '1 put away' }).click()
  await page.getByRole('button', { name: 'Take out Second tank' }).click()
  await page.getByRole('button', { name: 'Back to the rigs in use' }).click()
  await expect(page.getByRole('link', { name: 'Second tank', exact: true })).toBeVisible()

  const file = JSON.parse(await (await fetch(`${server.url}/api/rigs/rack-hoist/export`)).text()) as { design: { name: string } }
  file.design.name = 'Hoist from a file'
  const input = page.getByLabel('Rig file')
  await input.setInputFiles({ name: 'hoist.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(file)) })
  await expect(page.getByText('Hoist from a file was taken in.')).toBeVisible()

  // A second rig of one name asks for another, and offers one.
  await input.setInputFiles({ name: 'hoist.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(file)) })
  const other = page.getByLabel('Name of the rig instead of Hoist from a file')
  await expect(other).toHaveValue('Hoist from a file 2')
  await expect(page.getByRole('alert')).toContainText('There already is a rig “Hoist from a file”.')
  await expectAccessible(page)
  await other.fill('hoist from a FILE')
  await page.getByRole('button', { name: 'Take it in' }).click()
  await expect(page.getByRole('alert')).toContainText('There already is a rig “hoist from a FILE”.')
  await other.fill('Hoist from a file 2')
  await page.getByRole('button', { name: 'Take it in' }).click()
  await expect(page.getByText('Hoist from a file 2 was taken in.')).toBeVisible()
  await page.getByRole('button', { name: 'New rig' }).click()
  await page.getByRole('textbox', { name: 'Name' }).fill('Header tank')
  await page.getByRole('button', { name: 'Make it' }).click()
  await expect(page.getByRole('dialog').getByRole('alert')).toContainText('Give this one another name, such as “Header tank 2”.')
  await page.getByRole('button', { name: 'Leave', exact: true }).click()
  await input.setInputFiles({ name: 'junk.json', mimeType: 'application/json', buffer: Buffer.from('oysters') })
  await expect(page.getByRole('alert')).toContainText('“junk.json” is not JSON')
  await input.setInputFiles({
    name: 'half.json',
    mimeType: 'application/json',
    buffer: Buffer.from(
      JSON.stringify({
        format: 'chiton-rig',
        version: 2,
        design: {
          name: '',
          place: '',
          controllers: [],
          sensors: [{ name: '7', kind: 'touch', samplePeriodMs: 0, resolution: 0, zones: [] }],
          actuators: [],
        },
      }),
    ),
  })
  await expect(page.getByRole('alert')).toContainText('Give the rig a name')
  await expect(page.getByRole('alert')).toContainText('Give the sensor a name')
  await expectAccessible(page)
})

test('a signal too high for its pin gets a divider, leads are counted, and the table says so', async ({ page, open }) => {
  await open('/rigs/lock-keeper/rig/wiring')
  const margin = page.getByRole('complementary', { name: 'Findings about the rig' })
  await expect(margin).toContainText('it gives 5 V and edge 0 stands 3.6 V')
  await page.getByLabel('Between Boat button signal and its port').selectOption('divider')
  await expect(margin).not.toContainText('stands 3.6 V')
  await page.getByLabel('At hand').fill('1')
  await page.getByLabel('Kind of lead').selectOption('socket to clip')
  await page.getByRole('button', { name: 'Count them' }).click()
  await expect(page.getByText('6 leads socket to clip short')).toBeVisible()
  await page.keyboard.press('Control+z')
  await expect(page.getByText('6 leads socket to clip short')).toBeHidden()
  await expect(page.getByText('4 leads socket to clip short')).toBeVisible()
  await expectAccessible(page)
})

test('the wiring table and the card print on one page, A4 and Letter', async ({ page, open }) => {
  for (const path of ['/rigs/header-tank/rig/wiring', '/rigs/shell-sorter/sense/card']) {
    await open(path)
    await expect(page.locator('main table').first()).toContainText(/\w/)
    for (const format of ['A4', 'Letter']) {
      const pdf = (await page.pdf({ format })).toString('latin1')
      expect(pdf.match(/\/Type\s*\/Page\b/g)).toHaveLength(1)
    }
  }
})

test('a device is renamed everywhere it stands', async ({ page, open }) => {
  await open('/rigs/seed-trolley/rig/describe')
  await page.getByRole('button', { name: /^Tag eye/ }).click()
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Bed eye')
  await page.getByRole('button', { name: 'Keep', exact: true }).click()
  await expect(page.getByRole('button', { name: /^Bed eye/ })).toBeVisible()
  await page.getByRole('link', { name: /Program/ }).click()
  await expect(page.locator('main')).toContainText('Bed eye')
  await expect(page.locator('main')).not.toContainText('Tag eye')
  await page.getByRole('link', { name: /Sense/ }).click()
  await expect(page.getByText('40 readings').first()).toBeVisible()
  await page.keyboard.press('Control+z')
  await page.locator('.plate', { hasText: 'Program' }).click()
  await expect(page.locator('main')).toContainText('Tag eye')
})

test('bands of distance are judged, set by hand, and refused when they cannot be', async ({ page, open }) => {
  await open('/rigs/berthing-lights/sense')
  await expect(page.getByTestId('judgement')).toContainText('49 days old')
  await expect(page.getByText(/250 to 260 mm is in no band/)).toBeVisible()
  await page.getByRole('textbox', { name: 'coming from, in mm' }).fill('230')
  await page.getByRole('button', { name: 'Keep the bands' }).click()
  await expect(page.getByRole('heading', { name: /230 to 250 mm is both close and coming/ })).toBeVisible()
  await page.getByRole('textbox', { name: 'close to, in mm' }).fill('60')
  await page.getByRole('button', { name: 'Keep the bands' }).click()
  await expect(page.getByRole('alert')).toContainText('Must be farther than where the band begins')
  await page.getByRole('combobox', { name: 'Held over' }).selectOption('nothing in front')
  await expect(page.getByText('no zone')).toBeVisible()
  await expectAccessible(page)
})

test('the axis of the dots is moved by drag and keys, and a sum is tried out with other numbers', async ({ page, open }) => {
  await open('/rigs/deck-scrubber/sense')
  const dots = page.getByTestId('dots')
  const first = await dots.locator('svg text').filter({ hasText: '%' }).first().textContent()
  await dots.focus()
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowRight')
  await expect(dots.locator('svg text').filter({ hasText: '%' }).first()).not.toHaveText(first!)
  await page.keyboard.press('Home')
  await expect(dots.locator('svg text').filter({ hasText: '%' }).first()).toHaveText(first!)
  const sum = page.getByTestId('sum-edge-guard')
  await expect(sum).toContainText('mm are left at every angle')
  await sum.getByLabel('Speed in mm/s').fill('600')
  await expect(sum).toContainText('A wheel leaves the table')
  await sum.getByLabel('Speed in mm/s').fill('fast')
  await expect(sum.getByRole('alert')).toContainText('Give a number')
  await page.reload()
  await expect(sum.getByLabel('Speed in mm/s')).toHaveValue('fast')
  await sum.getByRole('button', { name: 'as the rig says' }).click()
  await expect(sum).toContainText('mm are left at every angle')
})
