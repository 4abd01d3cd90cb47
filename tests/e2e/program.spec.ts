import { expect, expectAccessible, press, rateOf, rig, test } from './fixtures'

test('a line is edited by keyboard, with its faults and what can follow shown while typing', async ({ page, open }) => {
  await open(`${rig}/program`)
  const line = page.locator('#line-12')
  await line.focus()
  await page.keyboard.press('Enter')
  const input = page.getByRole('combobox', { name: 'Line 12' })
  await expect(input).toBeFocused()
  await input.fill('when Tag eye becomes bed tog: go Over tag')
  await expect(page.getByTestId('line-fault')).toContainText('No zone “bed tog” on Tag eye; did you mean “bed tag”?')
  await input.fill('when Tag eye becomes bed tag for ')
  await input.fill('when Tag eye becomes ')
  await expect(page.getByRole('option', { name: /bed tag/ })).toBeVisible()
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await expect(input).toHaveValue('when Tag eye becomes bed tag ')
  await page.keyboard.type('for 2 readings: set beds to beds + 1; go Over tag')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Kept as revision 3.')).toBeVisible()
  await expect(line).toBeFocused()
  await expect(line).toContainText('for 2 readings')
  await rateOf(page, 3)

  // Escape leaves the line as it was.
  await page.keyboard.press('Enter')
  await page.getByRole('combobox', { name: 'Line 12' }).fill('gone')
  await page.keyboard.press('Escape')
  await expect(line).toContainText('for 2 readings')
})

test.describe('on a server that is killed', () => {
  test.use({ own: true })

  test('lines are added, moved and taken out, and undo and redo cross a reload and a restart', async ({ page, open, server }) => {
    await open(`${rig}/program`)
    await page.locator('#line-13').focus()
    await page.keyboard.press('Alt+Enter')
    await page.keyboard.type('after 25 s: go Lost')
    await page.keyboard.press('Enter')
    await expect(page.getByText('Kept as revision 3.')).toBeVisible()
    await expect(page.locator('#line-14')).toContainText('25 s')
    await page.locator('#line-14').press('Alt+ArrowUp')
    await expect(page.getByText('Kept as revision 4.')).toBeVisible()
    await expect(page.locator('#line-13')).toContainText('25 s')
    await expect(page.locator('#line-14')).toContainText('30 s')
    await press(page.locator('#line-13'))
    await page.getByRole('combobox', { name: 'Line 13' }).fill('')
    await page.keyboard.press('Enter')
    await expect(page.getByText('Kept as revision 5.')).toBeVisible()
    await expect(page.getByText('25 s')).toHaveCount(0)

    await page.reload()
    await expect(page.getByRole('button', { name: 'Undo' })).toBeEnabled()
    await page.keyboard.press('Control+z')
    await expect(page.locator('#line-13')).toContainText('25 s')
    const place = await page.locator('#line-13').boundingBox()
    await server.kill()
    await expect(page.getByText('No connection to the bench.')).toBeVisible()
    // What is said of it moves nothing from under a hand.
    expect(await page.locator('#line-13').boundingBox()).toEqual(place)
    await server.start()
    await expect(page.getByText('No connection to the bench.')).toBeHidden()
    await page.keyboard.press('Control+z')
    await expect(page.locator('#line-14')).toContainText('25 s')
    await page.keyboard.press('Control+z')
    await expect(page.getByText('25 s')).toHaveCount(0)
    await expect(page.getByRole('button', { name: 'Undo' })).toBeDisabled()
    await page.keyboard.press('Control+Shift+z')
    await expect(page.locator('#line-14')).toContainText('25 s')
  })
})

test('three faults are shown at their lines, and the machine waits for them', async ({ page, open }) => {
  await open(`${rig}/program`)
  const faulty: [number, string][] = [
    [4, 'var cruise = '],
    [12, 'when Tag eye becomes mud: go Over tag'],
    [25, 'after 1.5 m: go Seeding'],
  ]
  for (const [line, text] of faulty) {
    await press(page.locator(`#line-${line}`))
    await page.getByRole('combobox', { name: `Line ${line}` }).fill(text)
    await page.keyboard.press('Enter')
    await expect(page.locator(`#line-${line}`)).toContainText(text.slice(-10).trim())
  }
  await expect(page.getByTestId('rate')).toContainText('3 faults')
  await expect(page.locator('.fault.under')).toHaveCount(3)
  await expect(page.getByText('This must be a time; it is a length.')).toBeVisible()
  await expect(page.getByTestId('cannot-run').first()).toContainText('Cannot run yet')
  await expect(page.getByRole('button', { name: 'Run once' })).toHaveCount(0)
})

test('a state is added from nothing', async ({ page, open }) => {
  await open(`${rig}/program`)
  await page.getByRole('button', { name: 'Add a state' }).click()
  await page.keyboard.type('Waiting')
  await page.keyboard.press('Enter')
  await expect(page.locator('[id="state-Waiting"]')).toBeVisible()
  await page.locator('[id="state-Waiting"]').getByRole('button', { name: 'Add a line' }).click()
  await page.keyboard.type('after 2 s: go Rolling')
  await page.keyboard.press('Enter')
  await expect(page.locator('[id="state-Waiting"]')).toContainText('go Rolling')
  await rateOf(page, 4)

  // A renamed state is followed by the lines that go to it; a comment is a line like any other.
  await press(page.getByRole('button', { name: 'Edit state Stopping' }))
  await page.getByRole('combobox', { name: 'Line 23' }).fill('state Braking')
  await page.keyboard.press('Enter')
  await expect(page.locator('#line-18')).toContainText('go Braking')
  await press(page.locator('#line-19'))
  await page.getByRole('combobox', { name: 'Line 19' }).fill('# Four sleepers in a row would be surer.')
  await page.keyboard.press('Enter')
  await expect(page.locator('#line-19')).toContainText('Four sleepers in a row')
  await rateOf(page, 6)

  await page.locator('[id="state-Waiting"]').getByRole('button', { name: 'Edit state Waiting' }).focus()
  await press(page.locator('[id="state-Waiting"]').getByRole('button', { name: 'Take out this state' }))
  await expect(page.locator('[id="state-Waiting"]')).toHaveCount(0)
  await expect(page.locator('.fault')).toHaveCount(0)
})

test.describe('on a server that is killed', () => {
  test.use({ own: true })

  test('what is typed survives a lost connection and a reload', async ({ page, open, server }) => {
    await open(`${rig}/program`)
    await press(page.locator('#line-4'))
    await page.getByRole('combobox', { name: 'Line 4' }).fill('var cruise = 47 %')
    await server.kill()
    await page.keyboard.press('Enter')
    await expect(page.getByTestId('line-fault')).toContainText('No connection')
    await expect(page.getByRole('combobox', { name: 'Line 4' })).toHaveValue('var cruise = 47 %')
    await server.start()
    await expect(page.locator('#line-4')).toContainText('47 %')

    await press(page.locator('#line-4'))
    await page.getByRole('combobox', { name: 'Line 4' }).fill('var cruise = 48')
    await page.reload()
    await expect(page.getByRole('combobox', { name: 'Line 4' })).toHaveValue('var cruise = 48')
  })
})

test('an edit that crosses another one on its way is kept beside it, without a question', async ({ page, open, context, server }) => {
  await open(`${rig}/program`)
  const other = await context.newPage()
  await other.goto(server.url + `${rig}/program`)
  await page.bringToFront()
  await press(page.locator('#line-4'))
  await page.getByRole('combobox', { name: 'Line 4' }).fill('var cruise = 50 %')
  // What this window asks for when it hears of the other's edit comes only while its own waits for its answer.
  let sent = 0
  let kept: () => void = () => undefined
  const keeping = new Promise<void>((done) => {
    kept = done
  })
  await page.route(/\/api\/.*\/program(\/edit|\?|$)/, async (route) => {
    if (route.request().url().endsWith('/edit')) {
      sent++
      const response = await route.fetch()
      kept()
      await new Promise((done) => setTimeout(done, 1500))
      return route.fulfill({ response })
    }
    if (route.request().method() === 'GET' && sent === 0) await keeping
    await route.continue()
  })
  await page.evaluate(() => {
    const seen = window as unknown as { asked: number }
    seen.asked = 0
    new MutationObserver(() => {
      seen.asked += document.querySelectorAll('[role="dialog"]').length
    }).observe(document.body, { childList: true, subtree: true })
  })
  await other.bringToFront()
  await press(other.locator('#line-6'))
  await other.getByRole('combobox', { name: 'Line 6' }).fill('var beds = 1')
  await other.keyboard.press('Enter')
  await expect(other.getByText('Kept as revision 3.')).toBeVisible()
  await page.bringToFront()
  await press(page.getByRole('combobox', { name: 'Line 4' }))
  await expect(page.getByText('Kept as revision 4.')).toBeVisible()
  await expect(page.locator('#line-4')).toBeFocused()
  await expect(page.locator('#line-6')).toContainText('1')
  await expect(other.locator('#line-4')).toContainText('50 %')
  expect(sent).toBe(1)
  expect(await page.evaluate(() => (window as unknown as { asked: number }).asked)).toBe(0)
})

test('two windows do not overwrite each other silently', async ({ page, open, context, server }) => {
  await open(`${rig}/program`)
  const other = await context.newPage()
  await other.goto(server.url + `${rig}/program`)
  await page.bringToFront()
  await press(page.locator('#line-4'))
  await page.getByRole('combobox', { name: 'Line 4' }).fill('var cruise = 50 %')
  // The other window keeps its edit while this one is typing.
  await expect(other.locator('#line-4')).toBeVisible()
  await other.bringToFront()
  await press(other.locator('#line-6'))
  await other.getByRole('combobox', { name: 'Line 6' }).fill('var beds = 1')
  await other.keyboard.press('Enter')
  await expect(other.getByText('Kept as revision 3.')).toBeVisible()
  await page.bringToFront()
  await page.getByRole('combobox', { name: 'Line 4' }).focus()
  await expect(page.getByText(/Changed in another window/)).toBeVisible()
  await page.keyboard.press('Enter')
  // The change was shown before this edit was kept, so both stand.
  await expect(page.getByText('Kept as revision 4.')).toBeVisible()
  await expect(page.locator('#line-6')).toContainText('1')
  await expect(other.locator('#line-4')).toContainText('50 %')

  // A line added above moves the line being typed, and the edit follows it.
  await press(page.locator('#line-12'))
  await page
    .getByRole('combobox', { name: 'Line 12' })
    .fill('when Tag eye becomes bed tag for 2 readings: set beds to beds + 1; go Over tag')
  await other.bringToFront()
  await other.locator('#line-4').press('Alt+Enter')
  await other.keyboard.type('var spare = 0')
  await other.keyboard.press('Enter')
  await expect(other.getByText('Kept as revision 5.')).toBeVisible()
  await expect(page.getByRole('combobox', { name: 'Line 13' })).toHaveValue(/for 2 readings/)
  await page.bringToFront()
  await press(page.getByRole('combobox', { name: 'Line 13' }))
  await expect(page.getByText('Kept as revision 6.')).toBeVisible()
  await expect(page.locator('#line-13')).toContainText('for 2 readings')
  await expect(page.locator('#line-5')).toContainText('spare')

  // A line that is gone shows both versions.
  await press(page.locator('#line-14'))
  await page.getByRole('combobox', { name: 'Line 14' }).fill('after 29 s: go Lost')
  await other.bringToFront()
  await press(other.locator('#line-14'))
  await other.getByRole('combobox', { name: 'Line 14' }).fill('after 28 s: go Lost')
  await other.keyboard.press('Enter')
  await expect(other.getByText('Kept as revision 7.')).toBeVisible()
  await expect(page.getByRole('dialog').getByRole('combobox')).toHaveValue('after 29 s: go Lost')
  await expect(page.getByRole('dialog')).toContainText('after 28 s: go Lost')
  await page.bringToFront()
  await page.getByRole('button', { name: 'Keep revision 7' }).click()
  await expect(page.locator('#line-14')).toContainText('28 s')

  // An edit that crosses another of the same line is shown with both versions, and what is typed meanwhile is kept too.
  let crossed = false
  await page.route('**/program/edit', async (route) => {
    if (!crossed) {
      crossed = true
      const body = route.request().postDataJSON() as object
      const there = await page.request.post(route.request().url(), { data: { ...body, text: 'var cruise = 49 %', by: 'another' } })
      expect(there.ok()).toBe(true)
    }
    await route.continue()
  })
  await press(page.locator('#line-4'))
  await page.getByRole('combobox', { name: 'Line 4' }).fill('var cruise = 5')
  await page.keyboard.press('Enter')
  const dialog = page.getByRole('dialog')
  await expect(dialog).toContainText('This program was changed meanwhile')
  await expect(dialog).toContainText('var cruise = 49 %')
  await expect(dialog.getByRole('combobox')).toBeFocused()
  await page.keyboard.type('1 %')
  await expectAccessible(page)
  await dialog.getByRole('button', { name: 'Use mine instead' }).click()
  await expect(page.getByText('Kept as revision 9.')).toBeVisible()
  await expect(page.locator('#line-4')).toContainText('51 %')
  await expect(page.getByRole('dialog')).toHaveCount(0)
})

test('an open line that was not changed is never asked about', async ({ page, open, context, server }) => {
  await open(`${rig}/program`)
  const other = await context.newPage()
  await other.goto(server.url + `${rig}/program`)
  await page.bringToFront()
  await press(page.locator('#line-13'))
  await expect(page.getByRole('combobox', { name: 'Line 13' })).toBeFocused()
  await other.bringToFront()
  await press(other.locator('#line-13'))
  await other.getByRole('combobox', { name: 'Line 13' }).fill('after 28 s: go Lost')
  await other.keyboard.press('Enter')
  await expect(page.locator('#line-13')).toContainText('28 s')
  await expect(page.getByRole('dialog')).toHaveCount(0)
})

test('a line begun while another is on its way takes every letter, and follows it', async ({ page, open }) => {
  await open(`${rig}/program`)
  const waiting: (() => void)[] = []
  await page.route('**/program/edit', async (route) => {
    await new Promise<void>((go) => waiting.push(go))
    await route.continue()
  })
  await press(page.locator('#line-4'))
  await page.getByRole('combobox', { name: 'Line 4' }).fill('var cruise = 52 %')
  await page.keyboard.press('Enter')
  await expect.poll(() => waiting.length).toBe(1)
  // The first is not answered yet; the next is typed and kept all the same.
  await press(page.locator('#line-13'))
  await page.getByRole('combobox', { name: 'Line 13' }).press('Control+a')
  await page.keyboard.type('after 28 s: go Lost')
  await expect(page.getByRole('combobox', { name: 'Line 13' })).toHaveValue('after 28 s: go Lost')
  await page.keyboard.press('Enter')
  expect(waiting.length).toBe(1)
  waiting[0]!()
  await expect(page.getByText('Kept as revision 3.')).toBeVisible()
  await expect.poll(() => waiting.length).toBe(2)
  waiting[1]!()
  await expect(page.getByText('Kept as revision 4.')).toBeVisible()
  await expect(page.locator('#line-4')).toContainText('52 %')
  await expect(page.locator('#line-13')).toContainText('28 s')
  await expect(page.getByRole('dialog')).toHaveCount(0)
})

test('keys pressed while an answer is on its way fall on the sheet, and no answer moves the page under a hand', async ({
  page,
  open,
  server,
}) => {
  await open(`/rigs/rack-hoist/program`)
  const waiting: (() => void)[] = []
  await page.route('**/program/edit', async (route) => {
    await new Promise<void>((go) => waiting.push(go))
    await route.continue()
  })
  const script = async () => ((await (await fetch(`${server.url}/api/rigs/rack-hoist/program`)).json()) as { script: string }).script
  const last = page.locator('[id^="line-"]').last()
  await last.focus()
  await page.keyboard.press('r')
  await page.keyboard.press('o')
  await expect.poll(() => waiting.length).toBe(2)
  waiting.splice(0).forEach((go) => go())
  await expect.poll(async () => /^routine/m.test(await script())).toBe(true)
  // The keys went along with what was made, into sight.
  await expect(page.locator('.sheet-line:focus')).toBeInViewport()
  await expect(last).not.toBeFocused()
  await expect(page.locator('.region-head')).toHaveCount(4)

  // A hand that went elsewhere meanwhile: the page stays under it.
  await page.locator('.sheet-line').nth(1).focus()
  await page.keyboard.press('r')
  await expect.poll(() => waiting.length).toBe(1)
  await page.mouse.move(640, 400)
  await page.mouse.wheel(0, -4000)
  await expect.poll(() => page.evaluate(() => scrollY)).toBe(0)
  waiting.splice(0).forEach((go) => go())
  await expect(page.locator('.region-head')).toHaveCount(5)
  await expect(page.locator('.sheet-line:focus')).toHaveCount(1)
  await expect(page.locator('.sheet-line').nth(1)).not.toBeFocused()
  expect(await page.evaluate(() => scrollY)).toBe(0)
})

test('a fault of the server takes nothing away of what stands on the page', async ({ page, open }) => {
  await open(`${rig}/program`)
  await press(page.locator('#line-4'))
  const line = page.getByRole('combobox', { name: 'Line 4' })
  await line.fill('var cruise = 51 %')
  let broken = true
  await page.route(/\/api\/rigs\/seed-trolley\?/, (route) =>
    broken
      ? route.fulfill({ status: 500, contentType: 'application/problem+json', json: { title: 'The bench fell over its own feet.' } })
      : route.continue(),
  )
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('fell over its own feet. What is shown here may be old')
  await expect(page.locator('#line-4')).toContainText('51 %')
  await press(page.locator('#line-13'))
  await page.keyboard.press('Control+A')
  await page.keyboard.type('after 28 s: go Lost')
  broken = false
  await expect(page.getByRole('alert')).toHaveCount(0)
  await expect(page.getByRole('combobox', { name: 'Line 13' })).toHaveValue('after 28 s: go Lost')
})

test('a long sheet draws what is in sight, and find, print and the address reach the rest', async ({ page, open, server }) => {
  const states = Array.from({ length: 300 }, (_, i) => i + 1)
  const script = `program Long\n\nregion Main\n${states.map((n) => `  state Step ${n}${n === 1 ? ', initial' : ''}\n    after ${n} s: go Step ${(n % 300) + 1}\n`).join('\n')}`
  const saved = await page.request.put(`${server.url}/api${rig}/program`, { data: { baseRevision: 2, script } })
  expect(saved.ok()).toBe(true)
  await open(`${rig}/program`)
  await expect(page.locator('[id="line-4"]')).toBeVisible()
  const nodes = () => page.locator('.sheet *').count()
  expect(await nodes()).toBeLessThan(3000)
  // Every word is there to be found, also of what is not drawn.
  await expect(page.locator('.sheet')).toContainText('after 299 s: go Step 300')
  await expect(page.locator('[id="state-Step 299"]')).toHaveClass(/resting/)
  // Walked to by keyboard, line by line, and by address.
  await page.locator('[id="line-4"]').focus()
  for (let i = 0; i < 120; i++) await page.keyboard.press('ArrowDown')
  await expect(page.getByRole('button', { name: 'Edit state Step 61' })).toBeFocused()
  await page.goto(`${server.url}${rig}/program#state-Step 290`)
  const late = page.getByRole('button', { name: 'Edit state Step 290' })
  await expect(late).toBeInViewport()
  // Edited there, it stays in sight.
  await late.focus()
  await page.keyboard.press('Alt+Enter')
  await page.keyboard.type('after 7 s: stay')
  await page.keyboard.press('Enter')
  await expect(page.locator('.sheet-line:focus')).toContainText('7 s')
  await expect(late).toBeInViewport()
  expect(await nodes()).toBeLessThan(4000)
  // On paper all of it is drawn.
  await page.evaluate(() => window.dispatchEvent(new Event('beforeprint')))
  expect(await page.locator('.sheet .resting').count()).toBe(0)
  await page.evaluate(() => window.dispatchEvent(new Event('afterprint')))
  await expect(page.locator('.sheet .resting').first()).toBeAttached()
})

test('what was meant is offered and taken with a key, a near miss is understood, and an empty line shows examples', async ({
  page,
  open,
}) => {
  await open(`${rig}/program`)
  await press(page.locator('#line-12'))
  const line = page.getByRole('combobox', { name: 'Line 12' })
  await line.fill('if Tag eye sees bed tag go to Lost')
  await expect(page.getByTestId('line-fault')).toContainText('No line begins with “if”.')
  const meant = page.getByRole('list', { name: 'Did you mean' })
  await expect(meant.getByRole('button')).toHaveText(['when Tag eye becomes bed tag: go Lost', 'when Tag eye is bed tag: go Lost'])
  await expectAccessible(page)
  await page.keyboard.press('Alt+1')
  await expect(line).toHaveValue('when Tag eye becomes bed tag: go Lost')
  await expect(line).toBeFocused()
  await expect(meant).toHaveCount(0)
  await page.keyboard.press('Enter')
  await expect(page.locator('#line-12')).toContainText('becomes bed tag go Lost')

  // Capitals, a unit in words and a colon: only one thing can be meant.
  await press(page.locator('#line-13'))
  await page.getByRole('combobox', { name: 'Line 13' }).fill('After 20 seconds go Lost')
  await page.keyboard.press('Enter')
  await expect(page.locator('#line-13')).toContainText(/20 s .*go Lost/)
  await expect(page.locator('.fault')).toHaveCount(0)

  // Beside an empty line stand sentences of this rig.
  await page.locator('#line-13').press('Alt+Enter')
  const examples = page.getByRole('list', { name: 'Such as' })
  await expect(examples.getByRole('button').first()).toHaveText(/^while here: run .* at 30 %$/)
  await examples.getByRole('button', { name: /^when Tag eye becomes/ }).click()
  await expect(page.getByRole('combobox', { name: /^New line/ })).toHaveValue(/^when Tag eye becomes .*: go /)
  await page.keyboard.press('Escape')
})
