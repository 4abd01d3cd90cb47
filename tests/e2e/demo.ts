import { copyFile, mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { startServer } from './server.mjs'

type Listed = { copies: { rate: { state: string } }[] }

/**
 * Makes the demo once for all tests: a server makes its database and counts the rate of every rig, so that no test spends its time
 * on that again, and is stopped before it is copied.
 */
export default async function makeDemo() {
  const server = await startServer()
  for (let i = 0; i < 600; i++) {
    const rigs = (await (await fetch(`${server.url}/api/rigs`)).json()) as Listed[]
    if (rigs.every((r) => r.copies.every((c) => c.rate.state !== 'counting'))) break
    await new Promise((r) => setTimeout(r, 500))
  }
  await server.end()
  const kept = await mkdtemp(path.join(tmpdir(), 'chiton-e2e-demo-'))
  const file = path.join(kept, 'chiton.db')
  await copyFile(path.join(server.folder, 'chiton.db'), file)
  await server.stop()
  process.env.CHITON_DEMO_FILE = file
  return () => rm(kept, { recursive: true, force: true })
}
