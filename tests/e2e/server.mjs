import { spawn } from 'node:child_process'
import { copyFile, mkdtemp, rm } from 'node:fs/promises'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { createInterface } from 'node:readline'
import { fileURLToPath } from 'node:url'

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '../..')

const web = process.env.CHITON_WEB ?? path.join(root, 'src/web/dist')

const freePort = () =>
  new Promise((resolve) => {
    const probe = createServer()
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address()
      probe.close(() => resolve(port))
    })
  })

const serverDll = process.env.CHITON_SERVER ?? path.join(root, 'src/Chiton.Server/bin/Release/net10.0/Chiton.Server.dll')

/** Starts the process that runs servers one after the other, so that each finds compiled what the ones before it used. */
export function startWarm() {
  const child = spawn('dotnet', [path.join(root, 'tests/Chiton.Warm/bin/Release/net10.0/Chiton.Warm.dll')], {
    env: { ...process.env, CHITON_WEB: web },
    stdio: ['pipe', 'pipe', 'inherit'],
  })
  const waiting = new Map()
  createInterface({ input: child.stdout }).on('line', (line) => {
    const [id, ...trouble] = line.split(' ')
    const { resolve, reject } = waiting.get(id)
    waiting.delete(id)
    if (trouble.length > 0) reject(new Error(trouble.join(' ')))
    else resolve(undefined)
  })
  child.once('exit', (code) => {
    for (const { reject } of waiting.values()) reject(new Error(`The process of the servers ended with ${code}.`))
  })
  // What is written to one that fell over is told to whoever waits for an answer, by its end.
  child.stdin.on('error', () => {})
  const ended = () => child.exitCode !== null || child.signalCode !== null
  const ask = (what, id, more = '') =>
    new Promise((resolve, reject) => {
      if (ended()) return reject(new Error('The process of the servers has ended.'))
      waiting.set(id, { resolve, reject })
      child.stdin.write(`${what} ${id} ${more}\n`)
    })
  return {
    start: (id, args) => ask('start', id, JSON.stringify(args)),
    stop: (id) => ask('stop', id),
    end: () =>
      new Promise((resolve) => {
        // One that fell over has said so to whoever waited for it.
        if (ended()) return resolve(undefined)
        child.once('exit', resolve)
        child.stdin.end()
      }),
  }
}

/** Starts the real server with the demo in a folder of its own: as a process of its own, or in a warm one. */
export async function startServer({ demo = true, warm } = {}) {
  const folder = await mkdtemp(path.join(tmpdir(), 'chiton-e2e-'))
  // The demo was made once; every test begins with a copy of it.
  if (demo && process.env.CHITON_DEMO_FILE) await copyFile(process.env.CHITON_DEMO_FILE, path.join(folder, 'chiton.db'))
  const port = await freePort()
  const url = `http://127.0.0.1:${port}`
  const settings = {
    CHITON_DATA: folder,
    CHITON_DEMO: demo ? '1' : '0',
    // What is tried between edits would change what others read meanwhile: only Check asks for it.
    CHITON_TRIES: 'asked',
  }
  if (warm) {
    // What the rooms of tests set stands in this process; the warm one began before.
    for (const name of ['CHITON_LISTEN', 'CHITON_HOSTS']) if (process.env[name]) settings[name] = process.env[name]
    const id = String(port)
    await warm.start(id, ['--urls', url, '--shutdownTimeoutSeconds', '2', ...Object.entries(settings).flatMap(([k, v]) => [`--${k}`, v])])
    const alone = () => Promise.reject(new Error('A server that is killed or started again has a process of its own: use({ own: true }).'))
    return {
      url,
      folder,
      kill: alone,
      end: alone,
      start: alone,
      async stop() {
        await warm.stop(id)
        await rm(folder, { recursive: true, force: true })
      },
    }
  }
  let child
  const start = async () => {
    child = spawn('dotnet', [serverDll, '--urls', url], { env: { ...process.env, ...settings, CHITON_WEB: web }, stdio: 'ignore' })
    for (let i = 0; i < 900; i++) {
      try {
        if ((await fetch(`${url}/api/health`)).ok) return
      } catch {
        // Not listening yet.
      }
      await new Promise((r) => setTimeout(r, 100))
    }
    throw new Error('The server did not start.')
  }
  const kill = () =>
    new Promise((resolve) => {
      if (child.exitCode !== null || child.signalCode !== null) return resolve(undefined)
      child.once('exit', resolve)
      child.kill('SIGKILL')
    })
  // Ends in its own time, so that all that was written is in the one file.
  const end = () =>
    new Promise((resolve) => {
      if (child.exitCode !== null || child.signalCode !== null) return resolve(undefined)
      child.once('exit', resolve)
      child.kill('SIGTERM')
    })
  await start()
  return {
    url,
    folder,
    kill,
    end,
    start,
    async stop() {
      await kill()
      await rm(folder, { recursive: true, force: true })
    },
  }
}
