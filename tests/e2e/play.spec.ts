import { expect, expectAccessible, press, test } from './fixtures'

test('a bench is played with by keys, stepped, kept as a scene and run again', async ({ page, open }) => {
  await open('/rigs/berthing-lights/simulate')
  const begin = page.getByRole('button', { name: 'Play with it' })
  await expect(begin).toBeEnabled()
  await begin.focus()
  await page.keyboard.press('Enter')
  const clock = page.getByTestId('play-clock')
  const seconds = async () => Number.parseFloat((await clock.textContent())!)
  await expect.poll(seconds).toBeGreaterThan(0.3)
  await expectAccessible(page)

  // Every hand has a key, and a hand lasts as long as its key is down.
  const hand = page.getByRole('button', { name: 'A hand before Berth range' })
  await expect(hand).toContainText('a')
  await page.getByRole('textbox', { name: 'A hand before Berth range, mm' }).fill('150')
  await page.getByRole('heading', { name: 'Playing' }).click()
  await page.keyboard.down('a')
  await expect(hand).toHaveAttribute('aria-pressed', 'true')
  const log = page.getByRole('log', { name: 'Transitions' })
  await expect(page.getByTestId('play-now')).toContainText('A hand before Berth range')
  await expect(log).toContainText(/to Close\. Berth range read 1[45]\d/)
  await expect(page.getByTestId('play-now')).toContainText(/lamp on/)
  await page.keyboard.up('a')
  await expect(hand).toHaveAttribute('aria-pressed', 'false')

  // Stood still, it goes on from transition to transition; what is pressed meanwhile is not lost.
  await page.keyboard.press('Space')
  await expect(page.getByRole('button', { name: 'Go on' })).toBeVisible()
  const still = async () => {
    const before = await seconds()
    await page.waitForTimeout(200)
    return (await seconds()) === before
  }
  await expect.poll(still).toBe(true)
  const stood = await seconds()
  await page.keyboard.press('.')
  await expect.poll(seconds).toBeGreaterThan(stood)
  await expect.poll(still).toBe(true)
  const stepped = await seconds()
  await expect(log.getByRole('listitem').first()).toContainText(`${stepped.toFixed(2)} s`)
  const unplug = page.getByRole('button', { name: 'Unplug Berth range' })
  await unplug.click()
  await expect(unplug).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('button', { name: 'Go on' }).click()
  await expect(page.getByTestId('play-now')).toContainText('Unplug Berth range')
  await unplug.click()
  await expect(unplug).toHaveAttribute('aria-pressed', 'false')

  // What was done becomes lines of a scene; on the same seed it is the same run.
  const told = await log.getByRole('listitem').allTextContents()
  const name = page.getByRole('textbox', { name: 'Name of the scene' })
  await name.fill('As in the shed')
  await expect(page.getByText('There is a scene of that name.')).toBeVisible()
  await name.fill('Too soon')
  await press(name)
  await expect(page.getByText(/^Kept as revision 2: kept the scene Too soon/)).toBeVisible()
  const sheet = page.getByRole('group', { name: 'Sentences of Too soon' })
  await expect(sheet).toContainText(/hand\s*150 mm before Berth range at [\d.]+ s for [\d.]+ s/)
  await expect(sheet).toContainText(/unplug\s*Berth range at [\d.]+ s for [\d.]+ s/)
  await expect(page.getByTestId('outcome')).toContainText(/seed 1/)
  const first = told.findLast((t) => / to /.test(t))!.slice(0, 12)
  await expect(page.locator('.events')).toContainText(first.slice(0, 6))
})

test('the fall of the scrubber is found by watching', async ({ page, open }) => {
  await open('/rigs/deck-scrubber/simulate')
  await page.getByRole('button', { name: 'At a slant' }).click()
  const outcome = page.getByTestId('outcome')
  let fell = false
  for (let seed = 1; seed <= 40 && !fell; seed++) {
    await page.getByRole('textbox', { name: 'Seed' }).fill(String(seed))
    const answered = page.waitForResponse((r) => r.url().endsWith('/runs') && r.request().method() === 'POST')
    await page.getByRole('button', { name: 'Run with this seed' }).click()
    await answered
    await expect(outcome).toContainText(`seed ${seed}`)
    fell = /wheel of Drive is off the deck/i.test((await outcome.textContent())!)
  }
  expect(fell).toBe(true)
  // What happened just before, with its figures, and the place where it happened.
  await expect(outcome).toContainText(/[\d.]+ s before it went from .* to .*|It was carrying out/)
  await expect(page.getByRole('group', { name: 'Place' }).locator('svg').first()).toContainText(/wheel/)
  await page.getByRole('button', { name: 'Back' }).click()
  await expect(page.locator('.events button[aria-pressed="true"]')).toBeVisible()
})

test.describe('by touch', () => {
  test.use({ viewport: { width: 768, height: 1024 }, hasTouch: true, isMobile: true })

  test('a bench is played with by touch on a tablet', async ({ page, open }) => {
    await open('/rigs/rack-hoist/simulate')
    await page.getByRole('button', { name: 'Play with it' }).tap()
    const hands = page.getByRole('group', { name: 'What you can do' })
    const knob = hands.getByRole('button', { name: 'Hold Order knob' })
    await expect(knob).toBeEnabled()
    const box = (await knob.boundingBox())!
    expect(box.height).toBeGreaterThanOrEqual(44)
    const block = hands.getByRole('button', { name: 'Block Mast' })
    await block.tap()
    await expect(block).toHaveAttribute('aria-pressed', 'true')
    await block.tap()
    await expect(block).toHaveAttribute('aria-pressed', 'false')
    await page.getByRole('checkbox', { name: 'Hear the tones' }).tap()
    await expect(page.getByRole('checkbox', { name: 'Hear the tones' })).toBeChecked()
    await page.getByRole('button', { name: 'Leave' }).tap()
    await expect(page.getByRole('heading', { name: 'One run, watched' })).toBeVisible()
  })
})
