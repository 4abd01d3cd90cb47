// Measures what a person waits for: a keystroke's diagnosis at the screen, and sums at the server.
import { chromium } from '@playwright/test'
import { startServer } from './server.mjs'

const median = (xs) => [...xs].sort((a, b) => a - b)[Math.floor(xs.length / 2)]
const worst = (xs) => Math.max(...xs)
const say = (what, xs, limit) =>
  console.log(`${what}: median ${median(xs).toFixed(2)} ms, worst ${worst(xs).toFixed(2)} ms of ${xs.length} (limit ${limit} ms)`)

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
  const sums = {
    threshold: {
      lists: [{ readings: [21, 23, 22, 24, 20, 22, 23, 21, 25, 22] }, { readings: [58, 61, 55, 63, 60, 57, 59, 62, 56, 60] }],
      resolution: 1,
      samplePeriodMs: 10,
    },
    'marker-pass': { markerLengthMm: 48, spotDiameterMm: 8, samplePeriodMs: 10, readingsNeeded: 2, speedMmPerS: 310 },
    'success-rate': { passes: 91, runs: 100 },
  }
  for (const [name, body] of Object.entries(sums)) {
    const times = []
    for (let i = 0; i < 300; i++) {
      const begin = performance.now()
      const answer = await fetch(`${server.url}/api/sums/${name}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify(body),
      })
      await answer.arrayBuffer()
      if (i >= 100) times.push(performance.now() - begin)
    }
    say(`sum ${name}, over HTTP`, times, 5)
  }

  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  const keystrokes = async (line, text, skip) => {
    await page.locator(`#line-${line}`).press('Enter')
    const input = page.getByRole('combobox', { name: `Line ${line}` })
    await input.fill('')
    // The time from the key's event until the note under the line shows the diagnosis of exactly this text.
    await page.evaluate(() => {
      window.times = []
      const field = document.querySelector('input[role=combobox]')
      let begin = 0
      field.addEventListener(
        'keydown',
        () => {
          begin = performance.now()
        },
        true,
      )
      const note = document.querySelector('[data-testid=line-fault]')
      window.waitForNote = () =>
        new Promise((resolve) => {
          const look = () =>
            note.dataset.diagnosed === field.value
              ? requestAnimationFrame(() => {
                  window.times.push(performance.now() - begin)
                  resolve()
                })
              : setTimeout(look, 1)
          look()
        })
    })
    for (const key of text) {
      await page.keyboard.press(key === ' ' ? 'Space' : key)
      await page.evaluate(() => window.waitForNote())
    }
    const times = (await page.evaluate(() => window.times)).slice(skip)
    await page.keyboard.press('Escape')
    return times
  }
  const sentence = 'when Tag eye becomes bed tog for 2 readings: set beds to beds + 1; go Over tag'
  await page.goto(`${server.url}/rigs/seed-trolley/program`)
  say('keystroke to diagnosis at the screen', await keystrokes(12, sentence, 5), 100)

  // Two hundred states of five lines each, in a program beside the one that runs.
  const states = Array.from(
    { length: 200 },
    (_, i) =>
      `  state Bed ${i}${i === 0 ? ', initial' : ''}\n    on entry: set beds to beds + 1; show "Bed ${i}"\n    while here: run Trolley at ${20 + (i % 60)} %\n    when Tag eye becomes bed tag for 2 readings: set beds to beds + ${i}; go Bed ${(i + 1) % 200}\n    when beds > ${i} and Tag eye < 40: go Bed ${(i * 7) % 200}\n    after ${(i % 9) + 1} s: go Bed ${(i + 3) % 200}`,
  )
  const { revision } = await (await fetch(`${server.url}/api/rigs/seed-trolley`)).json()
  const added = await fetch(`${server.url}/api/rigs/seed-trolley/programs`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      baseRevision: revision,
      script: `program Two hundred\n\nvar beds = 0\n\nregion Main\n${states.join('\n\n')}\n`,
    }),
  })
  if (!added.ok) throw new Error(await added.text())
  // What is out of sight rests until it is come to: the address leads there.
  await page.goto(`${server.url}/rigs/seed-trolley/program?program=1#state-Bed 100`)
  await page.locator('[id="state-Bed 100"] .sentence').first().waitFor()
  const hundredth = Number((await page.locator('[id="state-Bed 100"] .sentence').nth(2).getAttribute('id')).replace('line-', ''))
  // Two hundred keys: a whole sentence in three lines.
  const keys = []
  for (const [i, line] of [hundredth, hundredth + 1, hundredth + 2].entries())
    keys.push(...(await keystrokes(line, sentence.replace('Over tag', 'Bed 12'), i === 0 ? 5 : 0)))
  say('keystroke to diagnosis in 200 states', keys, 100)

  // A hundred thousand readings, and a rig of three controllers and forty devices.
  const post = (path, body) =>
    fetch(server.url + path, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })
  const text = Array.from({ length: 100_000 }, (_, i) => 20 + ((i * 7919) % 11)).join('\n')
  const imports = []
  for (let i = 0; i < 3; i++) {
    const made = await (await post('/api/rigs', { template: 'rail vehicle', name: `Many readings ${i}` })).json()
    const began = performance.now()
    const taken = await post(`/api/rigs/${made.id}/readings`, { copy: 1, zone: 'rail', text, csv: true })
    if (!taken.ok) throw new Error(await taken.text())
    imports.push(performance.now() - began)
  }
  say('100 000 readings imported over HTTP', imports, 2000)
  const many = (n, kind, name) =>
    Array.from({ length: n }, (_, i) => ({
      name: `${name} ${i + 1}`,
      kind,
      samplePeriodMs: 10,
      resolution: 1,
      zones: [],
      connection: 'pins',
    }))
  const board = (await (await fetch(`${server.url}/api/rigs/templates`)).json()).controllers
  const controller = (template, name) => ({ ...board.find((c) => c.template === template).controller, name })
  const strips = ['A', 'B'].map((n) => controller('strip', `Strip ${n}`))
  const big = await (
    await post('/api/rigs', {
      design: {
        name: 'Forty devices',
        place: '',
        controllers: [controller('pin board', 'Board A'), controller('pin board', 'Board B'), controller('six sockets', 'Box'), ...strips],
        links: ['A', 'B'].flatMap((n) => [
          { fromController: `Board ${n}`, fromPort: '5 V', toController: `Strip ${n}`, toPort: 'plus rail' },
          { fromController: `Board ${n}`, fromPort: 'ground', toController: `Strip ${n}`, toPort: 'minus rail' },
        ]),
        sensors: [...many(10, 'probe', 'Probe'), ...many(10, 'touch', 'Button')],
        actuators: [
          ...Array.from({ length: 8 }, (_, i) => ({ name: `Servo ${i + 1}`, kind: 'servo', connection: 'pins' })),
          ...Array.from({ length: 6 }, (_, i) => ({ name: `Lamp ${i + 1}`, kind: 'lamp', connection: 'pins' })),
          ...Array.from({ length: 6 }, (_, i) => ({ name: `Motor ${i + 1}`, kind: 'plainMotor' })),
        ],
      },
    })
  ).json()
  const assigns = []
  for (let i = 0; i < 12; i++) {
    const began = performance.now()
    const plan = await post(`/api/rigs/${big.id}/ports/assign`, {})
    const body = await plan.json()
    if (!plan.ok) throw new Error(JSON.stringify([big, body]))
    await (await fetch(`${server.url}/api/rigs/${big.id}/ports`)).json()
    if (i > 1) assigns.push(performance.now() - began)
    if (i === 0)
      console.log(`3 controllers, 40 devices: ${body.assigned.length} leads assigned, ${body.unassigned.length} devices without a place`)
  }
  say('assigned and checked over HTTP', assigns, 200)

  // Panning the dots of a hundred thousand readings, as a person drags them.
  await page.goto(`${server.url}/rigs/many-readings-0/sense`)
  const dots = page.getByTestId('dots')
  await dots.waitFor()
  await page.waitForTimeout(1000)
  const box = await dots.boundingBox()
  await page.evaluate(() => {
    window.frames = []
    let last = performance.now()
    const tick = (now) => {
      window.frames.push(now - last)
      last = now
      window.raf = requestAnimationFrame(tick)
    }
    window.raf = requestAnimationFrame(tick)
  })
  await page.mouse.move(box.x + 500, box.y + 90)
  await page.mouse.down()
  for (let i = 0; i < 180; i++) {
    await page.mouse.move(box.x + 500 + 160 * Math.sin(i / 12), box.y + 90)
    await page.waitForTimeout(4)
  }
  await page.mouse.up()
  const frames = (
    await page.evaluate(() => {
      cancelAnimationFrame(window.raf)
      return window.frames
    })
  ).slice(5)
  const perSecond = 1000 / (frames.reduce((a, b) => a + b, 0) / frames.length)
  console.log(
    `dots of 100 000 readings panned: ${perSecond.toFixed(1)} frames a second, slowest frame ${worst(frames).toFixed(0)} ms of ${frames.length} (limit 30 frames a second)`,
  )

  const begin = performance.now()
  await page.goto(`${server.url}/rigs/seed-trolley/program`)
  await page.locator('#line-12').waitFor()
  console.log(`program page, second load: ${(performance.now() - begin).toFixed(0)} ms`)
} finally {
  await browser.close()
  await server.stop()
}
