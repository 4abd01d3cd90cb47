import { expect, expectAccessible, test } from './fixtures'

const move = '/rigs/deck-scrubber/move'

test("the seconds for a half turn are found in four trials and become the copy's own", async ({ page, open }) => {
  await open(`${move}?view=trials`)
  const turn = page.getByTestId('motion-timedTurn')
  await turn.getByRole('button', { name: 'Open: Turn for a time' }).click()
  await expect(turn).toContainText('Let it turn for the time')
  // The first two are tried by feel, the others are what the trials say.
  const told = turn.getByLabel('Tell the controller, in s')
  for (const seconds of ['1.2', '1.8', null, null]) {
    if (seconds) await told.fill(seconds)
    const before =
      (await turn.locator('summary').count()) === 0 ? 0 : Number(/\d+/.exec((await turn.locator('summary').textContent()) ?? '')?.[0] ?? 1)
    await turn.getByRole('button', { name: 'Run it on the stand-in' }).click()
    await expect(turn.locator('summary')).toHaveText(
      before === 0 ? 'The trial on the stand-in' : `The ${before + 1} trials on the stand-in`,
    )
  }
  await expect(turn.getByRole('img', { name: /trial 4: asked 180 robot deg, happened \d+ robot deg/ })).toBeVisible()
  await expect(turn).toContainText(/(Enough: [\d.]+ s for 180 robot deg|should bring 180 ±)/)
  await turn.locator('summary').click()
  const last = await turn.getByRole('row').last().getByRole('cell').nth(3).textContent()
  expect(Math.abs(Number(/[\d.]+/.exec(last ?? '')![0]) - 180)).toBeLessThan(15)
  await expectAccessible(page)
  await turn.getByRole('button', { name: /^Use [\d.]+ s/ }).click()
  await expect(turn).toContainText('measured, 4 trials on the stand-in, for 180 robot deg')
  await page.getByRole('link', { name: 'Numbers' }).click()
  await expect(page.getByRole('row', { name: /seconds for the turn/ })).toContainText('measured, 4 trials')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('row', { name: /seconds for the turn/ })).toContainText('nobody knows')
})

test('a turn by the clock is tried at another power and on one wheel, each apart from the others', async ({ page, open }) => {
  await open(`${move}?view=trials&mechanism=Drive`)
  const turns = page.getByTestId('motion-timedTurn')
  await turns.getByRole('button', { name: 'Open: Turn for a time, on the spot, at 50 %' }).click()
  await turns.getByRole('button', { name: 'Run it on the stand-in' }).click()
  await expect(turns.locator('summary')).toHaveText('The trial on the stand-in')
  await turns.getByLabel('How it turns').selectOption('leftWheel')
  const wheel = page.getByRole('region', { name: 'Turn for a time, on the left wheel alone, at 50 %' })
  await expect(wheel.locator('summary')).toHaveCount(0)
  await wheel.getByLabel('Power, in %').fill('300')
  await page.keyboard.press('Enter')
  await expect(wheel.getByText(/at most 100/)).toBeVisible()
  await wheel.getByLabel('Power, in %').fill('30')
  await page.keyboard.press('Enter')
  const slow = page.getByRole('region', { name: 'Turn for a time, on the left wheel alone, at 30 %' })
  await slow.getByRole('button', { name: 'Run it on the stand-in' }).click()
  await expect(slow.locator('summary')).toHaveText('The trial on the stand-in')
  await expectAccessible(page)
  // All that was tried stays listed, and what was only looked at does not.
  await page.reload()
  await expect(turns).toHaveCount(2)
  await page.getByRole('link', { name: 'Numbers' }).click()
  await expect(page.getByRole('row', { name: /seconds for the turn, on the left wheel alone at 30 %/ })).toBeVisible()
})

test('how much readings tremble while rolling is found from readings, and Sense judges by it', async ({ page, open }) => {
  await open('/rigs/seed-trolley/sense?sensor=Tag%20eye')
  await expect(page.getByText(/Judged while it rolls 40\d mm\/s, where readings scatter 26 %/)).toBeVisible()
  await page.getByRole('link', { name: 'Find it again' }).click()
  const tremble = page.getByTestId('motion-tremble')
  const rest = tremble.getByRole('textbox', { name: 'Readings at rest' })
  const rolling = tremble.getByRole('textbox', { name: 'Readings while rolling' })
  await rest.fill('41\n40')
  await rolling.fill('41\n39')
  await tremble.getByRole('button', { name: 'Keep this trial' }).click()
  await expect(tremble.getByText('Give 10 readings or more at rest; there are 2.')).toBeVisible()
  await expect(rest).toHaveValue('41\n40')
  // By hand: SDs 1.054 and 4.216 about 40, at 200 mm/s: √(4.216² − 1.054²) / 40 / 0.2 = 51.0 %.
  await rest.fill(Array.from({ length: 10 }, (_, i) => 39 + 2 * (i % 2)).join('\n'))
  await rolling.fill(Array.from({ length: 10 }, (_, i) => 36 + 8 * (i % 2)).join('\n'))
  await tremble.getByRole('button', { name: 'Keep this trial' }).click()
  await expect(tremble.getByRole('button', { name: 'Use 51.03 % per m/s all the same' })).toBeVisible()
  await expectAccessible(page)
  await tremble.getByRole('button', { name: /^Use 51/ }).click()
  await expect(tremble).toContainText('measured, 1 trial on the stand-in')
  await open('/rigs/seed-trolley/sense?sensor=Tag%20eye')
  await expect(page.getByText(/where readings scatter 51 %/)).toBeVisible()
})

test('trials by keyboard, a real measurement, a question about degrees, and an outlier left out', async ({ page, open }) => {
  await open(`${move}?view=trials`)
  const straight = page.getByTestId('motion-straight')
  const real = straight.getByLabel('What it did, in mm')
  for (const [i, mm] of ['774', '776', '775', '700', '773', '776'].entries()) {
    // The same command each time; by itself the page would tell what the trials so far make of 800 mm.
    await straight.getByLabel('Tell the controller, in wheel deg').fill('1625.4')
    await real.focus()
    await page.keyboard.type(mm)
    await page.keyboard.press('Enter')
    await expect(straight.locator('summary')).toHaveText(i === 0 ? 'The trial on the stand-in' : `The ${i + 1} trials on the stand-in`)
  }
  await expect(straight).toContainText('One trial lies far from the rest')
  await straight.locator('summary').click()
  await straight.getByRole('button', { name: 'Leave out trial 4' }).click()
  await expect(straight).toContainText('Enough: the effective wheel diameter is')
  await straight.getByRole('button', { name: /^Use 5\d\.\d+ mm$/ }).click()
  await expect(straight).toContainText('in use')
  await expect(straight).toContainText('measured, 5 trials on the stand-in')

  // 90 robot degrees are about 195 wheel degrees: whoever types those is asked.
  const turn = page.getByTestId('motion-turn')
  await turn.getByRole('button', { name: 'Open: Turn on the spot' }).click()
  await turn.getByLabel('Ask for, in robot deg').fill('90')
  await expect(turn.getByTestId('command')).toContainText(/^19\d\.?\d* wheel deg on the left wheel and as much back on the right/)
  const wheel = Math.round(Number(/[\d.]+/.exec((await turn.getByTestId('command').textContent()) ?? '')![0]))
  await turn.getByLabel('What it did, in robot deg').fill(String(wheel))
  await page.keyboard.press('Enter')
  await expect(turn.getByRole('alert')).toContainText('is what the wheels turned')
  await turn.getByLabel('What it did, in robot deg').fill('87')
  await page.keyboard.press('Enter')
  await expect(turn.locator('summary')).toHaveText('The trial on the stand-in')
  await expect(turn).toContainText('One trial cannot tell a lucky one from a reliable one')
  // Nonsense is refused in words, and what was typed stays.
  await turn.getByLabel('Ask for, in robot deg').fill('0')
  await turn.getByRole('button', { name: 'Run it on the stand-in' }).click()
  await expect(page.getByText('Ask for something other than 0').first()).toBeVisible()
})

test('a coarse click encoder cannot do a half turn, and the page says why', async ({ page, open }) => {
  await open(`${move}?view=end`)
  const clicks = page.getByTestId('sum-click-encoder')
  await expect(clicks).toContainText('Clicks cannot do it')
  await expect(clicks.getByRole('img', { name: /A click every 7\.1\d robot degrees/ })).toBeVisible()
  await clicks.getByLabel('Clicks a turn of the encoder').fill('60')
  await expect(clicks).toContainText('clicks end within')
  const ends = page.getByTestId('sum-move-end')
  await expect(ends).toContainText('By time: the battery sags')
  await expect(ends.getByRole('img', { name: /by time within/ })).toBeVisible()
  await expectAccessible(page)
})

test('turning, stopping, ends, a chain of moves and a line are shown to scale and follow what is typed', async ({ page, open }) => {
  await open(`${move}?view=ways`)
  await expect(page.getByTestId('turns')).toContainText('188.3 wheel deg')
  await page.getByLabel('Turn the robot, slider in robot degrees').focus()
  await page.keyboard.press('ArrowRight')
  await expect(page.getByTestId('turns')).toContainText('198.8 wheel deg')
  await expect(page.getByTestId('stops').getByRole('row')).toHaveCount(3)
  await expectAccessible(page)

  await page.getByRole('link', { name: 'Chain of moves' }).click()
  await expect(page.getByRole('status').filter({ hasText: 'of the ends lie in the target' })).toBeVisible()
  await expect(page.getByText('harms most')).toBeVisible()
  await page.getByLabel('Radius of the target, in mm').fill('')
  await page.getByLabel('Radius of the target, in mm').fill('500')
  await expect(page.getByText('more than 99 of 100 of the ends lie in the target')).toBeVisible()
  await page.getByLabel('Move 1, in mm, back negative').fill('far')
  await expect(page.getByRole('alert')).toContainText('Give a number')
  await page.getByLabel('Move 1, in mm, back negative').fill('800')
  await page.getByLabel('Radius of the target, in mm').fill('30')
  await expectAccessible(page)
  await page.getByRole('button', { name: 'Find the track width' }).click()
  await expect(page.getByTestId('motion-turn').getByRole('button', { name: 'Run it on the stand-in' })).toBeVisible()

  await open('/rigs/buoy-picker/move?mechanism=Jaws&view=ends')
  await expect(page.getByText('a close never ends by itself')).toBeVisible()
  await page.getByLabel('Send it to, in motor deg').fill('170')
  await expect(page.getByRole('status').filter({ hasText: 'past the centre: driven on to close, it begins to open again' })).toBeVisible()
  await expectAccessible(page)

  await open('/rigs/buoy-line-rover/move?view=line')
  await expect(
    page.getByRole('img', { name: /Two levels: off by [\d.]+ mm; Three bands: off by [\d.]+ mm; Proportional: off by/ }),
  ).toBeVisible()
  await page.getByLabel('bends of, in mm').fill('80')
  await expect(page.getByRole('img', { name: /Two levels: lost after/ })).toBeVisible()
  await expectAccessible(page)

  await open('/rigs/rack-hoist/move?mechanism=Tongue&view=load')
  await expect(page.getByTestId('sum-load-seat').getByRole('img')).toBeVisible()
})

test('lengths in inches, a slider, and a number sent to the rig from Bench sums', async ({ page, open, server }) => {
  await open(`${move}`)
  await expect(page.getByRole('row', { name: /effective track width 1/ })).toContainText('118 mm')
  await page.keyboard.press('Control+j')
  await expect(page.getByRole('combobox', { name: 'What do you want to know?' })).toBeFocused()
  await page.keyboard.type('degrees for a turn')
  await page.keyboard.press('Enter')
  const turn = page.getByTestId('bench-turn')
  await page.getByLabel('Lengths in').selectOption('in')
  await expect(turn.getByLabel('Track width in in')).toHaveValue('4.64567')
  await expect(turn.getByTestId('result')).toContainText('255.29 wheel deg')
  await turn.getByLabel('Track width in in').fill('5')
  await expect(turn.getByTestId('result')).toContainText('274.76 wheel deg')
  await page.getByLabel('Lengths in').selectOption('mm')
  await expect(turn.getByLabel('Track width in mm')).toHaveValue('127')
  await turn.getByLabel('Track width in mm').focus()
  await turn.getByRole('slider', { name: 'Slide track width' }).focus()
  await page.keyboard.press('Home')
  await expect(turn.getByRole('alert')).toContainText('greater than 0')
  await turn.getByLabel('Track width in mm').fill('121')
  await turn.getByRole('button', { name: 'Send to this rig' }).click()
  await turn.getByRole('button', { name: '121 mm as track width of Drive' }).click()
  await expect(turn).toContainText('Sent: track width of Drive is 121 mm now')
  // A guess is as wide as its kind, whatever its value.
  const { design } = (await (await fetch(`${server.url}/api/rigs/deck-scrubber/design?copy=1`)).json()) as {
    design: { mechanisms: { name: string; trackWidthMm: { value: number; span: number } }[] }
  }
  expect(design.mechanisms.find((m) => m.name === 'Drive')!.trackWidthMm).toMatchObject({ value: 121, span: 30 })
  await expectAccessible(page)
  await page.keyboard.press('Escape')
  await expect(page.getByRole('row', { name: /effective track width 1/ })).toContainText('guessed, tried in Bench sums')
})
