import { startServer } from './server.mjs'
import pw from './node_modules/@playwright/test/index.js'
process.env.CHITON_LISTEN = '127.0.0.2'
process.env.CHITON_HOSTS = 'bench.test'
const server = await startServer()
const browser = await pw.chromium.launch({
  executablePath: process.env.CHITON_CHROMIUM,
  args: ['--no-sandbox', '--disable-gpu', '--host-resolver-rules=MAP bench.test 127.0.0.2'],
})
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
page.on('console', (m) => m.type() === 'error' && console.log(m.text()))
page.on('pageerror', (e) => console.log(e.message))
const call = async (path, body, method) => {
  const r = await fetch(server.url + path, {
    method: method ?? (body ? 'POST' : 'GET'),
    headers: { 'content-type': 'application/json' },
    body: body && JSON.stringify(body),
  })
  const t = await r.text()
  if (!r.ok) console.log(path, r.status, t)
  return t ? JSON.parse(t) : null
}
const cls = (await call('/api/classes', { name: 'Tide pool' })).id
for (const name of ['Gulls', 'Crabs', 'Whelks', 'Kelp', 'Ebb', 'Flood']) await call(`/api/classes/${cls}/teams`, { name })
await call(`/api/classes/${cls}/hand-out`, { rig: 'deck-scrubber' })
await call('/api/room', { class: cls })
const shot = (n, full = false) => page.screenshot({ path: `/tmp/p-${n}.png`, fullPage: full })
await page.goto(server.url + '/challenges')
await page.waitForTimeout(800)
await shot('challenges')
await page.getByRole('link', { name: 'Last on the deck' }).click()
await page.waitForTimeout(1000)
await shot('challenge', true)
await page.goto(server.url + '/challenges/last-on-the-deck/sheet')
await page.waitForTimeout(1000)
await page.pdf({ path: '/tmp/p.pdf', format: 'A4', preferCSSPageSize: false })
await page.goto(server.url + `/class/${cls}/heats`)
await page.waitForTimeout(500)
await page.getByLabel('Challenge', { exact: true }).selectOption('crumbs-overboard')
await shot('begin')
await page.getByRole('button', { name: 'Begin' }).click()
await page.getByRole('button', { name: 'Run all heats in the bench' }).click()
await page.waitForTimeout(2500)
await shot('running')
await page.getByRole('button', { name: 'Run them again in the bench' }).waitFor({ timeout: 60000 })
const id = Number(page.url().split('/').pop())
let h = await call(`/api/heats/${id}`)
for (let i = 0; i < 5; i++) {
  await call(`/api/heats/${id}/score`, {
    first: h.next.first,
    second: h.next.second,
    one: { value: 100 - 10 * i, touches: i % 2 },
    other: { value: 60 + 10 * i },
  })
  h = await call(`/api/heats/${id}`)
}
await page.waitForTimeout(1000)
await page.getByRole('button', { name: 'Start both' }).click()
await page.waitForTimeout(500)
await page.evaluate(() => window.scrollTo(0, 0))
await shot('heats', true)
const judge = await (await browser.newContext({ viewport: { width: 768, height: 1024 }, hasTouch: true })).newPage()
const room = await call('/api/room')
await judge.goto(`http://bench.test:${new URL(server.url).port}/`)
await judge.getByLabel('Code').fill(room.judgeCode)
await judge.keyboard.press('Enter')
await judge.waitForTimeout(1500)
await judge.screenshot({ path: '/tmp/p-judge.png' })
await page.goto(server.url + '/class/projector')
await page.waitForTimeout(1200)
await shot('wall')
process.exit(0)
