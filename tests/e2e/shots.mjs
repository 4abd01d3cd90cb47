// Takes the pictures of docs/screenshots from the demo data: node shots.mjs FOLDER
import { chromium } from '@playwright/test'
import { startServer } from './server.mjs'

const folder = process.argv[2]
process.env.CHITON_LISTEN = '127.0.0.2'
const server = await startServer()
const browser = await chromium.launch({
  executablePath: process.env.CHITON_CHROMIUM ?? '/usr/bin/chromium',
  args: [
    ...(process.getuid?.() === 0 ? ['--no-sandbox'] : []),
    '--disable-gpu',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
})
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  const rig = `${server.url}/rigs/seed-trolley`
  const take = (name) => page.screenshot({ path: `${folder}/${name}.png` })
  const settled = () => page.locator('[data-testid=rate][data-state=known]').waitFor()

  await page.goto(server.url)
  await page
    .getByText(/\d+ of \d+ pass/)
    .nth(1)
    .waitFor()
  for (let i = 0; i < 300 && (await page.getByText(/counting runs/).count()) > 0; i++) await page.waitForTimeout(500)
  await take('rigs')

  await page.goto(`${rig}/prove`)
  await settled()
  await page.getByRole('button', { name: /Prove with/ }).click()
  await page.getByTestId('proof').waitFor()
  // The program's strip shows the latest run.
  await page.goto(`${rig}/simulate?seed=3428940024628`)
  await page.locator('.events').waitFor()
  await page.goto(`${server.url}/rigs/deck-scrubber/simulate?seed=3`)
  await page.locator('.events').waitFor()
  const moment = page.getByRole('slider', { name: 'Moment' })
  await moment.focus()
  for (let i = 0; i < 4; i++) await page.keyboard.press('PageDown')
  await moment.blur()
  await page.mouse.wheel(0, -2000)
  await page.evaluate(() => window.scrollTo(0, 0))
  await page.waitForTimeout(500)
  await take('simulate')

  await page.goto(`${rig}/program`)
  await page.locator('.tide svg').waitFor()
  await settled()
  await take('program')
  await page.goto(`${rig}/prove`)
  await page.locator('.tide svg').waitFor()
  await page.getByTestId('proof').waitFor()
  await page.waitForTimeout(500)
  await take('prove')

  const farm = async (path, name, ready) => {
    await page.goto(`${server.url}/rigs/${path}`)
    await ready()
    await page.waitForTimeout(400)
    await take(name)
  }
  await farm('buoy-picker/rig/describe', 'rig-describe', () => page.locator('.items').first().waitFor())
  await farm('seed-trolley/check', 'check', () => page.locator('.found').first().waitFor())
  await farm('rack-hoist/rig/preflight', 'rig-preflight', async () => {
    await page.getByLabel('Plant this fault').selectOption({ label: 'Tongue motor is mounted the other way round.' })
    await page.getByRole('button', { name: 'Move Tongue motor' }).click()
    await page.getByTestId('named-fault').waitFor()
    for (let i = 0; i < 3; i++) {
      await page.getByRole('button', { name: 'Test Shelf eye' }).click()
      await page.waitForTimeout(300)
    }
  })
  await farm('deck-scrubber/move?view=trials', 'move', async () => {
    const run = page.getByRole('button', { name: 'Run it on the stand-in' }).first()
    await run.waitFor()
    for (let i = 0; i < 5; i++) {
      await run.click()
      await page.waitForTimeout(500)
    }
  })
  await farm('rack-hoist/program/chart', 'program-chart', async () => {
    await page.getByTestId('chart').waitFor()
    await page.getByTestId('looking').waitFor({ state: 'detached' })
  })
  await farm('rack-hoist/program/table', 'program-table', () => page.getByTestId('open-cells').waitFor())
  await farm('lock-keeper/program/walk', 'program-walk', async () => {
    await page.getByRole('button', { name: 'Walk it' }).first().click()
    for (let i = 0; i < 3; i++) {
      await page.getByRole('button', { name: /^Next: / }).click()
      await page.waitForTimeout(400)
    }
  })
  await farm('seed-trolley/log?copy=3', 'log', async () => {
    await page.getByText('worked out since').nth(1).waitFor()
    await page.getByRole('button', { name: 'What did these runs teach?' }).last().click()
    await page.getByRole('region', { name: 'What revision 1 teaches' }).getByTestId('learnt-say').waitFor()
    await page.evaluate(() => window.scrollTo(0, 0))
  })
  // A room with six teams, some of which have gone further than others.
  const json = { 'content-type': 'application/json' }
  const ask = async (base, method, path, body, headers = {}) => {
    const answer = await fetch(base + path, { method, headers: { ...json, ...headers }, body: body && JSON.stringify(body) })
    const text = await answer.text()
    return { cookie: answer.headers.get('set-cookie')?.split(';')[0], body: text === '' ? null : JSON.parse(text) }
  }
  const at = `http://127.0.0.2:${new URL(server.url).port}`
  const id = (await ask(server.url, 'POST', '/api/classes', { name: 'Creek group 3' })).body.id
  const { joinCode } = (await ask(server.url, 'POST', '/api/room', { class: id, minutes: 40 })).body
  const teams = []
  for (const team of ['Gulls', 'Crabs', 'Eels', 'Dabs', 'Terns', 'Cockles']) {
    const { cookie } = await ask(at, 'POST', '/api/me/join', { code: joinCode, team }, { origin: at })
    teams.push({ team, headers: { origin: at, cookie } })
  }
  const { rigs } = (await ask(server.url, 'POST', `/api/classes/${id}/hand-out`, { rig: 'seed-trolley' })).body
  const { script } = (await ask(server.url, 'GET', '/api/rigs/seed-trolley/program')).body
  for (const [i, cruise] of [
    [0, '55 %'],
    [1, '40 %'],
    [3, '75 %'],
  ])
    await ask(
      at,
      'PUT',
      `/api/rigs/${rigs[i]}/program`,
      { baseRevision: 1, script: script.replace('cruise = 60 %', `cruise = ${cruise}`) },
      teams[i].headers,
    )
  await ask(at, 'POST', `/api/rigs/${rigs[0]}/send`, { copy: 1 }, teams[0].headers)
  await ask(at, 'POST', `/api/rigs/${rigs[3]}/send`, { copy: 1 }, teams[3].headers)
  await ask(
    at,
    'PUT',
    `/api/rigs/${rigs[3]}/program`,
    { baseRevision: 2, script: script.replace('cruise = 60 %', 'cruise = 70 %') },
    teams[3].headers,
  )
  await ask(at, 'POST', '/api/me/hand', { up: true }, teams[4].headers)
  await ask(server.url, 'POST', '/api/room/message', { text: 'Find out why the trolley stops too late.' })
  await page.goto(`${server.url}/class/board`)
  for (let i = 0; i < 300 && (await page.getByText(/counting/).count()) > 0; i++) await page.waitForTimeout(500)
  await page.waitForTimeout(1500)
  await take('class-board')
  await page.goto(`${server.url}/class/${id}`)
  await page.getByRole('rowheader', { name: 'Cockles' }).waitFor()
  await take('class')
  await ask(server.url, 'POST', `/api/classes/${id}/lessons`, { course: 'a-season-on-the-oyster-farm', lesson: 'Stop over the third bed' })
  const given = (await ask(at, 'GET', '/api/me/lessons', null, teams[0].headers)).body.lessons[0]
  await ask(at, 'POST', `/api/lessons/${given.id}/hint`, { number: 1 }, teams[0].headers)
  const device = await page
    .context()
    .browser()
    .newContext({ viewport: { width: 1280, height: 800 } })
  const [name, value] = teams[0].headers.cookie.split('=')
  await device.addCookies([{ name, value, url: at }])
  const lesson = await device.newPage()
  await lesson.goto(`${at}/lesson`)
  await lesson.getByText('Walk through it by hand').waitFor()
  for (let i = 0; i < 100 && (await lesson.getByText('being counted').count()) > 0; i++) await lesson.waitForTimeout(500)
  await lesson.screenshot({ path: `${folder}/lesson.png` })
  await device.close()
  // Heats of these teams: the bench first, then four that were held; two machines drive slower than the others.
  const scrubbers = (await ask(server.url, 'POST', `/api/classes/${id}/hand-out`, { rig: 'deck-scrubber' })).body.rigs
  const scrub = (await ask(server.url, 'GET', '/api/rigs/deck-scrubber/program')).body.script
  for (const [i, more] of [
    [1, 0.75],
    [4, 0.5],
  ])
    await ask(
      at,
      'PUT',
      `/api/rigs/${scrubbers[i]}/program`,
      { baseRevision: 1, script: scrub.replace(/(\d+) mm\/s/g, (_, n) => `${Math.round(n * more)} mm/s`) },
      teams[i].headers,
    )
  const begun = (await ask(server.url, 'POST', `/api/classes/${id}/heats`, { challenge: 'crumbs-overboard' })).body
  let heats = (await ask(server.url, 'POST', `/api/heats/${begun.id}/simulate`, {})).body
  for (const [one, other] of [
    [90, 60],
    [70, 100],
    [80, 80],
    [60, 90],
  ]) {
    const { first, second } = heats.next
    await ask(server.url, 'POST', `/api/heats/${begun.id}/score`, {
      first,
      second,
      one: { value: one },
      other: { value: other, touches: 1 },
    })
    heats = (await ask(server.url, 'GET', `/api/heats/${begun.id}`)).body
  }
  await page.goto(`${server.url}/class/${id}/heats/${begun.id}`)
  await page.locator('.chance-table').waitFor()
  await take('heats')
  await page.goto(`${server.url}/train`)
  await page.getByLabel('Rig').selectOption('seed-trolley')
  await page.getByLabel('Kind').selectOption('fault')
  await page.getByRole('button', { name: 'Begin' }).click()
  await page.getByRole('radio').first().check()
  await page.getByRole('button', { name: 'Answer' }).click()
  await page.locator('.option-right').waitFor()
  await take('train')

  await page.goto(`${rig}/sense`)
  await page.getByTestId('live').getByText(/\d/).waitFor()
  await take('sense')

  await page.setViewportSize({ width: 768, height: 1024 })
  await page.goto(`${rig}/program`)
  await settled()
  await page.locator('#line-12').waitFor()
  await take('program-768')
} finally {
  await browser.close()
  await server.stop()
}
