// A board that reads ten thousand times a second for a minute: what comes in, and how long an edit waits meanwhile.
import { spawn } from 'node:child_process'
import path from 'node:path'
import { fileURLToPath } from 'node:url'
import { startServer } from './server.mjs'

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '../..')
const seconds = Number(process.env.SECONDS_LONG ?? 60)
const server = await startServer()
const call = async (method, at, body) => {
  const begin = performance.now()
  const answer = await fetch(server.url + at, {
    method,
    headers: { 'content-type': 'application/json' },
    body: body && JSON.stringify(body),
  })
  const text = await answer.text()
  return { ms: performance.now() - begin, status: answer.status, body: text === '' ? null : JSON.parse(text) }
}
const box = spawn(
  'dotnet',
  [
    path.join(root, 'src/Chiton.Box/bin/Release/net10.0/Chiton.Box.dll'),
    'seed-trolley',
    '--port',
    '0',
    '--data',
    server.folder,
    '--every',
    '100',
  ],
  { stdio: ['pipe', 'pipe', 'inherit'] },
)
try {
  const to = await new Promise((resolve) =>
    box.stdout.on('data', (d) => /127\.0\.0\.1:\d+/.exec(d) && resolve(/127\.0\.0\.1:\d+/.exec(d)[0])),
  )
  const rig = '/api/rigs/seed-trolley'
  const copy = (await call('GET', `${rig}/copies`)).body.copies.find((c) => c.item.kind === 'real').number
  await call('PUT', `${rig}/line`, { copy, to })
  const line = async () => (await call('GET', `${rig}/line?copy=${copy}`)).body
  while ((await line()).standing !== 'joined') await new Promise((r) => setTimeout(r, 100))
  // The header counts runs after each edit, as it does for everybody.
  let { revision } = (await call('GET', rig)).body
  const script = (await call('GET', `${rig}/program`)).body.script
  const edit = async (i) => {
    const answer = await call('PUT', `${rig}/program`, { baseRevision: revision, script: `${script}\n# ${i}\n` })
    if (answer.status !== 200) throw new Error(JSON.stringify(answer.body))
    revision = answer.body.revision
    return answer.ms
  }
  // A server that has just begun is still compiling itself.
  for (let i = 0; i < 20; i++) await edit(`warm ${i}`)
  await call('POST', `${rig}/line/say`, { copy, line: 'tell Tag eye' })
  const first = await line()
  const begun = performance.now()
  const edits = []
  while (performance.now() - begun < seconds * 1000) {
    edits.push(await edit(edits.length))
    await new Promise((r) => setTimeout(r, 200))
  }
  await call('POST', `${rig}/line/say`, { copy, line: 'quiet Tag eye' })
  await new Promise((r) => setTimeout(r, 500))
  const last = await line()
  const [a, b] = [first.sensors[0], last.sensors[0]]
  const came = b.count - a.count
  // Each reading is 100 µs after the one before, by the clock of the box.
  const made = Math.round((b.atMicros - a.atMicros) / 100)
  edits.sort((x, y) => x - y)
  console.log(`${came} readings came of ${made} that were made in ${((b.atMicros - a.atMicros) / 1e6).toFixed(1)} s: ${made - came} lost`)
  console.log(
    `${edits.length} edits: median ${edits[edits.length >> 1].toFixed(0)} ms, 95 of 100 within ${edits[Math.floor(edits.length * 0.95)].toFixed(0)} ms, worst ${edits.at(-1).toFixed(0)} ms`,
  )
} finally {
  box.kill()
  await server.stop()
}
