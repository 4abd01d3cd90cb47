import AxeBuilder from '@axe-core/playwright'
import { expect, test as base, type Locator, type Page } from '@playwright/test'
import { startServer, startWarm, type BenchServer, type Warm } from './server.mjs'

type Own = { own: boolean; server: BenchServer; open: (path: string) => Promise<void> }

/** Every test has a server and data of its own. */
export const test = base.extend<Own, { warm: () => Warm }>({
  // True for tests that kill the server or start it again: it is a process of its own.
  own: [false, { option: true }],
  warm: [
    async ({}, use) => {
      let warm: Warm | undefined
      await use(() => (warm ??= startWarm()))
      await warm?.end()
    },
    { scope: 'worker' },
  ],
  server: async ({ own, warm }, use) => {
    const server = await startServer(own ? {} : { warm: warm() })
    await use(server)
    await server.stop()
  },
  open: async ({ server, page }, use, test) => {
    const faults: string[] = []
    page.on('pageerror', (e) => faults.push(e.message))
    page.on('console', (m) => {
      // A page that breaks its own content policy says so on the console.
      if (m.type() === 'error' && /Content Security Policy|Refused to/.test(m.text())) faults.push(m.text())
    })
    await use(async (path) => {
      await page.goto(server.url + path)
    })
    // What stood there when a test failed is said with it: the machine it failed on is gone.
    if (test.status !== test.expectedStatus) {
      const seen = await page
        .evaluate(
          () => `${location.href}\nkeys at ${document.activeElement?.outerHTML.slice(0, 300)}\n${document.body.innerText.slice(0, 3000)}`,
        )
        .catch((e: Error) => e.message)
      console.log(`What stood there when “${test.title}” failed:\n${seen}`)
    }
    expect(faults).toEqual([])
  },
})

export { expect }

export const rig = '/rigs/seed-trolley'

/** Presses a key on what takes keys: a button that is grey while an edit is kept swallows them, and nobody presses a grey one. */
export async function press(on: Locator, key = 'Enter') {
  await expect(on).toBeEnabled()
  await on.press(key)
}

/** axe finds nothing, with the rules of WCAG 2.2 AA and best practice, or with those that are named. */
export async function expectAccessible(page: Page, rules?: string[]) {
  // In the page itself, and without writing down what is well: there are no frames, and only what is wrong is looked at.
  const builder = new AxeBuilder({ page })
    .setLegacyMode(true)
    .options({ resultTypes: ['violations'], rules: { 'target-size': { enabled: true } } })
  const result = await (rules ? builder.withRules(rules) : builder).analyze()
  expect(
    result.violations.map(
      (v) =>
        `${v.id}: ${v.nodes
          .map((n) => `${n.target.join(' ')} (${n.failureSummary?.split('\n')[1]?.trim()})`)
          .slice(0, 3)
          .join(' | ')}`,
    ),
  ).toEqual([])
}

/** The header shows a counted rate of a revision. */
export async function rateOf(page: Page, revision: number) {
  const rate = page.getByTestId('rate')
  await expect(rate).toContainText(new RegExp(`Revision ${revision}: \\d+ of \\d+ pass`))
  const match = /(\d+) of (\d+) pass/.exec((await rate.textContent()) ?? '')
  return Number(match![1]) / Number(match![2])
}
