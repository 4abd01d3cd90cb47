import { readFile } from 'node:fs/promises'
import { execFileSync } from 'node:child_process'
import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import path from 'node:path'
import { expect, expectAccessible, press, test } from './fixtures'

test('a program is taken out by keyboard: what no board knows is said first, and what is downloaded does what stands beside it', async ({
  page,
  open,
}) => {
  await open('/rigs/seed-trolley/program')
  await press(page.getByRole('link', { name: 'Take it out' }))
  await expect(page.getByRole('heading', { name: 'What a board cannot know or do by itself' })).toBeVisible()
  await expect(page.getByRole('table').first()).toContainText('Tag eye, threshold between')
  await expect(page.getByRole('table').nth(1)).toContainText('Tag_eye')
  await expectAccessible(page)

  // Read before it is taken.
  const read = page.getByRole('button', { name: 'Read seed_trolley.hpp' })
  await press(read)
  const text = page.getByRole('region', { name: 'seed_trolley.hpp' })
  await expect(text).toContainText('The sentences of Seed trolley')
  await page.keyboard.press('Tab')
  await expect(text).toBeFocused()
  await press(page.getByRole('button', { name: 'Close seed_trolley.hpp' }))
  await expect(text).toHaveCount(0)

  // In the other language, kept in the address.
  await page.getByLabel('Language').selectOption('Python 3')
  await expect(page.getByRole('button', { name: 'Read seed_trolley.py' })).toBeVisible()
  await page.reload()
  await expect(page.getByLabel('Language')).toHaveValue('python')
  await expectAccessible(page)
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Download all files' }).press('Enter'),
  ])
  const folder = await mkdtemp(path.join(tmpdir(), 'chiton-taken-'))
  try {
    const zip = path.join(folder, 'taken.zip')
    await download.saveAs(zip)
    execFileSync('python3', ['-c', 'import sys, zipfile; zipfile.ZipFile(sys.argv[1]).extractall(sys.argv[2])', zip, folder])
    const at = path.join(folder, 'seed_trolley')
    const said = execFileSync('python3', ['-B', 'trace_main.py'], { cwd: at, input: await readFile(path.join(at, 'trace.txt')) }).toString()
    expect(said).toBe((await readFile(path.join(at, 'expected.txt'))).toString())
    expect(said).toContain('do Seed trolley run 60 %')
  } finally {
    await rm(folder, { recursive: true })
  }
})

test('one of several programs or all of them, at 768 by touch; one with a fault says what to mend', async ({
  browser,
  server,
  page,
  open,
}) => {
  const touch = await browser.newContext({ viewport: { width: 768, height: 1024 }, hasTouch: true })
  const tablet = await touch.newPage()
  await tablet.goto(`${server.url}/rigs/lock-keeper/program/outside`)
  await expect(tablet.getByText('which is not on this board').first()).toBeVisible()
  await tablet.getByLabel('What goes on the board').selectOption('all 3 programs that run')
  await expect(tablet.getByText('which is not on this board')).toHaveCount(0)
  await expect(tablet.getByText('Messages between the programs')).toBeVisible()
  for (const thing of [tablet.getByLabel('Language'), tablet.getByRole('link', { name: 'Download all files' })])
    expect((await thing.boundingBox())!.height).toBeGreaterThanOrEqual(44)
  expect(await tablet.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(768)
  await expectAccessible(tablet)
  await touch.close()

  // A sentence that is none is mended first.
  const rig = await (await page.request.get(`${server.url}/api/rigs/rack-hoist/program`)).json()
  await page.request.put(`${server.url}/api/rigs/rack-hoist/program`, {
    data: { baseRevision: rig.revision, script: `${rig.script}\n  when pigs fly: go Nowhere\n` },
  })
  await open('/rigs/rack-hoist/program/outside')
  await expect(page.getByRole('alert')).toContainText('Mend it in Script first.')
  await expect(page.getByRole('link', { name: 'Download all files' })).toHaveCount(0)
  await press(page.getByRole('link', { name: 'Open the script.' }))
  await expect(page).toHaveURL(/\/program\/script/)
})
