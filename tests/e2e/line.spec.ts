import { expect, expectAccessible, press, test } from './fixtures'
import { startBox } from './box'
import type { Page } from '@playwright/test'

/** The copy of the demo that stands on a table. */
const real = async (page: Page, url: string) => {
  const { copies } = await (await page.request.get(`${url}/api/rigs/seed-trolley/copies`)).json()
  return copies.find((c: { item: { kind: string } }) => c.item.kind === 'real').number as number
}

test('by keyboard: joined, recorded, tried, looked over, run and logged, and a plug that is pulled and put back', async ({
  server,
  page,
  open,
}) => {
  test.setTimeout(300_000)
  const copy = await real(page, server.url)
  const box = await startBox('seed-trolley', server.folder, String(copy))
  try {
    await open(`/rigs/seed-trolley/rig/line?copy=${copy}`)
    await expect(page.getByText('This copy is on no line.')).toBeVisible()
    await expectAccessible(page)
    // What is no line says so at its field, and nothing typed is lost.
    const where = page.getByLabel('A serial port, or an address and its port')
    await where.fill('/etc/passwd')
    await press(where)
    await expect(page.getByText('is no serial port of this machine')).toBeVisible()
    await expect(where).toHaveValue('/etc/passwd')
    await where.fill(box.to)
    await press(where)
    const standing = page.getByTestId('line-standing')
    await expect(standing).toContainText('Seed trolley answers at')
    await expect(page.getByTestId('line-holds')).toContainText('It runs revision 2, as it is here.')
    const say = page.getByLabel('A line to say')
    await say.fill('tell Tag eye')
    await press(say)
    await expect(page.getByText('“tell Tag eye”: ok.')).toBeVisible()
    await expect(page.getByRole('row', { name: /Tag eye/ })).toContainText(/\d{2,}/)
    await say.fill('r 5 Tag eye 4')
    await press(say)
    await expect(page.getByText('That is for a board to say.')).toBeVisible()
    await expectAccessible(page)

    // Readings: the live one is there, and R records.
    await page.goto(`${server.url}/rigs/seed-trolley/sense?copy=${copy}`)
    await expect(page.getByTestId('on-line')).toContainText('a box that stands in')
    await expect(page.getByTestId('live')).toContainText(/\d+ %/)
    await page.getByLabel('Take readings into').selectOption('sleepers')
    await page.getByLabel('Seconds to record').fill('1')
    await page.getByRole('heading', { name: 'Seed trolley' }).first().click()
    await page.keyboard.press('r')
    await expect(page.getByText(/readings recorded into sleepers\. Over the line, from a box: one every 10 ms/)).toBeVisible()
    await page.getByText('over the line, from a box').first().waitFor({ state: 'attached' })
    await expectAccessible(page)

    // A trial: told over the line, read off the floor, typed and kept.
    await page.goto(`${server.url}/rigs/seed-trolley/move?copy=${copy}&view=trials`)
    await press(page.getByRole('button', { name: 'Open: Run for a time at 50 %' }))
    const trial = page.getByTestId('motion-timedWay')
    await trial.getByLabel('Tell the controller, in s').fill('0.8')
    await press(trial.getByRole('button', { name: 'Tell the robot' }))
    await expect(trial.getByTestId('told')).toContainText('for 0.8 s. Measure what it did.')
    const went = box.seen.find((s) => s.includes('has gone'))!
    await expect(trial.getByLabel('What it did, in mm')).toBeFocused()
    await page.keyboard.type(/gone (\d+) mm/.exec(went)![1]!)
    await page.keyboard.press('Enter')
    await expect(page.getByText(/happened \d+ mm/)).toBeVisible()
    await expectAccessible(page)

    // Preflight: the controller answers, the pack is asked, a sensor is listened to, a motor moves and somebody looks.
    await page.goto(`${server.url}/rigs/seed-trolley/rig/preflight?copy=${copy}`)
    await expect(page.getByLabel(/It does, on its line: Seed trolley/)).toBeChecked()
    await press(page.getByRole('button', { name: 'Ask what the pack gives' }))
    await expect(page.getByTestId('preflight-state')).toContainText('V with everything on.')
    await expect(page.getByTestId('pack')).toHaveText(/^Measured: [\d.]+ V at rest, [\d.]+ V with everything on\.$/)
    await press(page.getByRole('button', { name: 'Test Tag eye' }))
    await expect(page.getByText('The robot is asked…')).toBeVisible()
    await page.waitForTimeout(1500)
    box.type('hold Tag eye over white card')
    await expect(page.getByTestId('preflight-state')).toContainText('The reading of Tag eye changes.', { timeout: 12_000 })
    await press(page.getByRole('button', { name: 'Move Trolley' }))
    await expect(page.getByRole('button', { name: 'Move Trolley' })).toBeEnabled()
    await page.getByLabel('Trolley: Moved it: what was seen?').selectOption('it did as it should')
    await expect(page.getByTestId('preflight-state')).toContainText('Trolley turns forward.')
    await expectAccessible(page)

    // A run begins and ends by itself; one word and it is in the log.
    await page.goto(`${server.url}/rigs/seed-trolley/log?copy=${copy}`)
    await press(page.getByRole('button', { name: 'Let the robot start' }))
    await expect(page.getByTestId('line-run')).toContainText('It runs: Main.')
    const seen = page.getByTestId('seen-runs').getByRole('listitem')
    await expect(seen).toHaveCount(1, { timeout: 60_000 })
    await expect(seen).toContainText(/It ended in Main\.\w+.* after [\d.]+ s by the clock of a box/)
    await expectAccessible(page)
    await press(page.getByRole('button', { name: 'Seen run 1 passed' }))
    await expect(seen).toHaveCount(0)
    await page.getByRole('textbox', { name: 'Note' }).fill('It hummed.')
    await press(page.getByRole('button', { name: 'Done' }))
    await expect(async () => {
      const log = await (await page.request.get(`${server.url}/api/rigs/seed-trolley/log?copy=${copy}`)).json()
      const lines = log.spreads.flatMap((s: { lines: { note: string }[] }) => s.lines)
      expect(
        lines.filter((l: { note: string }) => l.note.startsWith('Over the line. It ended') && l.note.endsWith('It hummed.')),
      ).toHaveLength(1)
    }).toPass({ timeout: 20_000 })

    // The plug is pulled while it records: said within two seconds, and what came is kept.
    await page.goto(`${server.url}/rigs/seed-trolley/sense?copy=${copy}`)
    await page.getByLabel('Seconds to record').fill('30')
    await press(page.getByTestId('record'))
    await expect(page.getByTestId('recording')).toContainText(/\d+ of \d+/)
    await page.waitForTimeout(1000)
    const pulled = Date.now()
    box.type('pull')
    await expect(page.getByTestId('on-line')).toContainText('The line is out.')
    expect(Date.now() - pulled).toBeLessThan(2000)
    await expect(page.getByText(/The line broke\. \d+ readings until then are kept\./)).toBeVisible()
    box.type('plug')
    await expect(page.getByTestId('on-line')).toContainText('On the line.')

    // Started anew a second after it is told anything: the live reading begins again by itself each time.
    const line = async () => (await page.request.get(`${server.url}/api/rigs/seed-trolley/line?copy=${copy}`)).json()
    const { joins } = await line()
    box.type('fault anew')
    await page.getByLabel('Seconds to record').fill('20')
    await press(page.getByTestId('record'))
    await expect(page.getByText(/The board was started anew\. \d+ readings until then are kept\./)).toBeVisible()
    await expect(page.getByTestId('on-line')).toContainText(/It was started anew by itself.*ust now\. Look at the line/)
    await expect(async () => expect((await line()).joins).toBeGreaterThan(joins + 3)).toPass({ timeout: 20_000 })
    await expect(page.getByTestId('live')).toContainText(/\d+ %/)

    // A box that lies is called out where the line is looked at.
    box.type('fault range')
    await press(page.getByRole('link', { name: 'Look at the line' }))
    await expect(page.getByTestId('line-complaints')).toContainText(/It was started anew by itself.* \d times, last just now\./)
    await page.getByLabel('A line to say').fill('tell Tag eye')
    await press(page.getByLabel('A line to say'))
    await expect(page.getByTestId('line-complaints')).toContainText('it can give 0 to 100')
    await press(page.getByRole('button', { name: 'Let it go' }))
    await expect(page.getByText('This copy is on no line.')).toBeVisible()
  } finally {
    await box.stop()
  }
})

test('at 768 by touch everything on the line is as large as a finger and nothing runs off the page', async ({ browser, server, page }) => {
  test.setTimeout(90_000)
  const copy = await real(page, server.url)
  const box = await startBox('seed-trolley', server.folder, String(copy))
  const touch = await browser.newContext({ viewport: { width: 768, height: 1024 }, hasTouch: true })
  try {
    const tablet = await touch.newPage()
    await tablet.goto(`${server.url}/rigs/seed-trolley/rig/line?copy=${copy}`)
    const fits = async () => {
      expect(await tablet.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(768)
      await expectAccessible(tablet)
    }
    const large = async (name: string) =>
      expect((await tablet.getByRole('button', { name }).boundingBox())!.height).toBeGreaterThanOrEqual(44)
    await tablet.getByLabel('A serial port, or an address and its port').fill(box.to)
    await large('Join it')
    await tablet.getByRole('button', { name: 'Join it' }).tap()
    await expect(tablet.getByTestId('line-standing')).toContainText('Joined.')
    await large('Say it')
    await large('Let it go')
    await fits()
    await tablet.goto(`${server.url}/rigs/seed-trolley/sense?copy=${copy}`)
    await tablet.getByLabel('Seconds to record').fill('1')
    await tablet.getByTestId('record').tap()
    await expect(tablet.getByText(/readings recorded into/)).toBeVisible()
    await fits()
    await tablet.goto(`${server.url}/rigs/seed-trolley/log?copy=${copy}`)
    // What stands above the button has come.
    await expect(tablet.getByRole('region', { name: 'Revision 2' })).toBeVisible()
    await large('Let the robot start')
    await tablet.getByRole('button', { name: 'Let the robot start' }).tap()
    await expect(tablet.getByRole('button', { name: 'Stop the robot' })).toBeVisible()
    await tablet.getByRole('button', { name: 'Stop the robot' }).tap()
    await expect(tablet.getByTestId('seen-runs')).toContainText('It ended in')
    await large('Seen run 1 failed')
    await fits()
    await tablet.getByRole('button', { name: 'Seen run 1 was none' }).tap()
    await expect(tablet.getByTestId('seen-runs')).toHaveCount(0)
    await tablet.goto(`${server.url}/rigs/seed-trolley/rig/preflight?copy=${copy}`)
    await large('Test Tag eye')
    await fits()
    await tablet.goto(`${server.url}/help/line`)
    await expect(tablet.getByRole('heading', { name: 'Each line is answered' })).toBeVisible()
    await fits()
  } finally {
    await touch.close()
    await box.stop()
  }
})

test('a rig without anything on it is joined too: what it has not is said, and nothing is called ready', async ({ server, page, open }) => {
  const post = async (path: string, data: object) =>
    (await (await page.request.post(server.url + path, { data })).json()) as { id: string; number: number }
  const { id } = await post('/api/rigs', { name: 'Bare board', template: 'nothing yet' })
  const { number: copy } = await post(`/api/rigs/${id}/copies`, { team: '', kind: 'real' })
  const box = await startBox(id, server.folder, String(copy))
  try {
    await page.request.put(`${server.url}/api/rigs/${id}/line`, { data: { copy, to: box.to } })
    await open(`/rigs/${id}/rig/line?copy=${copy}`)
    await expect(page.getByTestId('line-standing')).toContainText('Joined. Bare board answers at')
    await expect(page.getByText('It has no sensors.')).toBeVisible()
    const say = page.getByLabel('A line to say')
    await expect(say).toHaveAttribute('placeholder', '?')
    await say.fill('tell Tag eye')
    await press(say)
    await expect(page.getByText('It answers no. I have no sensor Tag eye.')).toBeVisible()
    await expectAccessible(page)
    await page.goto(`${server.url}/rigs/${id}/rig/preflight?copy=${copy}`)
    await press(page.getByRole('button', { name: 'Ask what the pack gives' }))
    await expect(page.getByTestId('pack')).toContainText('V at rest')
    for (const tick of await page.getByRole('checkbox').all()) {
      if (!(await tick.isChecked())) await tick.press('Space')
      await expect(tick).toBeChecked()
    }
    await expect(page.getByTestId('preflight-state')).toContainText('0 of 0 devices seen to work; 5 of 5 looked at.')
    // That it answers is ticked by its line: without one it is not, and with one again it is.
    await post(`/api/rigs/${id}/preflight/check`, { copy, key: 'link', done: false })
    await page.request.delete(`${server.url}/api/rigs/${id}/line?copy=${copy}`)
    await expect(page.getByTestId('preflight-state')).toContainText('4 of 5 looked at.')
    await page.request.put(`${server.url}/api/rigs/${id}/line`, { data: { copy, to: box.to } })
    await expect(page.getByTestId('preflight-state')).toContainText('5 of 5 looked at.')
    await expectAccessible(page)
    await page.goto(`${server.url}/rigs/${id}/log?copy=${copy}`)
    await press(page.getByRole('button', { name: 'Let the robot start' }))
    await expect(page.getByText(/It answers no\./)).toBeVisible()
    await expectAccessible(page)
    await page.goto(`${server.url}/rigs/${id}/rig/preflight?copy=${copy}`)
    await press(page.getByRole('link', { name: 'Describe them' }))
    await expect(page).toHaveURL(/describe/)
  } finally {
    await box.stop()
  }
})
