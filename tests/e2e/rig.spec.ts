import { expect, expectAccessible, press, rig, test } from './fixtures'

test('a clash is explained, and Chiton assigns a free port', async ({ page, open }) => {
  await open(`${rig}/rig`)
  const margin = page.getByRole('complementary', { name: 'Findings about the rig' })
  await expect(margin).toContainText('Every lead has its place')
  await press(page.getByRole('button', { name: 'Run Lamp light to front 1' }))
  await expect(margin).toContainText('Tag eye and Lamp are both on front 1 of Deck box: move one of them to a free port.')
  await expect(page.getByRole('link', { name: /1 wiring fault/ })).toBeVisible()
  await expectAccessible(page)
  await page.getByRole('button', { name: 'Let Chiton assign' }).click()
  await expect(margin).toContainText('Every lead has its place')
  await page.getByRole('button', { name: /Horn sound runs to side 1; open it/ }).click()
  const lead = page.getByRole('region', { name: 'Lead sound of Horn' })
  await expect(lead).toContainText('its own cable')
  await lead.getByRole('button', { name: 'Move Horn' }).click()
  await expect(lead).toContainText('2 more times')
  await expectAccessible(page)
  await lead.getByRole('button', { name: 'Take it off' }).click()
  await expect(margin).toContainText('The lead “sound” of Horn goes nowhere')
  await page.keyboard.press('Control+z')
  await expect(margin).toContainText('Every lead has its place')
})

test('power is summed from the rig, and a number that cannot be is refused and kept in its field', async ({ page, open }) => {
  await open(`${rig}/rig/power`)
  await expect(page.getByText(/Everything is fed, for about \d/)).toBeVisible()
  const cells = page.getByRole('textbox', { name: 'Cells', exact: true })
  await cells.fill('7')
  await press(cells)
  const margin = page.getByRole('complementary', { name: 'Findings about the rig' })
  await expect(margin).toContainText('Trolley stands 9 V, but the pack gives 10.5 V')
  await expectAccessible(page)
  await cells.fill('0')
  await press(cells)
  await expect(page.getByRole('alert')).toContainText('Must be a whole number from 1 to 100.')
  await expect(cells).toHaveValue('0')
  await page.getByRole('button', { name: 'Put back what was kept' }).click()
  await expect(cells).toHaveValue('7')
  await page.keyboard.press('Control+z')
  await expect(page.getByText(/Everything is fed/)).toBeVisible()
})

test('a copy is added for a team, and says on every part that it has no readings yet', async ({ page, open }) => {
  await open(`${rig}/rig/copies`)
  await expect(page.getByText(/Speed at full power: copy 2 has 742 against 785/)).toBeVisible()
  await page.getByLabel('Team of a new copy').fill('Mussels')
  await page.keyboard.press('Enter')
  await page.getByRole('button', { name: 'copy 4' }).click()
  await expect(page.getByTestId('rate')).toContainText('cannot run on copy 4')
  // It is on a table unless said otherwise, and its page says so; beside a stand-in nothing is measured on it yet.
  await expect(page.getByTestId('copy-kind')).toContainText('Copy 4 is on a table')
  await expect(page.getByRole('group', { name: 'Real copy and stand-in side by side' })).toContainText('not measured on the table yet')
  await page.getByRole('link', { name: /Sense/ }).click()
  await expect(page.getByText(/No readings yet\. Type or paste what the robot on the table read/)).toBeVisible()
  await expect(page.getByTestId('record')).toHaveCount(0)
  await expect(page.getByTestId('live')).toHaveCount(0)
  await expectAccessible(page)
  await page.getByRole('link', { name: /Prove/ }).click()
  // Prove says what is missing and does not offer what would be refused.
  await expect(page.getByRole('button', { name: /Prove with/ })).toBeDisabled()
  await expect(page.getByTestId('cannot-run').first()).toContainText(
    'Tag eye looks at “sleepers” in this scene and knows nothing of it on this copy',
  )
  await page.getByRole('link', { name: /Program/ }).click()
  await expect(page.locator('#line-4')).toBeVisible()
  await expectAccessible(page)
})

test('a tick of the list is not taken back by an older answer that comes late', async ({ server, page, open }) => {
  await open('/rigs/shell-sorter/rig/preflight')
  const tick = page.getByRole('checkbox').first()
  await expect(tick).toBeVisible()
  let late: () => void = () => undefined
  const waits = new Promise<void>((done) => {
    late = done
  })
  let asked = 0
  await page.route(/\/preflight\?/, async (route) => {
    const response = await route.fetch()
    if (++asked === 1) await waits
    await route.fulfill({ response }).catch(() => undefined)
  })
  // Another window's edit: the list is asked for anew.
  const program = `${server.url}/api/rigs/shell-sorter/program`
  const { revision: baseRevision } = (await (await page.request.get(program)).json()) as { revision: number }
  await page.request.post(`${program}/edit`, { data: { act: 'region', line: 0, baseRevision, copy: 1, by: 'another' } })
  await expect.poll(() => asked).toBe(1)
  await tick.press('Space')
  await expect(tick).toBeChecked()
  late()
  await page.waitForTimeout(800)
  await expect(tick).toBeChecked()
})
