import { copyFile, mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { startServer } from './server.mjs'

/** Makes the demo once for all tests: a server makes its database, and is stopped before it is copied. */
export default async function makeDemo() {
  const server = await startServer()
  await server.end()
  const kept = await mkdtemp(path.join(tmpdir(), 'chiton-e2e-demo-'))
  const file = path.join(kept, 'chiton.db')
  await copyFile(path.join(server.folder, 'chiton.db'), file)
  await server.stop()
  process.env.CHITON_DEMO_FILE = file
  return () => rm(kept, { recursive: true, force: true })
}
