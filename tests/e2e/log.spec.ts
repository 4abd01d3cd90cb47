import { expect, expectAccessible, test } from './fixtures'

const log = '/rigs/seed-trolley/log?copy=1'
const said = (page: import('@playwright/test').Page) => page.getByTestId('spread-say').first()

test.describe('by touch', () => {
  test.use({ viewport: { width: 768, height: 1024 }, hasTouch: true })

  test('a series is logged on a tablet by touch, also while the bench is out of reach, and nothing is lost or kept twice', async ({
    page,
    open,
  }) => {
    await open(log)
    await expect(page.getByText('Nothing was logged yet')).toBeVisible()
    await expect(page.getByTestId('held')).toContainText('The controller holds revision 1')
    await expectAccessible(page)
    await page.getByRole('button', { name: 'Begin a series' }).tap()
    await page.getByLabel('Light').fill('afternoon light')
    await page.getByRole('button', { name: 'Begin', exact: true }).tap()
    await expect(page.getByTestId('series-say')).toContainText('run 1 of a series of 10, afternoon light')
    await page.getByRole('button', { name: 'Start a run' }).tap()
    await expect(page.getByRole('status', { name: 'Stopwatch' })).not.toHaveText('0:00.0')
    await page.getByRole('button', { name: /^Passed/ }).tap()
    await page.getByRole('button', { name: 'Done' }).tap()
    await expect(said(page)).toContainText('1 of 1')
    await expect(said(page)).not.toContainText('wait')

    // The bench is gone: what is pressed stays here, and the page says how many wait, also after it was loaded again.
    await page.route('**/api/rigs/*/log/**', (route) => route.abort())
    await page.getByRole('button', { name: /^Failed/ }).tap()
    await page.getByRole('textbox', { name: /Something else|Why it failed/ }).fill('the cable caught')
    await page.getByRole('button', { name: /^Passed/ }).tap()
    await page.getByRole('button', { name: 'Done' }).tap()
    await expect(page.getByTestId('waiting')).toContainText('2 runs are kept in this browser')
    await expectAccessible(page)
    await page.reload()
    await expect(page.getByTestId('waiting')).toContainText('2 runs are kept in this browser')
    await expect(said(page)).toContainText('2 of 3, of which 2 wait to be sent')

    // An answer that is lost on its way back: the bench kept the lines, and is told them once more.
    await page.unroute('**/api/rigs/*/log/**')
    let lost = 0
    await page.route('**/api/rigs/*/log/lines', async (route) => {
      if (lost++ > 0) return route.continue()
      await route.fetch()
      await route.abort()
    })
    await expect(page.getByTestId('waiting')).toBeHidden()
    await expect(said(page)).toContainText('2 of 3')
    await expect(said(page)).not.toContainText('wait')
    expect(lost).toBeGreaterThan(1)
    await expect(page.getByTestId('series-say')).toContainText('run 4 of a series of 10')
    await expect(page.locator('.spread line title').filter({ hasText: 'the cable caught' })).toHaveCount(1)

    // One too many: it is taken back.
    await page.getByRole('button', { name: /^Failed/ }).tap()
    await page.getByRole('button', { name: 'Done' }).tap()
    await expect(said(page)).toContainText('2 of 4')
    await page.getByRole('button', { name: 'Take back' }).tap()
    await expect(said(page)).toContainText('2 of 3')
    await page.reload()
    await expect(said(page)).toContainText('2 of 3')
  })
})

test('runs are logged by keyboard, the plate says how they came out, and what waits goes up from any page', async ({
  page,
  open,
  server,
}) => {
  await open('/rigs/seed-trolley/log?copy=3')
  await expect(page.getByText('Nothing was logged yet')).toBeVisible()
  for (const key of ['p', 'p', 'f', 'p', 'p']) await page.keyboard.press(key)
  // What is typed into a field is no key.
  await page.getByLabel('Note').fill('p f s')
  await page.keyboard.press('Enter')
  await expect(said(page)).toContainText('4 of 5')
  await expect(said(page)).not.toContainText('wait')
  await expect(page.getByRole('link', { name: /^Log/ })).toContainText('4 of 5')

  await page.route('**/log/lines', (route) => route.abort())
  await page.keyboard.press('f')
  await page.getByRole('button', { name: 'Done' }).click()
  await expect(page.getByTestId('waiting')).toContainText('1 run is kept in this browser')
  await page.unroute('**/log/lines')
  await page.goto(`${server.url}/`)
  const kept = async () =>
    ((await (await fetch(`${server.url}/api/rigs/seed-trolley/log?copy=3`)).json()) as { spreads: { lines: unknown[] }[] }).spreads[0]
      ?.lines.length
  await expect.poll(kept).toBe(6)
})
