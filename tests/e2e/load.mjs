// Many people at once: walks, proofs and edits, and how long an edit waits for its answer. All of it on this machine, and bounded.
import { startServer } from './server.mjs'

const walkers = Number(process.env.WALKERS ?? 40)
const provers = Number(process.env.PROVERS ?? 10)
const editors = 20
const lasts = 30_000
// A server that has just begun is still compiling itself: what is counted begins when people are at work.
const warm = 10_000

const server = await startServer()
const call = async (method, path, body) => {
  const begin = performance.now()
  const answer = await fetch(server.url + path, {
    method,
    headers: { 'content-type': 'application/json' },
    body: body && JSON.stringify(body),
  })
  const text = await answer.text()
  return { ms: performance.now() - begin, status: answer.status, body: text === '' ? null : JSON.parse(text) }
}
const at = (xs, share) => [...xs].sort((a, b) => a - b)[Math.min(xs.length - 1, Math.floor(xs.length * share))]
const say = (what, xs) =>
  xs.length === 0
    ? console.log(`${what}: none`)
    : console.log(
        `${what}: ${xs.length}, median ${at(xs, 0.5).toFixed(0)} ms, 95 of 100 within ${at(xs, 0.95).toFixed(0)} ms, worst ${Math.max(...xs).toFixed(0)} ms`,
      )

try {
  const file = (await call('GET', '/api/rigs/seed-trolley/export')).body
  const ids = []
  for (let i = 0; i < editors; i++) ids.push((await call('POST', '/api/rigs', { ...file, name: `Trolley ${i + 1}` })).body.id)
  if (ids.some((id) => !id)) throw new Error('A rig could not be taken in.')
  const counted = performance.now() + warm
  const end = performance.now() + lasts
  const script = (await call('GET', '/api/rigs/seed-trolley/program')).body.script
  const refused = []
  const walks = []
  const proofs = []
  const edits = []
  const pages = []
  const until = async (work) => {
    while (performance.now() < end) await work()
  }
  const count = (answer, into) => {
    if (answer.status === 200 && performance.now() - answer.ms < counted) return
    if (answer.status === 200) into.push(answer.ms)
    else refused.push(`${answer.status} ${JSON.stringify(answer.body).slice(0, 120)}`)
  }
  // A walk that keeps its thread busy for a while: what counts is how many are under way at once.
  const source = 'program Busy\n\nvar n = 0\n\nregion Main\n  state A, initial\n    every 2 ms: set n to n + 1; stay\n'
  const walk = { format: 'script', source, rigId: 'seed-trolley', events: [{ afterMs: 240_000 }] }
  await Promise.all([
    ...Array.from({ length: walkers }, () => until(async () => count(await call('POST', '/api/walk', walk), walks))),
    ...Array.from({ length: provers }, (_, i) =>
      until(async () => count(await call('POST', `/api/rigs/${ids[i]}/proofs`, { runs: 500, seed: i }), proofs)),
    ),
    ...ids.map(async (id) => {
      let revision = (await call('GET', `/api/rigs/${id}`)).body.revision
      let n = 30
      await until(async () => {
        const line = script.split('\n').findIndex((l) => l.startsWith('var cruise')) + 1
        const edit = await call('POST', `/api/rigs/${id}/program/edit`, {
          baseRevision: revision,
          act: 'set',
          line,
          text: `var cruise = ${30 + (n++ % 30)} %`,
        })
        count(edit, edits)
        if (edit.status === 200) revision = edit.body.revision
        const page = await call('GET', `/api/rigs/${id}`)
        count(page, pages)
        // Somebody reads what came of it before going on.
        await new Promise((r) => setTimeout(r, 300 + Math.random() * 800))
      })
    }),
  ])
  say('walks', walks)
  say('proofs of 500 runs', proofs)
  say('edits', edits)
  say('rigs asked for after an edit', pages)
  console.log(`refused: ${refused.length} ${[...new Set(refused)].slice(0, 5).join(' | ')}`)
  const lists = []
  for (let i = 0; i < 20; i++) lists.push((await call('GET', '/api/rigs')).ms)
  say(`list of ${ids.length + 9} rigs, afterwards`, lists)
} finally {
  await server.stop()
}
process.exit(0)
