import { expect, expectAccessible, rig, test } from './fixtures'

test('a clash is explained, and Chiton assigns a free port', async ({ page, open }) => {
  await open(`${rig}/rig`)
  const margin = page.getByRole('complementary', { name: 'Wiring' })
  await expect(margin).toContainText('Every lead has its place')
  await page.getByRole('button', { name: 'Run Lamp light to front 1' }).press('Enter')
  await expect(margin).toContainText('Tag eye and Lamp are both on front 1 of Deck box: move one of them to a free port.')
  await expect(page.getByRole('link', { name: /1 wiring fault/ })).toBeVisible()
  await expectAccessible(page)
  await page.getByRole('button', { name: 'Let Chiton assign' }).click()
  await expect(margin).toContainText('Every lead has its place')
  await page.getByRole('button', { name: /Horn sound runs to side 1; take it off/ }).click()
  await expect(margin).toContainText('The lead “sound” of Horn goes nowhere')
  await page.keyboard.press('Control+z')
  await expect(margin).toContainText('Every lead has its place')
})
