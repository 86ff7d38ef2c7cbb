import { ask, expect, field, fillPurchase, find, press, signOn, test } from '../lib/floor.mjs'

const bought = async (page) => (await ask(page, '/purchase-orders?site=1&list=all&q=TP-B50&limit=200')).orders.length

test('a command whose answers are lost happens once, over presses, a reload and a connection that comes back', async ({ page }) => {
  await signOn(page, 'lead')
  const before = await bought(page)
  const keys = new Set()
  // The server gets each of them and does it; what it answers never comes through.
  await page.route('**/api/v1/purchase-orders', async (route) => {
    if (route.request().method() !== 'POST') return route.continue()
    keys.add(route.request().headers()['idempotency-key'])
    await route.fetch()
    await route.abort('connectionreset')
  })
  await fillPurchase(page)
  for (let reload = 0; reload < 2; reload++) {
    // What was typed is there again after a reload, and goes under the key that it was sent with.
    if (reload) await expect(page.locator('[data-restored]')).toBeVisible()
    await press(page, 'Send the order, 1 line')
    await expect(page.getByText('The server cannot be reached')).toBeVisible()
    await press(page, 'Send the order, 1 line')
    await expect(page.locator('[data-primary]')).toBeEnabled()
    await page.reload()
  }
  expect(keys.size).toBe(1)
  expect(await bought(page)).toBe(before + 1)

  await page.unroute('**/api/v1/purchase-orders')
  await press(page, 'Send the order, 1 line')
  await expect(page.getByRole('heading', { name: /Order P-/ })).toContainText('sent to supplier')
  expect(await bought(page)).toBe(before + 1)

  // It was answered: the same order once more is another one.
  await fillPurchase(page)
  await press(page, 'Send the order, 1 line')
  await expect(page.getByRole('heading', { name: /Order P-/ })).toContainText('sent to supplier')
  expect(await bought(page)).toBe(before + 2)
})

test('a badge does the work of the floor, and more once the password is given', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('button', { name: 'Use a badge and PIN' }).click()
  await page.getByLabel('Badge').fill('B-001')
  await page.getByLabel('PIN').fill('2468')
  await page.getByRole('button', { name: 'Sign on', exact: true }).click()
  await page.locator('[data-station=receive]').waitFor()
  const sold = async () => (await ask(page, '/sales-orders?site=1')).filter((o) => o.reference === 'by badge').length
  await page.goto('/orders/new')
  await find(page, 'Customer', 'copper', 'Copper Lane Playhouse')
  await field(page, "Customer's reference").fill('by badge')
  await find(page, 'Add an item', 'TP-B50', 'TP-B50')
  await page.getByLabel('TP-B50 wanted').fill('2')
  await page.getByRole('button', { name: 'Take the order, on hold' }).click()
  const door = page.getByRole('dialog', { name: 'Lantern Row' })
  await expect(door).toContainText('a badge is good for work on the floor')
  await door.getByRole('button', { name: 'Leave it undone' }).click()
  await expect(door).toHaveCount(0)
  expect(await sold()).toBe(0)

  // What was typed is there still.
  await page.getByRole('button', { name: 'Take the order, on hold' }).click()
  await door.getByLabel('Password').fill('not it')
  await door.getByRole('button', { name: 'Go on' }).click()
  await expect(door.getByRole('alert')).toBeVisible()
  await door.getByLabel('Password').fill('lantern')
  await door.getByRole('button', { name: 'Go on' }).click()
  await expect(page.getByRole('heading', { name: /Order S-/ })).toContainText('on hold')
  expect(await sold()).toBe(1)
})
