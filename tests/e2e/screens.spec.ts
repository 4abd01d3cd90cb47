import { expect, expectAccessible, rig, test } from './fixtures'

const parts = ['rig', 'sense', 'move', 'program', 'check', 'simulate', 'prove', 'log']

for (const [name, width, scheme] of [
  ['1280', 1280, 'light'],
  ['768', 768, 'light'],
  ['320', 320, 'light'],
  ['dark', 1280, 'dark'],
] as const) {
  test(`axe finds nothing on any screen, ${name}`, async ({ page, open }) => {
    test.setTimeout(900_000)
    await page.emulateMedia({ colorScheme: scheme })
    await page.setViewportSize({ width, height: 800 })
    await open('/')
    await expect(page.getByRole('link', { name: 'Seed trolley', exact: true })).toBeVisible()
    await expectAccessible(page)
    for (const part of parts) {
      await open(`${rig}/${part}`)
      await expect(page.locator('main')).toBeVisible()
      await expect(page.getByTestId('rate')).toHaveAttribute('data-state', 'known')
      if (part === 'simulate') {
        await page.getByRole('button', { name: 'Run with this seed' }).click()
        await expect(page.locator('.events')).toBeVisible()
      }
      if (part === 'prove') {
        await page.getByRole('button', { name: /Prove with/ }).click()
        await expect(page.getByTestId('proof')).toBeVisible()
      }
      if (part === 'sense') await expect(page.getByTestId('live')).toHaveText(/\d/)
      await expectAccessible(page)
      // One column at any width: only charts and tables may scroll sideways.
      expect(await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth)).toBeLessThanOrEqual(0)
    }
    for (const view of ['describe', 'ports', 'wiring', 'power', 'preflight', 'copies']) {
      await open(`/rigs/header-tank/rig/${view}`)
      await expect(page.locator('main table, main .items').first()).toBeVisible()
      await expectAccessible(page)
      expect(await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth)).toBeLessThanOrEqual(0)
    }
    // One rig for every way of looking at readings: colours, bands, switches, edge geometry.
    for (const path of ['shell-sorter/sense', 'berthing-lights/sense', 'lock-keeper/sense', 'deck-scrubber/sense']) {
      await open(`/rigs/${path}`)
      await expect(page.getByTestId('live')).toHaveText(/\d|nothing/)
      await expectAccessible(page)
      expect(await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth)).toBeLessThanOrEqual(0)
    }
    await open(`${rig}/program`)
    await page.locator('#line-12').press('Enter')
    await page.getByRole('combobox', { name: 'Line 12' }).fill('when Tag ')
    await expect(page.getByRole('listbox')).toBeVisible()
    await expectAccessible(page)
    await page.keyboard.press('Escape')
    await page.keyboard.press('Control+k')
    await expect(page.getByRole('dialog')).toBeVisible()
    await expectAccessible(page)
  })
}

for (const [name, width, scheme] of [
  ['1280', 1280, 'light'],
  ['768', 768, 'light'],
  ['320', 320, 'light'],
  ['dark', 1280, 'dark'],
] as const) {
  test(`axe finds nothing on the views of a program and on Move, ${name}`, async ({ page, open }) => {
    test.setTimeout(900_000)
    await page.emulateMedia({ colorScheme: scheme })
    await page.setViewportSize({ width, height: 800 })
    const look = async () => {
      await expectAccessible(page)
      expect(await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth)).toBeLessThanOrEqual(0)
    }
    // Three programs that talk: every view of them.
    for (const [view, there] of [
      ['', '.sentence'],
      ['/script', '.cm-line'],
      ['/chart', '[data-testid=chart]'],
      ['/walk', '[data-testid=walk-states]'],
      ['/history', 'main'],
    ] as const) {
      await open(`/rigs/lock-keeper/program${view}`)
      await expect(page.locator(there).first()).toBeVisible()
      await look()
    }
    await open('/rigs/lock-keeper/program')
    await page.getByRole('button', { name: '4 programs' }).click()
    await expect(page.getByTestId('programs')).toBeVisible()
    await look()
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: 'Put in a pattern' }).click()
    await page
      .getByTestId('patterns')
      .getByRole('button', { name: /Mission list/ })
      .click()
    await expect(page.getByTestId('pattern-text')).toContainText('region ')
    await look()
    await page.keyboard.press('Escape')
    // A line open with all its buttons, and what can be done to a state.
    await page.locator('.sentence').nth(3).click()
    await expect(page.getByRole('button', { name: /^Take out: line/ })).toBeVisible()
    await look()
    for (const path of ['deck-scrubber/move', 'rack-hoist/move', 'shell-sorter/move']) {
      await open(`/rigs/${path}`)
      await expect(page.locator('main h2, main h3').first()).toBeVisible()
      await look()
    }
  })
}

test('keys open the parts, find things and list themselves', async ({ page, open }) => {
  await open(`${rig}/program`)
  await expect(page.locator('#line-4')).toBeVisible()
  await page.keyboard.press('7')
  await expect(page).toHaveURL(/\/prove/)
  await expect(page.getByText('Nothing was proved yet')).toBeVisible()
  // A digit typed into a field is a digit.
  await page.getByRole('textbox', { name: 'Runs' }).fill('')
  await page.getByRole('textbox', { name: 'Runs' }).pressSequentially('25')
  await expect(page).toHaveURL(/\/prove/)
  await page.keyboard.press('Control+k')
  await page.keyboard.type('stopp')
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/\/program.*#state-Stopping/)
  await expect(page.locator('[id="state-Stopping"]')).toHaveClass(/chosen/)
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'Keys and settings' })).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toBeHidden()
})

test('copies have their own readings and numbers', async ({ page, open }) => {
  await open(`${rig}/sense`)
  await page.getByLabel('Copy').selectOption('2')
  await expect(page).toHaveURL(/copy=2/)
  await expect(page.getByRole('row', { name: /equal risk chosen/ })).toBeVisible()
  await page.getByRole('link', { name: /Move/ }).click()
  await expect(page).toHaveURL(/move\?copy=2/)
})

test('the first page stays under 300 kB of compressed script', async ({ page, server }) => {
  let bytes = 0
  const session = await page.context().newCDPSession(page)
  await session.send('Network.enable')
  const scripts = new Set<string>()
  session.on('Network.responseReceived', (e) => {
    if (e.type === 'Script') scripts.add(e.requestId)
  })
  session.on('Network.loadingFinished', (e) => {
    if (scripts.has(e.requestId)) bytes += e.encodedDataLength
  })
  await page.goto(`${server.url}${rig}/program`)
  await expect(page.locator('#line-4')).toBeVisible()
  await page.waitForTimeout(1000)
  expect(bytes).toBeGreaterThan(10_000)
  expect(bytes).toBeLessThan(300_000)
})

test('an empty bench says what to do', async ({ page }) => {
  const { startServer } = await import('./server.mjs')
  const server = await startServer({ demo: false })
  try {
    await page.goto(server.url)
    await expect(page.getByText('There is no rig here yet.')).toBeVisible()
    await page.goto(`${server.url}/rigs/mast/program`)
    await expect(page.getByText('There is no rig “mast”.')).toBeVisible()
  } finally {
    await server.stop()
  }
})
