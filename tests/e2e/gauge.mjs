// How long after an edit the header has its new count, rig by rig: what somebody waits who changes one number and looks up.
import { startServer } from './server.mjs'

const server = await startServer()
const call = async (method, path, body) => {
  const answer = await fetch(server.url + path, {
    method,
    headers: { 'content-type': 'application/json' },
    body: body && JSON.stringify(body),
  })
  const text = await answer.text()
  if (!answer.ok) throw new Error(`${method} ${path}: ${answer.status} ${text.slice(0, 200)}`)
  return text === '' ? null : JSON.parse(text)
}
const pause = (ms) => new Promise((r) => setTimeout(r, ms))
/** The count of this revision, once there is one. */
const counted = async (id, revision) => {
  for (const end = performance.now() + 60_000; performance.now() < end;) {
    const { rate } = await call('GET', `/api/rigs/${id}`)
    if (rate?.runs > 0 && (revision === undefined || rate.say.startsWith(`Revision ${revision}:`))) return rate
    await pause(10)
  }
  throw new Error(`${id} was not counted within a minute.`)
}
try {
  const rigs = await call('GET', '/api/rigs')
  for (const { id } of rigs) await counted(id)
  for (const { id, name } of rigs) {
    const times = []
    let runs = 0
    for (let go = 0; go < 7; go++) {
      const program = await call('GET', `/api/rigs/${id}/program`)
      const lines = program.script.split('\n')
      const line = lines.findIndex((l) => /^ .* \d+(\.\d+)? (s|%|mm)\b/.test(l))
      if (line < 0) throw new Error(`${id} has no number to change.`)
      const text = lines[line].trim().replace(/ (\d+)(\.\d+)? (s|%|mm)\b/, (_, whole, _less, unit) => ` ${whole}.${go + 1} ${unit}`)
      const done = await call('POST', `/api/rigs/${id}/program/edit`, { baseRevision: program.revision, act: 'set', line: line + 1, text })
      const begin = performance.now()
      runs = (await counted(id, done.revision)).runs
      // The first one warms the program up.
      if (go > 0) times.push(performance.now() - begin)
    }
    times.sort((a, b) => a - b)
    console.log(`${name}: ${runs} runs, median ${times[3].toFixed(0)} ms, worst ${times.at(-1).toFixed(0)} ms`)
  }
} finally {
  await server.stop()
}
