import { ask, command, expect, field, find, pick, round, signOn, test } from '../lib/floor.mjs'

/** The other site of the demo, with a dock of it. */
async function other(page) {
  const site = (await ask(page, '/sites')).find((s) => s.id !== 1)
  const [dock] = await ask(page, `/locations?site=${site.id}&kind=dock`)
  return { site, dock }
}

/** Picks all of an order into one carton and packs it, as the floor does. */
async function pack(page, order) {
  const r = await round(page, [order])
  await command(page, `/rounds/${r.id}/start`, {})
  const [label] = await command(page, '/cartons', { site_id: 1, count: 1 })
  await command(page, `/rounds/${r.id}/cartons`, { scan: label.sscc, order_id: order.id })
  for (const s of r.stops) await command(page, `/rounds/${r.id}/pick`, { stop_id: s.id, bin: s.bin, item: s.sku, carton: label.sscc, quantity: s.quantity })
  await command(page, `/rounds/${r.id}/stage`, {})
  await command(page, `/cartons/${label.id}/pack`, {})
}

test('a transfer to another site is written with both ends in sight, shipped, and received there in parts', async ({ page }) => {
  await signOn(page, 'lead')
  const { site, dock } = await other(page)
  await page.goto('/transfers')
  await page.getByRole('link', { name: 'New transfer' }).click()
  await pick(page, 'To site', site.name)
  await field(page, 'Reason').fill('for the season')
  await find(page, 'Add an item', 'DX-050')
  await page.getByLabel('DX-050 quantity').fill('3')
  const figures = (await ask(page, '/items?site=1&q=DX-050'))[0].figures
  const line = page.locator('[data-lines] tbody tr').filter({ hasText: 'DX-050' })
  await expect(line).toContainText(String(Number(figures.free) - 3))
  await page.getByRole('button', { name: 'Transfer it and release it' }).click()
  await expect(page.getByRole('heading', { name: /Transfer T-/ })).toContainText('released')
  const id = Number(new URL(page.url()).pathname.split('/').pop())

  // The floor ships it as it ships anybody's; from then on it is in transit.
  await pack(page, await ask(page, `/transfer-orders/${id}`))
  const sent = await command(page, '/shipments', { order_id: id })
  await expect(page.locator('[data-figures]')).toContainText('In transit 3')
  await expect(page.locator('[data-halves]')).toContainText(sent.number)
  await expect(page.getByRole('button', { name: 'Receive it' })).toHaveCount(0)
  await page.goto('/transfers')
  await expect(page.locator('[data-transit]')).toContainText(sent.number)

  // At the other site it is received, first a part of it.
  await pick(page, 'Site', site.name)
  await page.goto(`/transfers/${id}`)
  await page.getByRole('button', { name: 'Receive it' }).click()
  await expect(page).toHaveURL(/\/receive\/arrival\/\d+/)
  await page.getByLabel('DX-050 here now').fill('4')
  await expect(page.locator('[data-problem]')).toContainText('at most')
  await page.getByLabel('DX-050 here now').fill('2')
  await page.getByRole('button', { name: 'Receive 2' }).click()
  await expect(page.getByRole('status').filter({ hasText: 'Received' })).toBeVisible()
  await page.goto(`/transfers/${id}`)
  await expect(page.locator('[data-figures]')).toContainText('In transit 1')
  await expect(page.getByRole('heading', { name: /Transfer T-/ })).toContainText('partly received')
  await page.getByRole('button', { name: 'Go on receiving' }).click()
  await page.getByLabel('DX-050 here now').fill('1')
  await page.getByRole('button', { name: 'Receive 1' }).click()
  await expect.poll(async () => (await ask(page, `/transfer-orders/${id}`)).state).toBe('received')
  expect(dock.code).toBeTruthy()
})
