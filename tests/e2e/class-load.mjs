// Thirty teams in one room: edits, gauges and the board, and how long each waits; then the server is killed, and nothing that was
// acknowledged may be lost. All of it on this machine, between 127.0.0.1 and 127.0.0.2, and bounded.
import { createRequire } from 'node:module'
import { startServer } from './server.mjs'

process.env.CHITON_LISTEN = '127.0.0.2'
const { HubConnectionBuilder, LogLevel } = createRequire(new URL('../../src/web/package.json', import.meta.url))('@microsoft/signalr')
const teams = Number(process.env.TEAMS ?? 30)
const warm = 15_000
const lasts = 60_000

const server = await startServer()
const port = new URL(server.url).port
const room = `http://127.0.0.2:${port}`
const call = async (base, method, path, body, cookie) => {
  const begin = performance.now()
  const answer = await fetch(base + path, {
    method,
    headers: { 'content-type': 'application/json', ...(base === room ? { origin: room, cookie: cookie ?? '' } : {}) },
    body: body && JSON.stringify(body),
  })
  const text = await answer.text()
  return {
    ms: performance.now() - begin,
    status: answer.status,
    cookie: answer.headers.get('set-cookie')?.split(';')[0],
    body: text.startsWith('{') || text.startsWith('[') ? JSON.parse(text) : null,
  }
}
const desk = (method, path, body) => call(server.url, method, path, body)
const at = (xs, share) => [...xs].sort((a, b) => a - b)[Math.min(xs.length - 1, Math.floor(xs.length * share))]
const say = (what, xs) =>
  xs.length === 0
    ? console.log(`${what}: none`)
    : console.log(
        `${what}: ${xs.length}, median ${at(xs, 0.5).toFixed(0)} ms, 95 of 100 within ${at(xs, 0.95).toFixed(0)} ms, worst ${Math.max(...xs).toFixed(0)} ms`,
      )

try {
  const id = (await desk('POST', '/api/classes', { name: 'Tide pool' })).body.id
  const opened = (await desk('POST', '/api/room', { class: id })).body
  const all = []
  for (let i = 0; i < teams; i++) {
    const joined = await call(room, 'POST', '/api/me/join', { code: opened.joinCode, team: `Team ${i + 1}` })
    if (!joined.cookie) throw new Error(`A team could not join: ${JSON.stringify(joined.body)}`)
    all.push({ name: `Team ${i + 1}`, cookie: joined.cookie })
  }
  await desk('POST', `/api/classes/${id}/hand-out`, { rig: 'seed-trolley' })
  const views = (await desk('GET', `/api/classes/${id}`)).body.teams
  for (const team of all) team.rig = views.find((v) => v.name === team.name).rigs[0].id
  // Two lessons besides, each with a rig of its own: their pages ask how far they are.
  for (const lesson of ['Stop over the third bed', 'What is wrong before it runs']) {
    const handed = await desk('POST', `/api/classes/${id}/lessons`, { course: 'a-season-on-the-oyster-farm', lesson })
    if (handed.status !== 200) throw new Error(`A lesson could not be handed out: ${JSON.stringify(handed.body)}`)
  }
  const script = (await desk('GET', '/api/rigs/seed-trolley/program')).body.script
  const line = script.split('\n').findIndex((l) => l.startsWith('var cruise')) + 1

  const hub = new HubConnectionBuilder().withUrl(`${server.url}/hub`).configureLogging(LogLevel.None).build()
  let told = () => undefined
  hub.on('Room', () => told())
  await hub.start()
  await hub.invoke('FollowRoom')

  const counted = performance.now() + warm
  const end = performance.now() + lasts
  const edits = []
  const pages = []
  const boards = []
  const board = []
  const lessons = []
  const ofClass = []
  const refused = []
  const gauged = new Set()
  const count = (answer, into) => {
    if (answer.status !== 200) refused.push(`${answer.status} ${JSON.stringify(answer.body).slice(0, 120)}`)
    else if (performance.now() - answer.ms >= counted) into.push(answer.ms)
  }
  const pause = (ms) => new Promise((r) => setTimeout(r, ms))
  let alive = true
  const work = all.map(async (team) => {
    let n = 30
    let revision = 1
    await pause(Math.random() * 2000)
    while (alive) {
      let edit
      try {
        edit = await call(
          room,
          'POST',
          `/api/rigs/${team.rig}/program/edit`,
          { baseRevision: revision, act: 'set', line, text: `var cruise = ${30 + (n++ % 30)} %` },
          team.cookie,
        )
      } catch {
        // Cut off in the middle: whether it was kept nobody knows, and nobody was told that it was.
        break
      }
      count(edit, edits)
      if (edit.status === 200) team.acknowledged = revision = edit.body.revision
      try {
        const page = await call(room, 'GET', `/api/rigs/${team.rig}`, null, team.cookie)
        count(page, pages)
      } catch {
        break
      }
      // Somebody reads what came of it before going on.
      await pause(1500 + Math.random() * 2500)
    }
  })
  // The page of a team's lessons asks every ten seconds, that of the class every five.
  const asking = [
    ...all.map(async (team) => {
      await pause(Math.random() * 10_000)
      while (alive) {
        try {
          count(await call(room, 'GET', '/api/me/lessons', null, team.cookie), lessons)
        } catch {
          break
        }
        await pause(10_000)
      }
    }),
    (async () => {
      while (alive) {
        try {
          count(await desk('GET', `/api/classes/${id}/lessons`), ofClass)
        } catch {
          break
        }
        await pause(5_000)
      }
    })(),
  ]
  // The board, as a page shows it: told, it asks anew.
  let asks = 0
  const look = async () => {
    if (asks++ > 0) return
    const lines = await desk('GET', '/api/room/board?order=stuck')
    count(lines, board)
    const again = asks > 1
    asks = 0
    for (const l of lines.body?.lines ?? []) if (/\d+ of \d+ pass/.test(l.rate)) gauged.add(l.name)
    seen(lines.body?.lines ?? [])
    if (again) void look()
  }
  let seen = () => undefined
  told = () => void look().catch(() => undefined)
  // A hand goes up: how long until the board shows it?
  while (performance.now() < end) {
    const team = all[Math.floor(Math.random() * all.length)]
    const up = await call(room, 'POST', '/api/me/hand', { up: true }, team.cookie)
    const begin = performance.now()
    if (up.status === 200)
      await new Promise((resolve) => {
        const timer = setTimeout(resolve, 20_000)
        seen = (lines) => {
          if (lines.find((l) => l.name === team.name)?.handMin !== 0) return
          clearTimeout(timer)
          resolve(undefined)
        }
      })
    if (begin >= counted) boards.push(performance.now() - begin)
    await call(room, 'POST', '/api/me/hand', { up: false }, team.cookie)
    await pause(1000)
  }
  console.log(`${teams} teams`)
  say('edits', edits)
  say('pages of a rig', pages)
  say('the board, asked for', board)
  say('a team’s lessons', lessons)
  say('the lessons of the class', ofClass)
  say('from a hand to the board', boards)
  console.log(`gauges: ${gauged.size} of ${teams} teams had one that was counted to its end`)
  if (refused.length > 0) console.log(`refused: ${refused.length}, as ${refused[0]}`)

  // Killed in the middle of it all.
  await server.kill()
  alive = false
  await Promise.all([...work, ...asking])
  await hub.stop().catch(() => undefined)
  await server.start()
  let lost = 0
  for (const team of all) {
    const now = (await desk('GET', `/api/rigs/${team.rig}`)).body.revision
    if (now < team.acknowledged) lost++
  }
  for (let i = 0; i < 100; i++) {
    try {
      if ((await call(room, 'GET', '/api/me', null, all[0].cookie)).body.who === 'team') break
    } catch {
      // Not listened at yet.
    }
    await pause(100)
  }
  const back = await Promise.all(all.map((t) => call(room, 'GET', '/api/me', null, t.cookie)))
  console.log(
    `after a kill: ${lost} acknowledged edits lost, ${back.filter((b) => b.body.team?.name).length} of ${teams} teams still joined`,
  )
} finally {
  await server.stop()
}
process.exit(0)
