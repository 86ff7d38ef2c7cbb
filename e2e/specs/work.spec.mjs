import { ask, command, expect, fillPurchase, find, lookInto, onward, order, press, round, scan, signOn, tabTo, takeHandheld, test } from '../lib/floor.mjs'

test('a purchase order is received with the keyboard alone', async ({ page }) => {
  await signOn(page, 'lead')
  await fillPurchase(page)
  await press(page, 'Send the order, 1 line')
  await expect(page.getByRole('heading', { name: /Order P-/ })).toContainText('sent to supplier')
  await expect(page.locator('tbody')).toContainText('48')
  await page.getByRole('button', { name: /Open an arrival/ }).focus()
  await page.keyboard.press('Enter')
  await page.getByLabel('TP-B50 here now').focus()
  await page.keyboard.type('47')
  await press(page, 'Receive 47')
  await expect(page.getByRole('status').filter({ hasText: 'Received' })).toBeVisible()
  await expect(page.locator('[data-arrival]')).toContainText('47')
})

test('a draft is sent to its supplier later, and a stale page is refused with what changed', async ({ browser, baseURL }) => {
  const open = async () => {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, baseURL })).newPage()
    await signOn(page, 'lead')
    return page
  }
  const [one, two] = [await open(), await open()]
  const supplier = (await ask(one, '/parties?kind=supplier&q=pennard'))[0]
  const item = (await ask(one, '/items?site=1&q=CB-050'))[0].item
  const draft = await command(one, '/purchase-orders', { supplier_id: supplier.id, site_id: 1, expected_on: '2027-01-15', lines: [{ item_id: item.id, quantity: '5' }] })
  expect(draft.state).toBe('draft')
  await one.goto(`/receive/order/${draft.id}`)
  await one.getByRole('button', { name: /Send P-/ }).waitFor()
  await one.route('**/api/v1/events', (r) => r.abort())
  await two.goto(`/receive/order/${draft.id}`)
  await two.getByRole('button', { name: /Send P-/ }).click()
  await expect(two.getByRole('heading', { name: /Order P-/ })).toContainText('sent to supplier')
  const refused = await command(one, `/purchase-orders/${draft.id}/send-to-supplier`, { version: draft.version })
  expect(refused).toMatchObject({ code: 'stale', field: 'version' })
  expect(refused.detail).toContain('Ines Calloway sent it to the supplier')
})

test('orders on hold are released in bulk, and the lamp tells', async ({ page }) => {
  await signOn(page, 'office')
  await page.goto('/orders')
  const boxes = page.locator('tr.row').getByRole('checkbox')
  await expect(boxes.first()).toBeVisible()
  const held = await boxes.count()
  await boxes.nth(0).check()
  await boxes.nth(1).check()
  await page.getByRole('button', { name: 'Release 2 orders' }).click()
  await expect(page.getByRole('status').filter({ hasText: 'released' })).toBeVisible()
  await expect(boxes).toHaveCount(held - 2)
})

/** Scans the lot of a stop where its bin holds several and it is asked for. */
async function scanLot(hand, stop) {
  await expect(hand.getByText(/Scan (carton|the lot)/)).toBeVisible()
  if (await hand.getByText('Scan the lot').count()) await scan(hand, stop.lot)
}

test('two orders on one trolley: each its carton, a wrong one, one is full, a bin is short, and a unit by its serial', async ({ browser, baseURL, page }) => {
  await signOn(page, 'lead')
  const customer = { customer_id: (await ask(page, '/parties?kind=customer&q=gasworks'))[0].id }
  const orders = [await order(page, [['SB-900', '3'], ['DX-050', '2'], ['DM-012', '1']], customer), await order(page, [['SB-900', '2']], customer)]
  const r = await round(page, orders)
  const hand = await takeHandheld(browser, baseURL, 'B-004')
  await hand.goto(`/hand/round/${r.id}`)
  await hand.getByRole('button', { name: 'Start walking' }).click()
  const blank = (await ask(hand, '/cartons?site=1&state=blank')).slice(-3)
  for (const [i, o] of orders.entries()) {
    await expect(hand.locator('.bin')).toHaveText(o.number)
    await scan(hand, blank[i].sscc)
  }
  const cartons = { [orders[0].id]: blank[0].sscc, [orders[1].id]: blank[1].sscc }
  const stops = (await ask(hand, `/rounds/${r.id}`)).stops
  // The first of what is counted; the unit comes in its turn.
  const first = stops.find((s) => s.tracking !== 'serial')
  while ((await hand.locator('[data-go]').textContent()) !== first.bin) {
    await hand.getByRole('button', { name: 'More' }).click()
    await hand.getByRole('button', { name: 'Skip for now' }).click()
    await hand.getByRole('button', { name: 'More' }).click()
  }
  await expect(hand.locator('[data-go]')).toHaveText(first.bin)
  await scan(hand, first.bin)
  await scan(hand, first.sku)
  await scanLot(hand, first)
  await scan(hand, cartons[orders.find((o) => o.id !== first.order_id).id])
  await expect(hand.locator('[data-wrong]')).toContainText('You scanned carton')
  await scan(hand, cartons[first.order_id])
  await hand.locator('[data-quantity]').fill('1')
  await expect(hand.locator('[data-rest]')).toContainText(/comes? next/)
  await hand.locator('[data-press]').click()

  // One is in: the carton is full, another is opened for the same order. Bin and item are scanned already.
  await expect(hand.getByText('Scan carton A')).toBeVisible()
  await hand.getByRole('button', { name: 'Carton is full' }).click()
  await scan(hand, blank[2].sscc)
  await expect(hand.locator('.ct')).toContainText('C')

  // And the bin holds none of the rest.
  await hand.getByRole('button', { name: 'Not enough here' }).click()
  await hand.getByLabel(/How many are there/).fill('0')
  await hand.getByRole('button', { name: 'Only 0 here' }).click()
  await expect(hand.getByLabel(/How many are there/)).toHaveCount(0)
  const after = await ask(hand, `/rounds/${r.id}`)
  expect(after.stops.find((s) => s.id === first.id)).toMatchObject({ picked: '1', state: 'short' })
  expect(after.cartons.map((c) => c.letter)).toEqual(['A', 'B', 'C'])

  // The rest, the unit among it: another serial stops it, its own goes into the carton.
  cartons[first.order_id] = blank[2].sscc
  const unit = after.stops.find((s) => s.tracking === 'serial')
  for (;;) {
    const bin = hand.locator('[data-go]')
    await expect(bin.or(hand.getByRole('heading', { name: 'All stops made' })).first()).toBeVisible()
    if (!(await bin.count())) break
    const code = await bin.textContent()
    const wanted = await hand.locator('.it').textContent()
    const s = (await ask(hand, `/rounds/${r.id}`)).stops.find((x) => x.state === 'open' && x.bin === code && wanted.includes(x.sku))
    await scan(hand, s.bin)
    await scan(hand, s.sku)
    if (s.tracking === 'serial') {
      await expect(hand.getByText('Scan the serial of each, 0 of 1')).toBeVisible()
      await scan(hand, 'H0099')
      await expect(hand.locator('[data-wrong]')).toContainText('no serial H0099 of DM-012')
      await scan(hand, s.serials[0])
    }
    await scanLot(hand, s)
    await scan(hand, cartons[s.order_id])
    const left = (await ask(hand, `/rounds/${r.id}`)).done_count
    await hand.locator('[data-press]').click()
    await expect.poll(async () => (await ask(hand, `/rounds/${r.id}`)).done_count).toBeGreaterThan(left)
    await lookInto(hand, onward(hand))
  }
  await hand.getByRole('button', { name: 'Bring to the bench' }).click()
  await expect(hand.getByRole('heading', { name: 'At the bench' })).toBeVisible()
  const boxes = (await ask(page, '/cartons?site=1&state=at_bench')).filter((c) => c.round === r.number)
  const belongs = { A: orders[0].number, B: orders[1].number, C: first.order }
  expect(boxes.length).toBeGreaterThan(1)
  for (const box of boxes) expect(box.order).toBe(belongs[box.letter])
  expect(boxes.flatMap((c) => c.contents).find((x) => x.sku === unit.sku).serials).toEqual([unit.serials[0]])
  await page.goto('/')
  await expect(page.getByRole('link', { name: `Short at ${first.bin}` })).toBeVisible()
})

test('a reserved lot is defended by its order when somebody wants to move it away', async ({ page }) => {
  await signOn(page, 'lead')
  const o = await order(page, [['CL-GZE', '1']])
  const r = await round(page, [o])
  const stop = (await ask(page, `/rounds/${r.id}`)).stops[0]
  const holding = (await ask(page, `/locations/${stop.location_id}`)).holdings.find((h) => h.item_id === stop.item_id && h.lot_id === stop.lot_id)
  await page.goto('/transfers/move')
  await page.getByLabel('From bin').fill(stop.bin)
  await page.keyboard.press('Enter')
  await page.locator('nav button', { hasText: stop.sku }).first().click()
  await page.getByLabel(/How many/).fill(holding.quantity)
  const empty = (await ask(page, '/floor?site=1')).bins.find((b) => b.code.startsWith('E-') && Number(b.units) === 0)
  await page.getByLabel('To bin').fill(empty.code)
  // It is said before anything is pressed, and what is not reserved goes at once.
  await expect(page.locator('[data-problem]')).toContainText(o.number)
  await expect(page.locator('[data-problem]')).toContainText('reserved')
  await expect(page.locator('[data-primary]')).toBeDisabled()
  await page.getByLabel(/How many/).fill('1')
  await press(page, 'Move 1')
  await expect(page.getByRole('status').filter({ hasText: 'Moved 1' })).toBeVisible()
})

test('a round is planned, its carton packed and its order shipped with the keyboard alone', async ({ page }) => {
  await signOn(page, 'lead')
  const o = await order(page, [['TP-W50', '3']])
  await page.keyboard.press('Alt+5')
  const row = page.locator('[data-open] tr.row', { hasText: o.number })
  await expect(row).toBeVisible()
  await tabTo(page, page.locator('[data-open] tr.row').first())
  // The arrows walk the rows, Space ticks one.
  for (let i = 0; i < 60 && !(await row.evaluate((e) => e === document.activeElement)); i++) await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Space')
  await tabTo(page, page.getByRole('button', { name: 'Plan one round, stop by stop' }))
  await page.keyboard.press('Enter')
  await press(page, 'Release')
  await expect(page.getByRole('heading', { name: /^Round R-/ })).toBeVisible()
  await tabTo(page, page.getByRole('button', { name: 'Confirm from paper' }))
  await page.keyboard.press('Enter')
  await tabTo(page, page.getByRole('button', { name: /^Confirm R-/ }))
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: /^Round R-/ })).toContainText('done')

  await page.keyboard.press('Alt+6')
  await tabTo(page, page.locator('nav a', { hasText: o.number }))
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: /^Carton/ })).toBeVisible()
  await press(page, 'Close carton')
  await expect(page.getByRole('status').filter({ hasText: 'stands at the gate' })).toBeVisible()

  await page.keyboard.press('Alt+7')
  await tabTo(page, page.locator('nav button', { hasText: o.number }))
  await page.keyboard.press('Enter')
  await press(page, 'Ship 1 carton, 3 units')
  await expect(page.getByRole('heading', { name: /Shipment D-/ })).toBeVisible()
  expect(await ask(page, `/sales-orders/${o.id}`)).toMatchObject({ state: 'shipped' })
})

test('what is of one lot fills a carton, and the rest of the stop goes into another, of another lot', async ({ browser, baseURL, page }) => {
  await signOn(page, 'lead')
  const o = await order(page, [['SL-001', '3']])
  const r = await round(page, [o])
  const hand = await takeHandheld(browser, baseURL, 'B-004')
  await hand.goto(`/hand/round/${r.id}`)
  await hand.getByRole('button', { name: 'Start walking' }).click()
  const blank = (await ask(hand, '/cartons?site=1&state=blank')).slice(-3)
  await expect(hand.getByText('Scan a blank carton label')).toBeVisible()
  await scan(hand, blank[0].sscc)
  const [s] = (await ask(hand, `/rounds/${r.id}`)).stops
  await scan(hand, s.bin)
  await scan(hand, 'SL-001')
  // The item itself is no lot of it.
  await expect(hand.getByText('Scan the lot')).toBeVisible()
  await scan(hand, 'SL-001')
  await expect(hand.locator('[data-wrong]')).toContainText('is the item SL-001 itself')
  await scan(hand, 'SPIDER-7')
  await scan(hand, blank[0].sscc)
  await expect(hand.locator('[data-press]')).toHaveText('Take 3, into carton A')
  await hand.locator('[data-quantity]').fill('2')
  await expect(hand.locator('[data-rest]')).toHaveText('1 more comes next, into this carton or another.')
  await hand.locator('[data-press]').click()
  await expect(hand.getByText('Scan the item')).toBeVisible()
  await hand.getByRole('button', { name: 'Carton is full' }).click()
  await scan(hand, blank[1].sscc)
  await scan(hand, 'SL-001')
  await scan(hand, 'SPIDER-8')
  await scan(hand, blank[1].sscc)
  await expect(hand.locator('[data-press]')).toHaveText('Take 1, into carton B')
  // Full when it was scanned already: what is on the screen goes into the carton that is asked for next.
  await hand.getByRole('button', { name: 'Carton is full' }).click()
  await scan(hand, blank[2].sscc)
  await expect(hand.getByText('Scan carton C')).toBeVisible()
  await scan(hand, blank[2].sscc)
  await expect(hand.locator('[data-press]')).toHaveText('Take 1, into carton C')
  await hand.locator('[data-press]').click()
  await lookInto(hand)
  await hand.getByRole('button', { name: 'Bring to the bench' }).click()
  await expect(hand.getByRole('heading', { name: 'At the bench' })).toBeVisible()
  const boxes = (await ask(page, '/cartons?site=1&state=at_bench')).filter((c) => c.order === o.number)
  expect(boxes.map((c) => c.contents.map((x) => `${x.quantity} of ${x.lot}`).join()).sort()).toEqual([
    '1 of SPIDER-8',
    '2 of SPIDER-7',
  ])
})

test('fewer units than wanted are taken with "only these", and the rest after them', async ({ browser, baseURL, page }) => {
  await signOn(page, 'lead')
  const r = await round(page, [await order(page, [['DM-012', '2']])])
  const hand = await takeHandheld(browser, baseURL, 'B-004')
  await hand.goto(`/hand/round/${r.id}`)
  await hand.getByRole('button', { name: 'Start walking' }).click()
  const [blank] = await ask(hand, '/cartons?site=1&state=blank')
  await expect(hand.getByText('Scan a blank carton label')).toBeVisible()
  await scan(hand, blank.sscc)
  const [s] = (await ask(hand, `/rounds/${r.id}`)).stops
  for (const text of [s.bin, s.sku, s.serials[0]]) await scan(hand, text)
  await expect(hand.getByText('Scan the serial of each, 1 of 2')).toBeVisible()
  await hand.getByRole('button', { name: 'Only these' }).click()
  await scan(hand, blank.sscc)
  await expect(hand.locator('[data-press]')).toHaveText('Take 1, into carton A')
  await hand.locator('[data-press]').click()
  // Bin and item are scanned; the next unit is asked for.
  await expect(hand.getByText('Scan the serial of each, 0 of 1')).toBeVisible()
  await scan(hand, s.serials[1])
  await scan(hand, blank.sscc)
  await hand.locator('[data-press]').click()
  await lookInto(hand)
})
