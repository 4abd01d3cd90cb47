import { expect, test } from './fixtures'
import { startServer } from './server.mjs'

type Tries = { done: number; scenes: unknown[] }

test('a server knows nothing of the one that ran before it in the same process', async ({ warm }) => {
  const tries = '/api/rigs/seed-trolley/tries'
  const first = await startServer({ warm: warm() })
  const asked = await fetch(first.url + tries, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ copy: 1 }),
  })
  expect(asked.status).toBe(200)
  const seen = async (url: string) => (await (await fetch(url + tries)).json()) as Tries
  await expect.poll(async () => (await seen(first.url)).scenes.length).toBeGreaterThan(0)
  await first.stop()

  const next = await startServer({ warm: warm() })
  try {
    // The very same state, but of another folder.
    expect(await seen(next.url)).toMatchObject({ done: 0, scenes: [] })
    expect(next.folder).not.toBe(first.folder)
  } finally {
    await next.stop()
  }
})
