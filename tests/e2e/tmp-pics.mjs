import { startServer } from './server.mjs'
import pw from './node_modules/@playwright/test/index.js'
const s = await startServer()
const b = await pw.chromium.launch({ executablePath: process.env.CHITON_CHROMIUM, args: ['--no-sandbox', '--disable-gpu'] })
const page = await (await b.newContext({ viewport: { width: 794, height: 1123 } })).newPage()
await page.addInitScript(() => { window.print = () => undefined })
await page.goto(s.url + '/courses/a-season-on-the-oyster-farm/3/sheet'); await page.waitForTimeout(1000)
await page.emulateMedia({ media: 'print' }); await page.screenshot({ path: '/tmp/p-paper.png', fullPage: true })
await page.emulateMedia({ media: null })
await page.goto(s.url + '/train'); await page.waitForTimeout(500); await page.getByLabel('Rig').selectOption('seed-trolley'); await page.getByRole('button', { name: 'Print a sheet' }).click(); await page.waitForTimeout(5000)
await page.emulateMedia({ media: 'print' }); await page.screenshot({ path: '/tmp/p-paper2.png', fullPage: true })
process.exit(0)
