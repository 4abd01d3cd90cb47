import { expect, expectAccessible, press, test } from './fixtures'

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
    await expect(page.getByTestId('held')).toContainText('The controller holds revision 2')
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
  await open('/rigs/seed-trolley/log?copy=2')
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
    ((await (await fetch(`${server.url}/api/rigs/seed-trolley/log?copy=2`)).json()) as { spreads: { lines: unknown[] }[] }).spreads[0]
      ?.lines.length
  await expect.poll(kept).toBe(6)
})

test('the demo has a log of two revisions, one a surprise, and what a series teaches goes over into Move', async ({
  page,
  open,
  server,
}) => {
  const at = `${server.url}/api/rigs/seed-trolley`
  // Proved before anything is asked: the runs are held against it.
  const proved = await page.request.post(`${at}/proofs`, { data: { runs: 4000, seed: 3, copy: 3 } })
  expect(proved.ok()).toBe(true)
  await open('/rigs/seed-trolley/log?copy=3')
  await expect(page.getByRole('link', { name: /^Log/ })).toContainText('8 of 12, as expected')
  await expect(page.getByRole('region', { name: 'Revision 2', exact: true })).toContainText('8 of 12, as was to be expected.')
  // Nobody worked out then what the first one should do: it is worked out when somebody looks.
  const first = page.getByRole('region', { name: 'Revision 1', exact: true })
  await expect(first).toContainText('the bench does not know something')
  await expect(first).toContainText('worked out since')
  await expect(page.getByText(/Changed in between: .*36 %.*60 %/)).toBeVisible()
  await press(page.getByRole('button', { name: 'What did these runs teach?' }).last())
  const surprise = page.getByRole('region', { name: 'What revision 1 teaches' })
  await expect(surprise).toContainText('7 runs failed by “the cable caught the rail”, which the bench never shows.')
  await expectAccessible(page)

  await expect(page.getByRole('region', { name: 'What revision 2 teaches' }).getByTestId('learnt-say')).toContainText(
    'With these the range narrows to',
  )
  await page.getByRole('button', { name: 'History of this copy' }).click()
  await expect(page.getByText('revision 2 was sent to the controller')).toBeVisible()
})

test('a number that a series narrowed goes over into Move with one press', async ({ page, open, server }) => {
  const at = `${server.url}/api/rigs/seed-trolley`
  expect((await page.request.post(`${at}/proofs`, { data: { runs: 4000, seed: 3, copy: 1 } })).ok()).toBe(true)
  const line = (i: number) => ({ key: `line-${1000 + i}`, revision: 2, passed: true, timeUtc: new Date().toISOString() })
  const kept = await page.request.post(`${at}/log/lines`, { data: { copy: 1, lines: Array.from({ length: 12 }, (_, i) => line(i)) } })
  expect(kept.ok()).toBe(true)
  await open('/rigs/seed-trolley/log?copy=1')
  const teaches = page.getByRole('region', { name: 'What revision 2 teaches' })
  const take = teaches.getByRole('button', { name: /^Take over / }).first()
  const name = (await take.getAttribute('aria-label'))!.replace('Take over ', '')
  await press(take)
  await expect(page.getByText(`${name} is in Move now, narrowed. Undo takes it back.`)).toBeVisible()
  await teaches.getByRole('link', { name: 'in Move now' }).click()
  await expect(page.getByText(/then narrowed by 12 trials on the table/).first()).toBeVisible()
})

test('a log that was kept elsewhere is taken in, goes out again, and is printed', async ({ page, open, server }) => {
  await open('/rigs/seed-trolley/log?copy=2')
  await page.getByRole('button', { name: 'Take in a table' }).click()
  await page.getByLabel('Or paste it here').fill('nonsense')
  await page.getByRole('button', { name: 'Read it' }).click()
  await expect(page.getByText('There are headings but no run.')).toBeVisible()
  const table =
    'At last;Result;Took;Stood (mm)\n28.11.2026 08:05;OK;12,4;812,5\n28.11.2026 08:07;off the rail;;\n28.11.2026 08:09;ok;11;813\n'
  await page.getByLabel('Or paste it here').fill(table)
  await page.getByRole('button', { name: 'Read it' }).click()
  await page.getByLabel('“At last” is').selectOption('time')
  await expect(page.getByTestId('table-say')).toContainText('2 runs, 2 passed; 1 row cannot be read.')
  await expect(page.getByText('Line 3: “off the rail” is neither')).toBeVisible()
  await page.getByLabel('“off the rail” means').selectOption('fail')
  await expect(page.getByTestId('table-say')).toContainText('3 runs, 2 passed.')
  await expectAccessible(page)
  await page.getByRole('button', { name: 'Take in 3 runs' }).click()
  await expect(page.getByText('3 runs were taken in.')).toBeVisible()
  await expect(said(page)).toContainText('2 of 3')

  // The next table like it is read as the last one, and what is there already is not taken in twice.
  await page.getByRole('button', { name: 'Take in a table' }).click()
  await page.getByLabel('A file with runs').setInputFiles({
    name: 'runs.csv',
    mimeType: 'text/csv',
    buffer: Buffer.from(`${table}28.11.2026 08:11;off the rail;;790\n`),
  })
  await expect(page.getByText('Its columns are read as last time.')).toBeVisible()
  await expect(page.getByTestId('table-say')).toContainText('4 runs, 2 passed; 3 are in the log already.')
  await page.getByRole('button', { name: 'Take in 1 run' }).click()
  await expect(said(page)).toContainText('2 of 4')

  const wait = page.waitForEvent('download')
  await page.getByRole('link', { name: 'This copy as CSV' }).click()
  expect((await wait).suggestedFilename()).toBe('seed-trolley-copy-2-log.csv')
  const csv = await (await fetch(`${server.url}/api/rigs/seed-trolley/log/export?copy=2`)).text()
  expect(csv.trim().split('\n')).toHaveLength(5)
  expect(csv).toContain('Stood (mm)')
  await page.emulateMedia({ media: 'print' })
  await expect(page.getByTestId('results-sheet')).toBeVisible()
  await expect(page.getByTestId('results-sheet')).toContainText('Stood 812.5 mm')
  await expect(page.getByRole('button', { name: /^Passed/ })).toBeHidden()
})

test('a match is planned from the log and from typed figures, and is still there after a reload', async ({ page, open }) => {
  await open('/rigs/seed-trolley/log?copy=3')
  await page.getByRole('link', { name: 'Plan a match' }).click()
  await page.getByLabel('From the log or the bench').selectOption('Seed trolley, copy 3')
  const first = page.getByRole('group', { name: 'Mission 1' })
  await expect(first).toContainText('8 of 12 runs on the table, revision 2')
  await expect(first.getByLabel('Run, s')).toHaveValue('7')
  // The worked figures: A and B of 120 s.
  const put = async (i: number, values: Record<string, string>) => {
    for (const [label, value] of Object.entries(values))
      await page
        .getByRole('group', { name: `Mission ${i}` })
        .getByRole('textbox', { name: label, exact: true })
        .fill(value)
  }
  await put(1, { Mission: 'A', Points: '20', 'Run, s': '30', 'Reset, s': '10', 'Success, in 100': '80', 'at least': '60', 'at most': '95' })
  await page.getByRole('button', { name: 'Another mission' }).click()
  await put(2, { Mission: 'B', Points: '30', 'Run, s': '45', 'Reset, s': '10', 'Success, in 100': 'half' })
  await expect(page.getByRole('button', { name: 'Plan it' })).toBeDisabled()
  await put(2, { 'Success, in 100': '500' })
  await page.getByRole('button', { name: 'Plan it' }).click()
  await expect(page.getByRole('textbox', { name: 'Success, in 100' }).nth(1)).toHaveAttribute('aria-invalid', 'true')
  await put(2, { 'Success, in 100': '50' })
  await page.getByLabel('Your own order, a name a try').fill('B, A, B, A')
  await page.keyboard.press('Enter')
  const plan = page.getByTestId('match-plan')
  await expect(plan).toContainText('Begin with A. In the mean 31.84 points, give or take 14.9.')
  await expect(plan).toContainText('Your own order comes to 31 points, give or take 17')
  await expect(plan).toContainText('One more minute would bring +10.2 points.')
  await expect(plan).toContainText('How often A succeeds is not known well')
  await expect(plan.getByRole('row').nth(1)).toContainText('nothing yet')
  await expectAccessible(page)
  // By the keyboard and by touch missions change places, and what was held stays held.
  const named = (i: number) => page.getByRole('group', { name: `Mission ${i}` }).getByRole('textbox', { name: 'Mission', exact: true })
  await page.getByRole('group', { name: 'Mission 2' }).getByRole('textbox', { name: 'Points' }).press('Alt+ArrowUp')
  await expect(named(1)).toHaveValue('B')
  const points = page.getByRole('group', { name: 'Mission 1' }).getByRole('textbox', { name: 'Points' })
  await expect(points).toBeFocused()
  await points.press('Alt+ArrowUp')
  await expect(named(1)).toHaveValue('B')
  await page.getByRole('button', { name: 'Move mission 1 down' }).click()
  await expect(named(2)).toHaveValue('B')
  await page.reload()
  await expect(named(2)).toHaveValue('B')
})

test.describe('on a server that is killed', () => {
  test.use({ own: true })

  test('over 200 random cuts of network and bench no run is lost and none is kept twice', async ({ page, open, server }) => {
    await open('/rigs/seed-trolley/log?copy=2')
    await expect(page.getByText('Nothing was logged yet')).toBeVisible()
    let seed = 20261129
    const chance = () => {
      seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0
      return seed / 2 ** 32
    }
    let cuts = 0
    let calm = false
    let told: () => void = () => undefined
    await page.route('**/api/rigs/*/log/lines', async (route) => {
      const fate = calm ? 1 : chance()
      if (fate > 0.85) await route.continue().catch(() => undefined)
      else {
        cuts++
        if (fate < 0.3) await route.abort().catch(() => undefined)
        else if (fate < 0.4)
          await route.fulfill({ status: 503, contentType: 'application/problem+json', body: '{"title":"busy"}' }).catch(() => undefined)
        else {
          // The bench kept it, and its answer is lost.
          await route.fetch().catch(() => undefined)
          await route.abort().catch(() => undefined)
        }
      }
      told()
    })
    const pressed: boolean[] = []
    const press = async (passed: boolean) => {
      await page.keyboard.press(passed ? 'p' : 'f')
      pressed.push(passed)
      const sent = new Promise<void>((done) => {
        told = done
      })
      await page.evaluate(() => window.dispatchEvent(new Event('online')))
      await Promise.race([sent, new Promise((done) => setTimeout(done, 150))])
    }
    for (let i = 0; cuts < 200; i++) {
      await press(chance() < 0.6)
      if (i % 60 === 20) {
        cuts++
        await server.kill()
        await press(true)
        await server.start()
      }
      if (i % 60 === 45) {
        cuts++
        await page.reload()
        await page.getByRole('button', { name: /^Passed/ }).waitFor()
      }
    }
    expect(cuts).toBeGreaterThanOrEqual(200)
    calm = true
    await page.reload()
    type View = { spreads: { lines: { key: string; passed: boolean }[] }[] }
    const kept = async () =>
      ((await (await fetch(`${server.url}/api/rigs/seed-trolley/log?copy=2`)).json()) as View).spreads.flatMap((s) => s.lines)
    await expect.poll(async () => (await kept()).length, { timeout: 60_000 }).toBe(pressed.length)
    const lines = await kept()
    expect(new Set(lines.map((l) => l.key)).size).toBe(pressed.length)
    expect(lines.map((l) => l.passed)).toEqual(pressed)
    await expect(page.getByTestId('waiting')).toBeHidden()
  })
})
