import { ask, command, expect, scan, takeHandheld, test } from '../lib/floor.mjs'

test('a trolley full is put away on one walk: bin and goods are scanned, a wrong scan stops it', async ({ browser, baseURL }) => {
  const hand = await takeHandheld(browser, baseURL, 'B-002')
  // Three lines stand on the dock, returned to stock there from their bins.
  const lines = []
  for (const sku of ['CB-010', 'CB-050', 'DX-050', 'CB-025', 'CB-100', 'DX-100', 'DX-015']) {
    const { item } = (await ask(hand, `/items?site=1&q=${sku}`))[0]
    const { holdings } = await ask(hand, `/items/${item.id}?site=1`)
    if (lines.length === 3 || holdings.some((h) => h.kind === 'dock')) continue
    const full = holdings.find((h) => h.kind === 'bin' && Number(h.quantity) - Number(h.reserved) >= 3)
    expect(await command(hand, '/transfers', { from_id: full.location_id, to: 'Dock 1', item_id: item.id, quantity: '3' })).toHaveProperty('done')
    lines.push(item)
  }
  await hand.goto('/hand/put-away')
  await hand.getByRole('button', { name: 'Load a trolley' }).click()
  await expect(hand.locator('.job', { hasText: lines[2].description })).toBeVisible()
  for (const item of lines) await scan(hand, item.sku)
  await scan(hand, lines[0].sku)
  await expect(hand.locator('[data-wrong]')).toContainText('is on the trolley already')
  await hand.getByRole('button', { name: 'Walk with 3 lines' }).click()
  await expect(hand.getByText(/Go to, [\d.]+ m in all/)).toBeVisible()
  const id = hand.url().split('/').pop()
  const walk = await ask(hand, `/put-away/walks/${id}`)
  expect(walk.stops.length).toBeGreaterThanOrEqual(3)
  expect(walk.stops.reduce((n, s) => n + Number(s.quantity), 0)).toBe(9)

  const first = walk.stops[0]
  const other = walk.stops.find((s) => s.sku !== first.sku)
  await expect(hand.locator('[data-go]')).toHaveText(first.bin)
  await scan(hand, first.sku)
  await expect(hand.locator('[data-wrong]')).toContainText('There is no bin')
  // A scan that comes while the one before it is looked at waits for its turn, and meets the next question.
  const held = []
  await hand.route('**/api/v1/scan?*', (route) => (held.length ? route.continue() : held.push(route)))
  await scan(hand, first.bin)
  await scan(hand, other.sku)
  await expect.poll(() => held.length).toBe(1)
  await held[0].continue()
  await expect(hand.locator('[data-wrong]')).toContainText(`Into ${first.bin} goes ${first.sku}`)
  await scan(hand, first.sku)
  await expect(hand.getByRole('status')).toContainText(`${first.quantity} of ${first.sku} are in ${first.bin}`)
  expect(await hand.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(412)

  // What is left is found again on any handheld, and goes on, or back to the dock.
  await hand.goto('/hand')
  await hand.getByRole('link', { name: new RegExp(`Trolley ${walk.number}`) }).click()
  const rest = (await ask(hand, `/put-away/walks/${id}`)).stops
  for (const s of rest.slice(0, -1)) {
    await expect(hand.locator('[data-go]')).toHaveText(s.bin)
    await scan(hand, s.bin)
    await expect(hand.getByText('Scan the goods')).toBeVisible()
    await scan(hand, s.sku)
    await expect(hand.getByRole('status')).toContainText(`are in ${s.bin}`)
  }
  await hand.getByRole('button', { name: 'Return the rest to the dock' }).click()
  const last = rest.at(-1)
  await expect(hand.locator('.job', { hasText: last.description })).toBeVisible()
  const waiting = await ask(hand, '/put-away/waiting?site=1')
  expect(waiting.find((w) => w.item_id === last.item_id && w.location === 'Dock 1')).toBeTruthy()
})
