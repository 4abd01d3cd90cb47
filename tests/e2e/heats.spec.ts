import { readFile } from 'node:fs/promises'
import { expect, expectAccessible, press } from './fixtures'
import { join, openRoom, test } from './room'

test('a challenge is made of a scene by keyboard, told what is wrong with it, kept, exported and taken in', async ({ page, open }) => {
  await open('/')
  await page.getByRole('link', { name: 'Class' }).click()
  await page.getByRole('link', { name: 'Challenges' }).click()
  await expect(page.getByRole('link', { name: 'Crumbs overboard' })).toBeVisible()
  await expectAccessible(page)
  await page.getByLabel('Of the scene of').selectOption('buoy-line-rover')
  await page.getByLabel('Scene', { exact: true }).selectOption('In the shade')
  await press(page.getByRole('button', { name: 'Make it' }))
  await expect(page.getByRole('heading', { name: 'Buoy-line rover: In the shade' })).toBeVisible()
  await expect(page.getByText('Who is done sooner wins the heat')).toBeVisible()
  await expect(page.getByRole('rowheader', { name: 'tape of line for track' })).toBeVisible()
  await expectAccessible(page)

  // What its numbers say stands there as it is typed; what is wrong, at its field.
  await page.getByLabel('Touches allowed').fill('2')
  await page.getByLabel('A touch costs (s)').fill('5')
  await expect(page.getByText('A team may touch its machine 2 times in a run; each adds 5 s.')).toBeVisible()
  await page.getByLabel('Touches allowed').fill('2.5')
  await expect(page.getByText('A whole number from 0 to 20.')).toBeVisible()
  await page.getByLabel('A touch costs (s)').fill('five')
  await page.getByLabel('Scored by').selectOption('points')
  await expect(page.getByText('Scored by points it needs a line that gives some')).toBeVisible()
  await page.getByRole('button', { name: 'Keep the challenge' }).click()
  await expect(page.getByText('It is not kept: something above is wrong.')).toBeVisible()
  // Nothing typed is lost, also not by leaving the page.
  await page.reload()
  await expect(page.getByLabel('Touches allowed')).toHaveValue('2.5')
  await expect(page.getByLabel('A touch costs (points)')).toHaveValue('five')
  await page.getByLabel('Touches allowed').fill('1')
  await page.getByLabel('A touch costs (points)').fill('5')
  const scene = page.getByLabel('Its sentences')
  await scene.fill((await scene.inputValue()) + 'score 100 when robot within 20 mm of fourth\nscore nonsense\n')
  await expect(page.getByText(/^Line \d+: .*nonsense/)).toBeVisible()
  await scene.fill((await scene.inputValue()).replace('score nonsense\n', ''))
  await page.getByLabel('Your rules').fill('Be kind.\nShake hands.')
  await press(page.getByRole('button', { name: 'Keep the challenge' }))
  await expect(page.getByText('What you changed is not kept yet.')).toHaveCount(0)
  await page.reload()
  await expect(page.getByLabel('Your rules')).toHaveValue('Be kind.\nShake hands.')
  await expect(page.getByText('score 100 when robot within 20 mm of fourth', { exact: true })).toBeVisible()

  const going = page.waitForEvent('download')
  await page.getByRole('link', { name: 'Export it' }).click()
  const file = (await (await going).path())!
  expect(JSON.parse(await readFile(file, 'utf8')).challenge.touches).toBe(1)
  await page.getByRole('link', { name: 'Challenges' }).first().click()
  await page.getByLabel('File of a challenge').setInputFiles({ name: 'a.json', mimeType: 'application/json', buffer: Buffer.from('{') })
  await expect(page.getByText('a.json is no challenge')).toBeVisible()
  await page.getByLabel('File of a challenge').setInputFiles(file)
  await expect(page.getByText('came in.')).toBeVisible()
  await page.getByRole('link', { name: 'Open it' }).click()
  await expect(page.getByRole('heading', { name: 'Buoy-line rover: In the shade 2' })).toBeVisible()
})

test('heats: machines meet in the bench, a judge scores with stopwatches, and every device has the table', async ({
  page,
  open,
  device,
  server,
}) => {
  const post = (path: string, body: object) =>
    fetch(server.url + path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
  await open('/')
  const code = await openRoom(page)
  const gulls = await device()
  await join(gulls, code, 'Gulls')
  await gulls.getByRole('link', { name: 'Lesson' }).click()
  await gulls.getByRole('navigation').getByRole('link', { name: 'Heats' }).click()
  await expect(gulls.getByText('No heats have begun yet')).toBeVisible()
  const room = Number(new URL(page.url()).pathname.split('/')[2])
  for (const name of ['Crabs', 'Whelks', 'Kelp', 'Ebb', 'Flood']) await post(`/api/classes/${room}/teams`, { name })
  await post(`/api/classes/${room}/hand-out`, { rig: 'deck-scrubber' })

  // Begun by keyboard, and run in the bench before anybody meets.
  await page.bringToFront()
  await page.getByRole('link', { name: 'Heats of the class' }).click()
  await page.getByLabel('Challenge', { exact: true }).selectOption('Last on the deck')
  await expect(page.getByText('15 heats in 5 rounds.')).toBeVisible()
  await expectAccessible(page)
  await press(page.getByRole('button', { name: 'Begin' }))
  await expect(page.getByRole('heading', { name: 'Last on the deck' })).toBeVisible()
  await press(page.getByRole('button', { name: 'Run all heats in the bench' }))
  await expect(page.getByRole('progressbar', { name: 'Runs done' })).toBeVisible()
  await press(page.getByRole('button', { name: 'Stop' }).first())
  await expect(page.getByText(/stopped/i)).toBeVisible()
  await press(page.getByRole('button', { name: 'Run all heats in the bench' }))
  await expect(page.getByRole('table', { name: /Of 100 tournaments/ })).toBeVisible({ timeout: 60_000 })
  await expect(page.getByText(/the bench: .* wins \d+ of 100/).first()).toBeVisible()
  await expectAccessible(page)

  // A judge, on a tablet.
  const judges = (await (await fetch(`${server.url}/api/room`)).json()) as { judgeCode: string }
  const judge = await device(true)
  await judge.getByLabel('Code').fill(judges.judgeCode)
  await judge.getByRole('button', { name: 'Join' }).tap()
  await expect(judge.getByRole('region', { name: 'Score a heat' })).toBeVisible()
  await expectAccessible(judge)
  const lanes = judge.locator('.score-lane')
  const first = (await lanes.nth(0).locator('b').textContent())!
  const second = (await lanes.nth(1).locator('b').textContent())!
  await judge.getByRole('button', { name: 'Start both' }).tap()
  await expect(judge.getByRole('button', { name: 'Keep the result' })).toBeDisabled()
  await judge.waitForTimeout(1200)
  await judge.getByRole('button', { name: `Stop ${second}` }).tap()
  const fell = Number(await judge.getByLabel(`Seconds until it fell, ${second}`).inputValue())
  expect(fell).toBeGreaterThan(1)
  expect(fell).toBeLessThan(20)
  // The other stopwatch runs on over a page that is opened anew; what was written is there.
  await judge.reload()
  await expect(judge.getByLabel(`Seconds until it fell, ${second}`)).toHaveValue(fell.toFixed(2))
  await judge.getByRole('button', { name: `Stop ${first}` }).tap()
  await judge.getByLabel(`Seconds until it fell, ${first}`).fill('soon')
  await expect(judge.getByText('This is no number.')).toBeVisible()
  await expect(judge.getByRole('button', { name: 'Keep the result' })).toBeDisabled()
  await judge.getByLabel(`Seconds until it fell, ${first}`).fill('90')
  await judge.getByRole('button', { name: 'Keep the result' }).tap()
  await expect(judge.getByText('It is not kept: something above is wrong.')).toBeVisible()
  // It stayed up.
  await judge.getByLabel(`Seconds until it fell, ${first}`).fill('')
  await judge.getByRole('button', { name: 'Keep the result' }).tap()
  await expect(
    judge
      .getByRole('listitem')
      .filter({ hasText: `${first} against ${second}` })
      .first(),
  ).toContainText(`${first} wins`)

  // The team's device and the desk have it by themselves.
  await gulls.bringToFront()
  await expect(gulls.getByRole('region', { name: 'Table', exact: true }).getByRole('row').nth(1)).toContainText(first)
  await expect(gulls.getByText(`; ${first} wins`)).toBeVisible()
  await expect(gulls.getByRole('button', { name: /Take back|Score/ })).toHaveCount(0)
  // From wherever it works there is a way to them now.
  await expect(gulls.getByRole('region', { name: 'Your team' }).getByRole('link', { name: 'Heats' })).toBeVisible()
  await expectAccessible(gulls)
  await page.bringToFront()
  await expect(page.getByRole('region', { name: 'What was written down' })).toContainText('a judge')
  await expect(page.locator('.stands-here').first()).toBeVisible()

  // Taken back, and it keeps its trace; scored anew by the keys alone, run again, withdrawn.
  await press(page.getByRole('button', { name: `Take back ${first} against ${second}` }))
  await expect(page.locator('.taken-back')).toContainText(`${first} against ${second}`)
  await press(page.getByRole('button', { name: `Score ${first} against ${second}` }))
  await page.keyboard.press('s')
  await page.waitForTimeout(700)
  await page.keyboard.press('1')
  await page.waitForTimeout(700)
  await page.keyboard.press('2')
  await press(page.getByRole('button', { name: 'Keep the result' }))
  const line = page
    .getByRole('listitem')
    .filter({ hasText: `${first} against ${second}` })
    .first()
  await expect(line).toContainText(`${second} wins`)
  await press(page.getByRole('button', { name: `Run ${first} against ${second} again for ${first}` }))
  await expect(page.getByRole('region', { name: 'What was written down' })).toContainText(`${first} asked for it`)
  await expect(page.getByRole('row', { name: new RegExp(`^${first} .*1 of 1`) })).toBeVisible()
  await press(page.getByRole('button', { name: `${first} withdraws` }))
  await expect(page.getByText('counted as if they had never been there')).toContainText(first)
  await expect(page.getByRole('region', { name: 'Table', exact: true }).getByRole('row')).toHaveCount(6)
  await press(page.getByRole('button', { name: `${first} is back` }))
  await expect(page.getByRole('region', { name: 'Table', exact: true }).getByRole('row')).toHaveCount(7)
  await expectAccessible(page)
  // For the wall.
  await open('/class/projector')
  await expect(page.getByRole('region', { name: 'Heats: Last on the deck' })).toContainText('Next:')
  await expectAccessible(page)
})
