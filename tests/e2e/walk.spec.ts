import type { Locator, Page } from '@playwright/test'
import { expect, expectAccessible, test } from './fixtures'

// A two-wheel robot from nothing, on somebody's table, as somebody new would do it.
type Hands = {
  press: (what: Locator) => Promise<void>
  type: (where: Locator, text: string) => Promise<void>
  pick: (where: Locator, option: string) => Promise<void>
}

const keyboard = (page: Page): Hands => ({
  press: async (what) => {
    await what.focus()
    await expect(what).toBeFocused()
    await page.keyboard.press('Enter')
  },
  type: async (where, text) => {
    await where.focus()
    await page.keyboard.press('Control+a')
    await page.keyboard.insertText(text)
    await page.keyboard.press('Tab')
  },
  pick: async (where, option) => {
    await where.focus()
    await where.selectOption(option)
  },
})

const touch = (page: Page): Hands => ({
  press: (what) => what.tap(),
  type: async (where, text) => {
    await where.tap()
    await where.fill(text)
  },
  pick: async (where, option) => {
    await where.tap()
    await where.selectOption(option)
  },
})

async function walk(page: Page, hands: Hands, open: (path: string) => Promise<void>) {
  const { press, type, pick } = hands
  const button = (name: string | RegExp) => page.getByRole('button', typeof name === 'string' ? { name, exact: true } : { name })
  const box = (name: string) => page.getByRole('textbox', { name, exact: true })
  await open('/')
  await press(button('New rig'))
  await type(box('Name'), 'Kelp rover')
  await page.getByRole('radio', { name: /nothing yet/ }).check()
  await press(button('Make it'))
  await expect(page).toHaveURL(/kelp-rover\/rig\/describe/)

  // Described, one thing after the other: what is begun is kept when the next one is begun.
  const add = async (list: string, kind: string, name: string) => {
    await pick(page.getByLabel(list, { exact: true }), kind)
    await type(box('Name'), name)
  }
  await add('Add a controller', 'six sockets', 'Rover box')
  await add('Add an actuator', 'regulatedMotor', 'Left wheel')
  await add('Add an actuator', 'regulatedMotor', 'Right wheel')
  await add('Add an actuator', 'regulatedMotor', 'Jaw motor')
  await add('Add a sensor', 'distance', 'Range')
  await type(page.getByLabel('Zones, separated by commas'), 'near, middle, far')
  await type(box('Blind nearer than in mm'), '30')
  await add('Add a sensor', 'touch', 'Bumper')
  await add('Add a mechanism', 'twoWheelDrive', 'Drive')
  // Left and right are found by their names.
  await expect(page.getByLabel('Left motor')).toHaveValue('Left wheel')
  await expect(page.getByLabel('Right motor')).toHaveValue('Right wheel')
  await add('Add a mechanism', 'gripper', 'Jaws')
  await expect(page.getByRole('checkbox', { name: 'Jaw motor' })).toBeChecked()
  await type(box('Travel begins at in motor deg'), '0')
  await type(box('Travel ends at in motor deg'), '170')
  await press(button('Keep'))
  for (const name of ['Rover box', 'Left wheel', 'Right wheel', 'Jaw motor', 'Range', 'Bumper', 'Drive', 'Jaws'])
    await expect(button(new RegExp(`^${name}`))).toBeVisible()
  await expect(page.getByText('Not kept yet')).toHaveCount(0)
  await expectAccessible(page)

  // Wired.
  await press(page.getByRole('link', { name: 'Port map' }))
  await press(button('Let Chiton assign'))
  await expect(page.getByRole('complementary', { name: 'Findings about the rig' })).toContainText('Every lead has its place')

  // It stands on a table.
  await press(page.locator('.plate', { hasText: 'Sense' }))
  await press(button('Add the real one'))
  await expect(page.getByTestId('copy-kind')).toContainText('is on a table')

  // Its range, from what was written down: one is in centimetres, one far off.
  const paste = async (zone: string, text: string) => {
    await press(button('Paste or type'))
    await pick(page.getByLabel('Into zone'), zone)
    await type(page.getByRole('dialog').getByRole('textbox', { name: 'Readings' }), text)
    await press(button('Take them in'))
  }
  await paste('near', '82 mm\n85\n83\n8.4\n86\n84')
  await expect(page.getByRole('dialog').getByRole('alert')).toContainText(/8\.4/)
  await type(page.getByRole('dialog').getByRole('textbox', { name: 'Readings' }), '82\n85\n83\n8.4 cm\n86\n84')
  await press(button('Take them in'))
  await expect(page.getByRole('dialog')).toBeHidden()
  await paste('middle', '300\n303\n299\n301\n1460\n302\n300\n298\n301\n300')
  await expect(page.getByRole('dialog')).toBeHidden()
  await paste('far', '900\n905\n898\n903\n899\n901\n897\n904\n902\n900')
  await expect(page.getByRole('dialog')).toBeHidden()
  await expect(page.locator('main')).toContainText(/1460/)
  await expect(page.locator('main')).not.toContainText('shade it')
  await press(button('Set 1460 aside'))
  await type(page.getByRole('dialog').getByRole('textbox'), 'somebody walked by')
  await press(page.getByRole('dialog').getByRole('button', { name: /^Set/ }))
  await expect(page.getByRole('dialog')).toBeHidden()
  await press(button('Take them from the readings'))
  // What was set aside does not stretch the middle: its end lies halfway between 303 and 897.
  await expect(box('middle to, in mm')).toHaveValue('600')
  await expectAccessible(page)

  // Its wheel, by five trials on the table.
  await press(page.locator('.plate', { hasText: 'Move' }))
  await press(page.getByRole('link', { name: 'Trials', exact: true }))
  const straight = page.getByTestId('motion-straight')
  for (const [i, mm] of ['781', '784', '779', '783', '782'].entries()) {
    await type(straight.getByLabel('What it did, in mm'), mm)
    await press(straight.getByRole('button', { name: 'Keep this trial' }))
    await expect(straight.locator('summary')).toContainText(i === 0 ? 'The trial on the table' : `The ${i + 1} trials on the table`)
  }
  await press(straight.getByRole('button', { name: /^Use 5\d\.\d+ mm/ }))
  await expect(straight).toContainText('measured, 5 trials on the table')

  // And a chain of moves.
  await press(page.getByRole('link', { name: 'Chain of moves' }))
  await expect(page.locator('main')).toContainText(/of the ends lie|of 100/)
  await expectAccessible(page)
}

test('a robot from nothing to a chain of moves, by keyboard', async ({ page, open }) => {
  test.setTimeout(240_000)
  await walk(page, keyboard(page), open)
})

test.describe('by touch', () => {
  test.use({ hasTouch: true, viewport: { width: 768, height: 1024 } })
  test('a robot from nothing to a chain of moves, by touch on a tablet', async ({ page, open }) => {
    test.setTimeout(240_000)
    await walk(page, touch(page), open)
  })
})
