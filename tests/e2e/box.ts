import { spawn } from 'node:child_process'
import path from 'node:path'
import { fileURLToPath } from 'node:url'

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '../..')
const dll = process.env.CHITON_SERVER
  ? process.env.CHITON_SERVER.replaceAll('Chiton.Server', 'Chiton.Box')
  : path.join(root, 'src/Chiton.Box/bin/Release/net10.0/Chiton.Box.dll')

/** A stand-in box of a rig, as a process of its own on a free port; its rig is that of the folder. */
export async function startBox(rig: string, folder: string, ...more: string[]) {
  const child = spawn('dotnet', [dll, rig, '--port', '0', '--data', folder, ...more], { stdio: ['pipe', 'pipe', 'inherit'] })
  const seen: string[] = []
  let rest = ''
  child.stdout.on('data', (d: Buffer) => {
    const lines = (rest + d.toString()).split('\n')
    rest = lines.pop()!
    seen.push(...lines)
  })
  for (let i = 0; seen.length === 0; i++) {
    if (i > 300 || child.exitCode !== null) throw new Error('The box did not start.')
    await new Promise((r) => setTimeout(r, 100))
  }
  return {
    to: /127\.0\.0\.1:\d+/.exec(seen[0]!)![0],
    /** What somebody who looks on has seen. */
    seen,
    /** Types a line in its window. */
    type: (line: string) => child.stdin.write(line + '\n'),
    stop: () =>
      new Promise<void>((resolve) => {
        child.once('exit', () => resolve())
        child.kill('SIGKILL')
      }),
  }
}
