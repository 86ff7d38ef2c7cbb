import { ask, command, expect, press, signOn, test } from '../lib/floor.mjs'

/** An order for some items by SKU, placed, with an arrival open for it. */
async function arrivalOf(page, lines) {
  const supplier = (await ask(page, '/parties?kind=supplier&q=hallow'))[0]
  const items = await Promise.all(lines.map(async ([sku, quantity]) => ({ item_id: (await ask(page, `/items?site=1&q=${sku}`))[0].item.id, quantity })))
  const order = await command(page, '/purchase-orders', { supplier_id: supplier.id, site_id: 1, expected_on: '2027-01-15', place: true, lines: items })
  const [dock] = await ask(page, '/places?site=1&kind=dock')
  return { order, arrival: await command(page, '/arrivals', { order_id: order.id, dock_id: dock.id }) }
}

test('more than the allowance is refused with the most that may come, until a lead says why', async ({ browser, baseURL, page }) => {
  await signOn(page, 'lead')
  const { order, arrival } = await arrivalOf(page, [['TP-B50', '100'], ['CL-BLK', '40']])
  const other = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, baseURL })).newPage()
  await signOn(other, 'receiver')
  await other.goto(`/receive/arrival/${arrival.id}`)
  await expect(other.locator('[data-arrival]')).toContainText('95 to 105')
  await other.getByLabel('TP-B50 here now').fill('106')
  await expect(other.locator('[data-problem]')).toContainText('at most 105 may still come')
  await expect(other.locator('[data-primary]')).toBeDisabled()
  await expect(other.getByLabel('TP-B50 accepted because')).toHaveCount(0)

  // A part first; what came before counts.
  await other.getByLabel('TP-B50 here now').fill('60')
  await expect(other.getByText('60 of 100, 40 open')).toBeVisible()
  await press(other, 'Book in 60')
  await expect(other.getByRole('status').filter({ hasText: 'Booked in' })).toBeVisible()

  await page.goto(`/receive/arrival/${arrival.id}`)
  await page.getByLabel('TP-B50 here now').fill('46')
  await expect(page.locator('[data-problem]')).toContainText('at most 45 may still come')
  await page.getByLabel('TP-B50 accepted because').fill('A whole case; agreed by phone')
  await expect(page.getByText('106 of 100, closes')).toBeVisible()
  await press(page, 'Book in 46')
  await expect(page.locator('[data-bookings]')).toContainText('46')
  const item = order.lines[0].item_id
  await page.goto(`/stock/item/${item}`)
  await expect(page.locator('[data-trail] tbody tr').first()).toContainText('accepted: A whole case; agreed by phone')

  // The cloth is short within its allowance: the line closes, and says what is cancelled.
  await page.goto(`/receive/arrival/${arrival.id}`)
  await page.getByLabel('CL-BLK here now').fill('38.5')
  await page.getByLabel('CL-BLK lot 1', { exact: true }).fill('B-77')
  await expect(page.getByText('38.5 of 40, closes; 1.5 cancelled')).toBeVisible()
  await press(page, 'Book in 38.5')
  await page.goto(`/receive/order/${order.id}`)
  await expect(page.getByRole('heading', { name: order.number })).toContainText('all in')
})

test('a booking is taken back while the goods are there, and the trail shows both', async ({ page }) => {
  await signOn(page, 'lead')
  const { arrival } = await arrivalOf(page, [['TP-HAZ', '50']])
  await page.goto(`/receive/arrival/${arrival.id}`)
  await page.getByLabel('TP-HAZ here now').fill('30')
  await press(page, 'Book in 30')
  const row = page.locator('[data-bookings] tr', { hasText: 'TP-HAZ' })
  await row.getByRole('button', { name: 'take back' }).click()
  const undo = page.getByRole('button', { name: 'Take 30 of TP-HAZ back' })
  await undo.click()
  await expect(page.getByRole('alert')).toContainText('Write in a few words why')
  await page.getByLabel('Why it is taken back').fill('Booked on the wrong order')
  await undo.click()
  await expect(row).toContainText('taken back: Booked on the wrong order')
  const lines = (await ask(page, `/items/${arrival.lines[0].item_id}/trail?site=1`)).lines
  expect(lines.slice(0, 2).map((l) => [l.kind, l.delta])).toEqual([['take back', '-30'], ['book in', '30']])
})

test('a bill above what was received is stopped; one that matches is kept', async ({ page }) => {
  await signOn(page, 'lead')
  const { order, arrival } = await arrivalOf(page, [['TP-W50', '100']])
  await command(page, `/arrivals/${arrival.id}/book-in`, { version: arrival.version, lines: [{ line_id: arrival.lines[0].id, quantity: '96' }] })
  await page.goto('/receive')
  await page.getByLabel('Which orders').selectOption('in, not billed')
  await page.locator('nav a', { hasText: order.number }).click()
  await page.getByRole('button', { name: 'Enter a bill' }).click()
  await page.getByLabel('Bill number').fill(`B-${order.number}`)
  const now = page.getByLabel('TP-W50 billed now')
  await now.fill('100')
  await page.getByRole('button', { name: 'Keep the bill' }).click()
  await expect(page.getByRole('alert')).toContainText('at most 96 can be billed (100 ordered, 96 received, 0 billed before)')
  await expect(now).toHaveAttribute('aria-invalid', 'true')
  await now.fill('96')
  await page.getByLabel('TP-W50 price billed').fill('12')
  await page.getByRole('button', { name: 'Keep the bill' }).click()
  await expect(page.getByRole('alert')).toContainText('9.8 was agreed')
  await page.getByLabel('TP-W50 price billed').fill('9.8')
  await page.getByRole('button', { name: 'Keep the bill' }).click()
  await expect(page.getByText('entered by')).toBeVisible()
  await expect(page.locator('nav a', { hasText: order.number })).toHaveCount(0)
  await page.getByRole('button', { name: 'Close the order' }).click()
  await page.getByRole('button', { name: 'Close it for good' }).click()
  await expect(page.getByRole('heading', { name: order.number })).toContainText('closed')
})
