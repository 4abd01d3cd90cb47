import { test as base, expect, expectAccessible } from './fixtures'
import { chromium, type Browser, type Page } from '@playwright/test'

// The room of tests: an address of this machine that is not the desk's, and a plain name for it, which is no secure context.
process.env.CHITON_LISTEN = '127.0.0.2'
process.env.CHITON_HOSTS = 'bench.test'

const test = base.extend<{ room: Browser; device: (touch?: boolean) => Promise<Page> }>({
  room: async ({}, use) => {
    const browser = await chromium.launch({
      executablePath: process.env.CHITON_CHROMIUM ?? '/usr/bin/chromium',
      args: [...(process.getuid?.() === 0 ? ['--no-sandbox'] : []), '--disable-gpu', '--host-resolver-rules=MAP bench.test 127.0.0.2'],
    })
    await use(browser)
    await browser.close()
  },
  device: async ({ room, server }, use) => {
    const faults: string[] = []
    await use(async (touch = false) => {
      const context = await room.newContext({
        viewport: touch ? { width: 768, height: 1024 } : { width: 1280, height: 800 },
        hasTouch: touch,
      })
      const page = await context.newPage()
      page.on('pageerror', (e) => faults.push(e.message))
      page.on('console', (m) => {
        if (m.type() === 'error' && !/40[03] \((Bad Request|Forbidden)\)|ERR_CONNECTION_REFUSED/.test(m.text())) faults.push(m.text())
      })
      await page.goto(`http://bench.test:${new URL(server.url).port}/`)
      return page
    })
    expect(faults).toEqual([])
  },
})

/** Makes a class with the keyboard and opens its room; says the code of the class. */
async function openRoom(page: Page) {
  await page.getByRole('link', { name: 'Class' }).click()
  await page.getByLabel('Name of a new class').fill('Tide pool')
  await page.keyboard.press('Enter')
  await page.getByLabel('The lesson lasts, minutes').fill('40')
  await page.keyboard.press('Enter')
  const code = page.getByText('Teams join with').locator('xpath=following-sibling::dd')
  await expect(code).toHaveText(/^[A-Z]{3} [A-Z]{3}$/)
  return (await code.textContent())!
}

async function join(page: Page, code: string, team: string) {
  await page.getByLabel('Code').fill(code.toLowerCase())
  await page.keyboard.press('Enter')
  await page.getByLabel('Team').fill(team)
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: `Rigs of ${team}` })).toBeVisible()
}

test('a class: the room is opened, a team joins, works and puts its hand up, and the board shows it', async ({ page, open, device }) => {
  await open('/')
  const code = await openRoom(page)
  await expectAccessible(page)
  const gulls = await device()
  await expect(gulls.getByRole('heading', { name: 'Join the room' })).toBeVisible()
  await expectAccessible(gulls)
  // No secure context: everything works all the same.
  expect(await gulls.evaluate(() => window.isSecureContext)).toBe(false)
  await gulls.getByLabel('Code').fill('AAAAAA')
  await gulls.keyboard.press('Enter')
  await expect(gulls.getByText('This code lets nobody in')).toBeVisible()
  await join(gulls, code, 'Gulls')
  await expect(gulls.getByText('Nothing has been handed out to you yet')).toBeVisible()
  await expect(gulls.getByRole('button', { name: 'Take in a file' })).toHaveCount(0)

  await page.bringToFront()
  await expect(page.getByRole('rowheader', { name: 'Gulls' })).toBeVisible()
  await page.getByLabel('Rig', { exact: true }).selectOption('seed-trolley')
  await page.getByRole('button', { name: 'To all teams' }).click()
  await expect(page.getByText('Handed out to Gulls.')).toBeVisible()
  await page.getByLabel('Say to all').fill('Find out why it stops too late.')
  await page.keyboard.press('Enter')
  await expectAccessible(page)

  await gulls.bringToFront()
  // It hears of it by itself.
  await expect(gulls.getByText('Find out why it stops too late.')).toBeVisible()
  await gulls.getByRole('link', { name: 'Seed trolley', exact: true }).click()
  await expect(gulls.getByTestId('rate')).toContainText('Revision 1')
  await gulls.getByRole('button', { name: 'Put a hand up' }).click()
  await expect(gulls.getByRole('button', { name: 'Take the hand down' })).toHaveAttribute('aria-pressed', 'true')
  await expectAccessible(gulls)

  await page.bringToFront()
  await page.getByRole('region', { name: 'The room', exact: true }).getByRole('link', { name: 'Board' }).click()
  const line = page.getByRole('row', { name: /Gulls/ })
  await expect(line).toContainText('Program')
  await expect(page.getByRole('listitem').filter({ hasText: 'Gulls' })).toContainText('hand up')
  await expect(line).toContainText('It rolls too fast to stop on its tag')
  await expect(line).toContainText('nothing sent')
  await expectAccessible(page)

  // The team mends it; the board follows by itself.
  await gulls.bringToFront()
  await gulls.getByRole('button', { name: 'Use 55 %' }).click()
  await expect(gulls.getByTestId('rate')).toContainText('Revision 2')
  await gulls.getByRole('button', { name: 'Send 2' }).click()
  await page.bringToFront()
  await expect(line).toContainText('holds it')
  await expect(line).not.toContainText('It rolls too fast')
  await expect(line).toContainText('One bed tag can be counted twice')
  await page.getByRole('button', { name: 'Longest stuck first' }).click()
  await page.getByRole('button', { name: 'Gulls: hand up, take it down' }).click()
  await expect(page.getByRole('button', { name: 'Gulls: hand up, take it down' })).toHaveCount(0)
  await gulls.bringToFront()
  await expect(gulls.getByRole('button', { name: 'Put a hand up' })).toBeVisible()

  // What is another's is not shown, by whatever address.
  await gulls.goto(new URL('/rigs/rack-hoist/program', gulls.url()).href)
  await expect(gulls.getByRole('heading', { name: 'This is not yours.' })).toBeVisible()
})

test('a tablet breaks, and its replacement goes on with the team’s own code; closed, the room is closed', async ({
  page,
  open,
  device,
}) => {
  await open('/')
  const code = await openRoom(page)
  const first = await device(true)
  await join(first, code, 'Crabs')
  await first.getByRole('button', { name: 'Another device' }).tap()
  const own = (await first.locator('.room-strip .mono').textContent())!
  const second = await device(true)
  await second.getByLabel('Code').fill(own)
  await second.getByRole('button', { name: 'Join' }).tap()
  await expect(second.getByRole('heading', { name: 'Rigs of Crabs' })).toBeVisible()
  await expectAccessible(second)
  // A judge has a page of its own and nothing else.
  const judge = await device()
  const judges = page.getByText('Judges join with').locator('xpath=following-sibling::dd')
  await judge.getByLabel('Code').fill((await judges.textContent())!)
  await judge.keyboard.press('Enter')
  await expect(judge.getByRole('heading', { name: 'You are a judge here' })).toBeVisible()
  await expectAccessible(judge)
  // The educator's other device.
  await page.bringToFront()
  await page.getByRole('button', { name: 'My other device' }).click()
  const single = (await page.getByText('Your other device joins with').locator('b').textContent())!
  const educator = await device()
  await educator.getByLabel('Code').fill(single)
  await educator.keyboard.press('Enter')
  await expect(educator.getByRole('region', { name: 'The open room' })).toContainText('The room of Tide pool is open')
  await educator.getByRole('link', { name: 'Board' }).click()
  await expect(educator.getByRole('row', { name: /Crabs/ })).toBeVisible()
  // For the wall: one code, and no other.
  await page.bringToFront()
  await page.getByRole('link', { name: 'For the wall' }).click()
  await expect(page.getByText(code)).toBeVisible()
  await expect(page.getByText(own)).toHaveCount(0)
  await expect(page.getByRole('img', { name: /A camera reads/ })).toBeVisible()
  await expectAccessible(page)
  await page.goBack()
  await page.getByRole('button', { name: 'Close the room' }).click()
  await expect(page.getByRole('button', { name: 'Open the room' })).toBeVisible()
  await second.bringToFront()
  await expect(async () => {
    expect(
      await second.evaluate(() =>
        fetch('/api/me')
          .then((r) => r.status)
          .catch(() => 0),
      ),
    ).not.toBe(200)
  }).toPass({ timeout: 30_000 })
})

test('a class is deleted with all that is its own, once it was offered to be kept', async ({ page, open, server }) => {
  const post = (path: string, body: object) =>
    fetch(server.url + path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }).then((r) =>
      r.json(),
    )
  const { id } = (await post('/api/classes', { name: 'Tide pool' })) as { id: number }
  await post(`/api/classes/${id}/teams`, { name: 'Gulls' })
  await post(`/api/classes/${id}/hand-out`, { rig: 'seed-trolley' })
  await open(`/class/${id}`)
  await expect(page.getByText('as it was handed out')).toBeVisible()
  // Another table is another copy.
  await page.getByRole('button', { name: 'Another table for Gulls' }).click()
  await page.getByLabel('To table').fill('0')
  await page.keyboard.press('Enter')
  await expect(page.getByText('A whole number from 1 to 99.')).toBeVisible()
  await page.getByLabel('To table').fill('6')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('row', { name: /Gulls/ }).getByRole('cell').first()).toHaveText('6')
  // A team that comes late gets the same start; two programs stand side by side.
  await page.getByLabel('Name of a new team').fill('Eels')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'The same start for Eels' }).click()
  await expect(page.getByText('as it was handed out')).toHaveCount(2)
  await page.getByRole('link', { name: 'Compare two teams’ programs' }).click()
  await expect(page.getByText('No sentence differs.')).toBeVisible()
  await page.getByLabel('There').selectOption('seed-trolley-eels')
  await expect(page.getByText('Both are the same rig.')).toBeVisible()
  await expectAccessible(page)
  await page.goBack()
  await page.goto(`${server.url}/class/${id}`)
  await page.getByRole('button', { name: 'Delete the class' }).click()
  const dialog = page.getByRole('dialog')
  await expect(dialog).toContainText('There is no way back.')
  await expectAccessible(page)
  const download = page.waitForEvent('download')
  await dialog.getByRole('link', { name: 'Export it first' }).click()
  expect((await download).suggestedFilename()).toMatch(/^class-\d+\.json$/)
  await dialog.getByRole('button', { name: 'Delete it' }).click()
  await expect(page.getByText('There is no class yet')).toBeVisible()
  await expectAccessible(page)
  await page.goto(`${server.url}/class/${id}`)
  await expect(page.getByRole('heading', { name: 'There is no such class.' })).toBeVisible()
})

test('lessons: the course is opened, a lesson changed, handed out, worked on, handed in and marked', async ({ page, open, device }) => {
  await open('/')
  await page.getByRole('link', { name: 'Class' }).click()
  await page.getByRole('link', { name: 'Courses' }).click()
  await page.getByRole('link', { name: 'A season on the oyster farm' }).click()
  await expect(page.getByRole('row')).toHaveCount(10)
  await expectAccessible(page)
  await page.getByRole('link', { name: 'Stop over the third bed' }).click()
  // What it leaves out is shown as left out.
  await expect(page.getByRole('checkbox', { name: /when beds = 3: go Stopping/ })).toBeChecked()
  await expect(page.getByRole('checkbox', { name: /after 30 s: go Lost/ })).not.toBeChecked()
  await expectAccessible(page)
  await page.getByLabel('Minutes').fill('0')
  await page.getByRole('button', { name: 'Keep the lesson' }).click()
  await expect(page.getByText('A whole number of minutes from 1 to 240.').first()).toBeVisible()
  await page.getByLabel('Minutes').fill('25')
  // What is typed and not kept outlives the page.
  await page.reload()
  await expect(page.getByLabel('Minutes')).toHaveValue('25')
  await page.getByRole('button', { name: 'Keep the lesson' }).click()
  await expect(page.getByText('Kept: Stop over the third bed: the minutes.')).toBeVisible()

  const code = await openRoom(page)
  const gulls = await device(true)
  await join(gulls, code, 'Gulls')
  await page.bringToFront()
  await page.getByRole('link', { name: 'Lessons of the class' }).click()
  await page.getByLabel('Lesson', { exact: true }).selectOption({ label: 'Stop over the third bed, 25 min' })
  await page.getByRole('button', { name: 'Hand it out' }).click()
  await expect(page.getByText('Stop over the third bed was handed out to Gulls.')).toBeVisible()
  await expect(page.getByText('25 min left')).toBeVisible()

  await gulls.bringToFront()
  await gulls.getByRole('link', { name: 'Lesson' }).first().click()
  await expect(gulls.getByRole('heading', { name: 'Stop over the third bed' })).toBeVisible()
  await expectAccessible(gulls)
  await gulls.getByRole('button', { name: 'Open a hint of' }).click()
  await expect(gulls.getByText('Walk through it by hand')).toBeVisible()
  await expect(gulls.getByText('A tag is behind it')).toHaveCount(0)
  await gulls.getByRole('link', { name: 'Open Seed trolley' }).click()
  await expect(gulls.getByTestId('rate')).toContainText('Revision 1')

  // What is not part of the lesson is told, not forbidden.
  await gulls.locator('.sheet-line', { hasText: 'run Trolley at' }).first().click()
  const line = gulls.getByRole('combobox', { name: /^Line/ })
  await line.fill('every 2 s: stay')
  await expect(gulls.getByTestId('line-fault')).toContainText('are not part of this lesson')
  await line.fill('while here: run Trolley at cruise')
  await gulls.keyboard.press('Escape')

  await gulls.getByRole('link', { name: 'Lesson' }).first().click()
  await gulls.getByLabel('A sentence of your own').fill('It counts the tags.')
  await gulls.reload()
  await expect(gulls.getByLabel('A sentence of your own')).toHaveValue('It counts the tags.')
  await gulls.getByRole('button', { name: 'Hand in', exact: true }).click()
  await expect(gulls.getByRole('heading', { name: /Handed in, number 1/ })).toBeVisible()
  await gulls.getByLabel('It works, Stop over the third bed, number 1').selectOption('2: it works now and then')
  await gulls.getByRole('button', { name: 'Keep the marks of' }).click()
  await expectAccessible(gulls)

  await page.bringToFront()
  await page.getByRole('button', { name: 'What Gulls handed in for' }).click()
  await expect(page.getByRole('row', { name: /It works/ })).toContainText('2: it works now and then')
  await page.getByLabel('It works, Gulls, number 1').selectOption('1: it does not run yet')
  await page.getByLabel('What you say to Gulls').fill('Look at what happens over the tag.')
  await page.getByRole('button', { name: 'Keep the marks of' }).click()
  await expect(page.getByRole('button', { name: 'What Gulls handed in for' })).toContainText('marked')
  await expectAccessible(page)
  await gulls.bringToFront()
  await expect(gulls.getByText('Look at what happens over the tag.')).toBeVisible()
  await expect(gulls.getByRole('row', { name: /It works/ })).toContainText('1: it does not run yet')
})

test('a lesson of one’s own from any rig, a changed one is offered, and a team brings its own rig', async ({ page, open, device }) => {
  await open('/courses')
  // In three minutes: a name, a rig, and it stands.
  await page.getByLabel('Name of a new course').fill('Tide week')
  await page.getByLabel('Its first lesson is about').selectOption('rack-hoist')
  await page.getByRole('button', { name: 'Make it' }).press('Enter')
  await expect(page.getByLabel('Name of the lesson')).toHaveValue('Rack hoist')
  await page.getByLabel('Program', { exact: true }).selectOption('the program with one sentence wrong')
  await page
    .getByRole('radio', { name: /when Tongue stalls: go Stuck” is missing/ })
    .first()
    .click()
  await expect(page.getByLabel('Answer, for you alone')).toHaveValue(/Tongue stalls/)
  await page.getByRole('button', { name: 'Just what its program uses' }).click()
  await page.getByLabel('Hints, one a line').fill('What stops it?\nAsk of every state.')
  await page.getByRole('button', { name: 'Keep the lesson' }).click()
  await expect(page.getByText('Kept: Rack hoist:')).toBeVisible()
  await page.getByRole('link', { name: 'Tide week' }).click()
  await page.getByLabel('A lesson more, about').selectOption('')
  await page.getByRole('button', { name: 'Add the lesson' }).click()
  await expect(page.getByLabel('Name of the lesson')).toHaveValue('A machine of your own')

  const code = await openRoom(page)
  const gulls = await device()
  await join(gulls, code, 'Gulls')
  await page.bringToFront()
  await page.getByRole('link', { name: 'Lessons of the class' }).click()
  await page.getByLabel('Course').selectOption('Tide week')
  for (const lesson of ['Rack hoist, 40 min', 'A machine of your own, 60 min']) {
    await page.getByLabel('Lesson', { exact: true }).selectOption({ label: lesson })
    await page.getByRole('button', { name: 'Hand it out' }).click()
    await expect(page.getByText(`${lesson.split(',')[0]} was handed out to Gulls.`)).toBeVisible()
  }
  // The lesson is changed; who has it takes the change, or not.
  await page.getByRole('link', { name: 'Courses' }).click()
  await page.getByRole('link', { name: 'Tide week' }).click()
  await page.getByRole('link', { name: 'Rack hoist' }).click()
  await page.getByLabel('Task, in plain words').fill('Find the sentence that is missing.')
  await page.getByRole('button', { name: 'Keep the lesson' }).click()
  await expect(page.getByText('Kept: Rack hoist: the task.')).toBeVisible()
  await page.getByRole('link', { name: 'Class', exact: true }).first().click()
  await page.getByRole('link', { name: 'Tide pool' }).click()
  await page.getByRole('link', { name: 'Lessons of the class' }).click()
  await page.getByRole('button', { name: 'What changed since it was handed out: Rack hoist' }).click()
  await page.getByRole('button', { name: 'Offer the changed lesson' }).click()
  await expect(page.getByText('Offered to 1 team.')).toBeVisible()
  await expectAccessible(page)

  await gulls.bringToFront()
  await gulls.getByRole('link', { name: 'Lesson, 1 new' }).click()
  await gulls.getByRole('button', { name: 'Take the new lesson' }).click()
  await expect(gulls.getByText('Find the sentence that is missing.')).toBeVisible()
  await gulls.getByRole('link', { name: 'Make one' }).click()
  await gulls.getByRole('button', { name: 'New rig' }).click()
  await gulls.getByLabel('Name').fill('Crab cart')
  await gulls.keyboard.press('Enter')
  await expect(gulls).toHaveURL(/crab-cart/)
  await gulls.getByRole('link', { name: 'Lesson' }).first().click()
  await gulls.getByLabel('Our rig for it').selectOption('Crab cart')
  await gulls.getByRole('button', { name: 'Take this one' }).click()
  await expect(gulls.getByRole('link', { name: 'Open Crab cart' })).toBeVisible()
  await expectAccessible(gulls)
})
