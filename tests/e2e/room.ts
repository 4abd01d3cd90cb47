import { expect, test as base } from './fixtures'
import type { BrowserContext, Page } from '@playwright/test'

// The room of tests: an address of this machine that is not the desk's, and a plain name for it, which is no secure context.
process.env.CHITON_LISTEN = '127.0.0.2'
process.env.CHITON_HOSTS = 'bench.test'

/** Devices that come into a room of tests. */
export const test = base.extend<{ device: (touch?: boolean) => Promise<Page> }>({
  device: async ({ browser, server }, use) => {
    const faults: string[] = []
    const came: BrowserContext[] = []
    await use(async (touch = false) => {
      const context = await browser.newContext({
        viewport: touch ? { width: 768, height: 1024 } : { width: 1280, height: 800 },
        hasTouch: touch,
      })
      came.push(context)
      const page = await context.newPage()
      page.on('pageerror', (e) => faults.push(e.message))
      page.on('console', (m) => {
        if (m.type() === 'error' && !/40[03] \((Bad Request|Forbidden)\)|ERR_CONNECTION_REFUSED/.test(m.text())) faults.push(m.text())
      })
      await page.goto(`http://bench.test:${new URL(server.url).port}/`)
      return page
    })
    for (const context of came) await context.close()
    expect(faults).toEqual([])
  },
})

/** Makes a class with the keyboard and opens its room; says the code of the class. */
export async function openRoom(page: Page) {
  await page.getByRole('link', { name: 'Class' }).click()
  await page.getByLabel('Name of a new class').fill('Tide pool')
  await page.keyboard.press('Enter')
  await page.getByLabel('The lesson lasts, minutes').fill('40')
  await page.keyboard.press('Enter')
  const code = page.getByText('Teams join with').locator('xpath=following-sibling::dd')
  await expect(code).toHaveText(/^[A-Z]{3} [A-Z]{3}$/)
  return (await code.textContent())!
}

/** A device joins as a team. */
export async function join(page: Page, code: string, team: string) {
  await page.getByLabel('Code').fill(code.toLowerCase())
  await page.keyboard.press('Enter')
  await page.getByLabel('Team').fill(team)
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: `Rigs of ${team}` })).toBeVisible()
}
