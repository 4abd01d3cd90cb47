// Measures what a person waits for: a keystroke's diagnosis at the screen, and sums at the server.
import { chromium } from '@playwright/test'
import { startServer } from './server.mjs'

const median = xs => [...xs].sort((a, b) => a - b)[Math.floor(xs.length / 2)]
const worst = xs => Math.max(...xs)
const say = (what, xs, limit) => console.log(`${what}: median ${median(xs).toFixed(2)} ms, worst ${worst(xs).toFixed(2)} ms of ${xs.length} (limit ${limit} ms)`)

const server = await startServer()
const browser = await chromium.launch({
  executablePath: process.env.CHITON_CHROMIUM ?? '/usr/bin/chromium',
  args: [...(process.getuid?.() === 0 ? ['--no-sandbox'] : []), '--disable-gpu', '--disable-background-networking', '--disable-component-update', '--disable-sync'],
})
try {
  const sums = {
    threshold: { lists: [{ readings: [21, 23, 22, 24, 20, 22, 23, 21, 25, 22] }, { readings: [58, 61, 55, 63, 60, 57, 59, 62, 56, 60] }], resolution: 1, samplePeriodMs: 10 },
    'marker-pass': { markerLengthMm: 48, spotDiameterMm: 8, samplePeriodMs: 10, readingsNeeded: 2, speedMmPerS: 310 },
    'success-rate': { passes: 91, runs: 100 },
  }
  for (const [name, body] of Object.entries(sums)) {
    const times = []
    for (let i = 0; i < 300; i++) {
      const begin = performance.now()
      const answer = await fetch(`${server.url}/api/sums/${name}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
      await answer.arrayBuffer()
      if (i >= 100) times.push(performance.now() - begin)
    }
    say(`sum ${name}, over HTTP`, times, 5)
  }

  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  await page.goto(`${server.url}/rigs/seed-trolley/program`)
  await page.locator('#line-12').press('Enter')
  const input = page.getByRole('combobox', { name: 'Line 12' })
  await input.fill('')
  // The time from the key's event until the note under the line shows the diagnosis of exactly this text.
  await page.evaluate(() => {
    window.times = []
    const field = document.querySelector('input[role=combobox]')
    let begin = 0
    field.addEventListener('keydown', () => { begin = performance.now() }, true)
    const note = document.querySelector('[data-testid=line-fault]')
    window.waitForNote = () => new Promise(resolve => {
      const look = () => (note.dataset.diagnosed === field.value ? requestAnimationFrame(() => { window.times.push(performance.now() - begin); resolve() }) : setTimeout(look, 1))
      look()
    })
  })
  for (const key of 'when Tag eye becomes bed tog for 2 readings: set beds to beds + 1; go Over tag') {
    await page.keyboard.press(key === ' ' ? 'Space' : key)
    await page.evaluate(() => window.waitForNote())
  }
  say('keystroke to diagnosis at the screen', (await page.evaluate(() => window.times)).slice(5), 100)

  const begin = performance.now()
  await page.goto(`${server.url}/rigs/seed-trolley/program`)
  await page.locator('#line-12').waitFor()
  console.log(`program page, second load: ${(performance.now() - begin).toFixed(0)} ms`)
} finally {
  await browser.close()
  await server.stop()
}
