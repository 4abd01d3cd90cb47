import type { Page } from '@playwright/test'
import { expect, expectAccessible, press, rig, test } from './fixtures'
import { startServer } from './server.mjs'

const parts = ['rig', 'sense', 'move', 'program', 'check', 'simulate', 'prove', 'log']

// What another width can make wrong without anything else changing.
const ofWidth = ['color-contrast', 'target-size', 'scrollable-region-focusable', 'region']

/** Looked at in every width and in the dark, on the page as it stands: one column, and axe finds nothing. */
async function look(page: Page) {
  for (const width of [1280, 768, 320]) {
    await page.setViewportSize({ width, height: 800 })
    await expectAccessible(page, width === 768 ? ofWidth : undefined)
    // Only charts and tables may scroll sideways.
    expect(await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth)).toBeLessThanOrEqual(0)
  }
  await page.setViewportSize({ width: 1280, height: 800 })
  // In the dark the page is the same but for its colours.
  await page.emulateMedia({ colorScheme: 'dark' })
  await expectAccessible(page, ['color-contrast', 'link-in-text-block'])
  await page.emulateMedia({ colorScheme: 'light' })
}

test('axe finds nothing on the eight parts, in any width and in the dark', async ({ page, open }) => {
  test.setTimeout(900_000)
  await open('/')
  await expect(page.getByRole('link', { name: 'Seed trolley', exact: true })).toBeVisible()
  await look(page)
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
    await look(page)
  }
  await open('/help/guide')
  await expect(page.getByRole('heading', { name: 'Words' })).toBeVisible()
  await look(page)
})

test('axe finds nothing on the views of a rig and on every kind of sensor', async ({ page, open }) => {
  test.setTimeout(900_000)
  for (const view of ['describe', 'ports', 'wiring', 'power', 'preflight', 'copies']) {
    await open(`/rigs/header-tank/rig/${view}`)
    await expect(page.locator('main table, main .items').first()).toBeVisible()
    await look(page)
  }
  // One rig for every way of looking at readings: colours, bands, switches, edge geometry.
  for (const path of ['shell-sorter/sense', 'berthing-lights/sense', 'lock-keeper/sense', 'deck-scrubber/sense']) {
    await open(`/rigs/${path}`)
    await expect(page.getByTestId('live')).toHaveText(/\d|nothing/)
    await look(page)
  }
})

test('axe finds nothing on the views of a program', async ({ page, open }) => {
  test.setTimeout(900_000)
  // Three programs that talk: every view of them.
  for (const [view, there] of [
    ['', '.sentence'],
    ['/script', '.cm-line'],
    ['/chart', '[data-testid=chart]'],
    ['/walk', '[data-testid=walk-states]'],
    ['/history', 'main'],
    ['/outside', 'table'],
  ] as const) {
    await open(`/rigs/lock-keeper/program${view}`)
    await expect(page.locator(there).first()).toBeVisible()
    await look(page)
  }
  for (const path of ['deck-scrubber/move', 'rack-hoist/move', 'shell-sorter/move']) {
    await open(`/rigs/${path}`)
    await expect(page.locator('main h2, main h3').first()).toBeVisible()
    await look(page)
  }
})

test('axe finds nothing on what opens over a page', async ({ page, open }) => {
  test.setTimeout(900_000)
  await open('/rigs/lock-keeper/program')
  await page.getByRole('button', { name: '4 programs' }).click()
  await expect(page.getByTestId('programs')).toBeVisible()
  await look(page)
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Put in a pattern' }).click()
  await page
    .getByTestId('patterns')
    .getByRole('button', { name: /Mission list/ })
    .click()
  await expect(page.getByTestId('pattern-text')).toContainText('region ')
  await look(page)
  await page.keyboard.press('Escape')
  // A line open with all its buttons, and what can be done to a state.
  await page.locator('.sentence').nth(3).click()
  await expect(page.getByRole('button', { name: /^Take out: line/ })).toBeVisible()
  await look(page)
  await open(`${rig}/program`)
  await press(page.locator('#line-12'))
  await page.getByRole('combobox', { name: 'Line 12' }).fill('when Tag ')
  await expect(page.getByRole('listbox')).toBeVisible()
  await look(page)
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+k')
  await expect(page.getByRole('option').first()).toBeVisible()
  await look(page)
  await page.keyboard.press('Escape')
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog')).toBeVisible()
  await look(page)
})

test.describe('by touch', () => {
  test.use({ hasTouch: true, isMobile: true, viewport: { width: 768, height: 1024 } })

  test('whatever is pressed is large enough for a finger', async ({ page, open }) => {
    const small: string[] = []
    for (const path of [
      '/',
      ...parts.map((p) => `${rig}/${p}`),
      ...['describe', 'ports', 'wiring', 'power', 'preflight', 'copies'].map((v) => `/rigs/header-tank/rig/${v}`),
      ...['script', 'chart', 'table', 'walk', 'history'].map((v) => `/rigs/lock-keeper/program/${v}`),
      '/rigs/shell-sorter/sense',
      '/rigs/deck-scrubber/move?view=trials',
      '/help/guide',
    ]) {
      await open(path)
      await expect(page.locator('main')).toBeVisible()
      await page.waitForLoadState('networkidle')
      small.push(
        ...(await page.evaluate((at) => {
          const pressed = 'button, a[href], select, input, summary, [role=button], [role=tab], [role=slider]'
          return Array.from(document.querySelectorAll<HTMLElement>(pressed))
            .filter((e) => {
              const box = e.getBoundingClientRect()
              // Links and words within a sentence are as high as their line; drawings are pressed through their own lists.
              return box.width > 1 && box.height > 1 && !e.closest('p:not([role]), svg, .cm-editor, .hidden-text')
            })
            .filter((e) => [e, e.closest('label')].every((x) => !x || x.getBoundingClientRect().height < 43.5))
            .map((e) => `${at}: ${e.tagName} ${e.className} “${(e.textContent || e.getAttribute('aria-label') || '').slice(0, 30)}”`)
        }, path)),
      )
    }
    expect([...new Set(small)]).toEqual([])
  })
})

test('a page that is not there yet has its main part, and says so', async ({ page, open }) => {
  let answers: () => void = () => undefined
  const waits = new Promise<void>((done) => {
    answers = done
  })
  await page.route(/\/api\/rigs\/seed-trolley\/(program|sense|move|findings|ports)/, async (route) => {
    await waits
    await route.continue().catch(() => undefined)
  })
  for (const part of ['program', 'program/chart', 'sense', 'move', 'check', 'rig']) {
    await open(`${rig}/${part}`)
    await expect(page.getByRole('main')).toHaveText('One moment…')
    await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
    await expectAccessible(page)
  }
  answers()
  await expect(page.getByRole('main')).not.toHaveText('One moment…')
})

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
  await expect(page.getByRole('option').first()).toContainText('Stopping')
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/\/program.*#state-Stopping/)
  await expect(page.locator('[id="state-Stopping"]')).toHaveClass(/chosen/)
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'Help, keys and settings' })).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toBeHidden()
})

test('anything is found by everyday words, and help is at hand', async ({ page, open }) => {
  await open(`${rig}/sense`)
  const find = async (text: string, first: RegExp) => {
    await page.keyboard.press('Control+k')
    await page.keyboard.type(text)
    await expect(page.getByRole('dialog').getByRole('option').first()).toContainText(first)
    await page.keyboard.press('Enter')
    await expect(page.getByRole('dialog', { name: 'Find anything' })).toBeHidden()
  }
  await expect(page.getByTestId('live')).toHaveText(/\d/)
  await find('bed tag', /bed tag.*zone/)
  await expect(page).toHaveURL(/sense\?sensor=Tag/)
  await find('overshoot', /number|sum/)
  await open(`${rig}/program`)
  await expect(page.locator('#line-4')).toBeVisible()
  await find('do I need a level shifter', /sum/)
  await expect(page.getByRole('dialog').getByRole('heading').first()).toBeVisible()
  await page.keyboard.press('Escape')
  await find('what is a plate', /Words.*help/)
  await expect(page.getByRole('heading', { name: 'Words' })).toBeInViewport()
  await page.getByLabel('Search').fill('hysteresis')
  await expect(page.getByText(/\d found/)).toBeVisible()
  await page.getByLabel('Search').fill('hysteresis zebra')
  await expect(page.getByText('Nothing in the help says that.')).toBeVisible()
  await page.getByRole('button', { name: 'Back' }).click()
  await expect(page).toHaveURL(/\/program/)
  await page.keyboard.press('Control+k')
  await page.keyboard.type('xyzzy')
  await expect(page.getByText('Nothing is called so.')).toBeVisible()
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

test('an empty bench says what to do', async ({ page, warm }) => {
  const server = await startServer({ demo: false, warm: warm() })
  try {
    await page.goto(server.url)
    await expect(page.getByText('There is no rig here yet.')).toBeVisible()
    await page.goto(`${server.url}/rigs/mast/program`)
    await expect(page.getByText('There is no rig “mast”.')).toBeVisible()
  } finally {
    await server.stop()
  }
})
