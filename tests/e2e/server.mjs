import { spawn } from 'node:child_process'
import { copyFile, mkdtemp, rm } from 'node:fs/promises'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { fileURLToPath } from 'node:url'

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '../..')

const freePort = () =>
  new Promise((resolve) => {
    const probe = createServer()
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address()
      probe.close(() => resolve(port))
    })
  })

/** Starts the real server with the demo in a folder of its own. */
export async function startServer({ demo = true } = {}) {
  const folder = await mkdtemp(path.join(tmpdir(), 'chiton-e2e-'))
  // The demo was made once; every test begins with a copy of it.
  if (demo && process.env.CHITON_DEMO_FILE) await copyFile(process.env.CHITON_DEMO_FILE, path.join(folder, 'chiton.db'))
  const port = await freePort()
  const url = `http://127.0.0.1:${port}`
  let child
  const start = async () => {
    child = spawn(
      'dotnet',
      [process.env.CHITON_SERVER ?? path.join(root, 'src/Chiton.Server/bin/Release/net10.0/Chiton.Server.dll'), '--urls', url],
      {
        env: {
          ...process.env,
          CHITON_DATA: folder,
          CHITON_DEMO: demo ? '1' : '0',
          // What is tried between edits would change what others read meanwhile: only Check asks for it.
          CHITON_TRIES: 'asked',
          CHITON_WEB: process.env.CHITON_WEB ?? path.join(root, 'src/web/dist'),
        },
        stdio: 'ignore',
      },
    )
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
