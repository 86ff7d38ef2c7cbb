import { ask, command, expect, order, press, round, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'

const inThree = new Date(Date.now() + 3 * 864e5).toISOString().slice(0, 10)

/** Opens a blank carton for the one order of a round that is walked in the hand. */
async function openCarton(hand, at = -1) {
  const blank = (await ask(hand, '/cartons?site=1&state=blank')).at(at)
  await scan(hand, blank.sscc)
  await expect(hand.locator('.ct')).toContainText('A')
  return blank.sscc
}

async function scanStop(hand, stop, sscc) {
  await expect(hand.locator('[data-go]')).toHaveText(stop.bin)
  await scan(hand, stop.bin)
  await expect(hand.getByText('Scan the item')).toBeVisible()
  await scan(hand, stop.sku)
  await expect(hand.getByText('Scan carton A')).toBeVisible()
  await scan(hand, sscc)
  await hand.locator('[data-press]').click()
}

test('many lines at once and a charge make a quote, which becomes an order', async ({ page }) => {
  await signOn(page, 'office')
  await page.goto('/orders/new')
  await page.getByLabel('Customer').fill('moon')
  await page.locator('.ant-select-item-option', { hasText: 'Moonrake Touring' }).click()
  await page.getByRole('button', { name: 'Many at once' }).click()
  await page.getByLabel('Words or SKU').fill('data cable')
  await page.getByLabel('DX-015 how many').fill('3')
  await page.getByLabel('DX-100 how many').fill('2')
  await page.getByRole('button', { name: 'Add 2 lines' }).click()
  await page.getByRole('button', { name: 'A charge' }).click()
  await page.getByLabel('What line 3 is').fill('Carriage')
  await page.getByLabel('charge price').fill('15')
  await page.getByRole('button', { name: 'Write a quote until' }).click()
  await expect(page.getByRole('heading', { name: /Quote S-/ })).toBeVisible()
  await expect(page.locator('[data-order]')).toContainText('Carriage')
  await press(page, 'Make an order of')
  await expect(page.getByRole('heading', { name: /Order S-/ })).toContainText('held')
  await page.getByRole('button', { name: 'Change it' }).click()
  await page.getByLabel('DX-015 wanted').fill('5')
  await expect(page.getByLabel('What line 3 is')).toHaveValue('Carriage')
  await press(page, 'Change S-')
  await expect(page.locator('[data-order] tr', { hasText: 'DX-015' })).toContainText('5')
})

test('a customer who owes raises a question, and the lead\'s answer is kept', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/orders/new')
  await page.getByLabel('Customer').fill('tin')
  await page.locator('.ant-select-item-option', { hasText: 'Tin Tabernacle Players' }).click()
  await page.getByLabel('Add an item').fill('TP-G24')
  await page.locator('.ant-select-item-option', { hasText: 'TP-G24' }).click()
  await page.getByLabel('TP-G24 wanted').fill('1')
  await press(page, 'Take the order and let it go')
  await expect(page.getByRole('alert')).toContainText('owes 412.50 beyond its time')
  await page.getByLabel('Take it all the same, because').fill('They pay on collection')
  await press(page, 'Take the order and let it go')
  await expect(page.getByText('Taken though the customer owes, by Ines Calloway: They pay on collection.')).toBeVisible()
})

test('exact stock is pinned beside a line, stands on the list of pins, and is let loose', async ({ page }) => {
  await signOn(page, 'office')
  await page.goto('/orders')
  const o = await order(page, [['RS-200', '2']])
  await page.goto(`/orders/${o.id}`)
  await page.getByRole('button', { name: 'Pin stock to line 1' }).click()
  const offered = page.locator('[data-pinning] tbody tr')
  await expect(offered.first()).toBeVisible()
  const bin = await offered.first().locator('td').first().textContent()
  await offered.first().getByRole('textbox').fill('3')
  await page.getByRole('button', { name: 'Pin it to this line' }).click()
  await expect(page.getByRole('alert')).toContainText('wants 2 more')
  await offered.first().getByRole('textbox').fill('2')
  await page.getByRole('button', { name: 'Pin it to this line' }).click()
  await expect(page.locator('[data-pins]')).toContainText(bin.trim())
  await page.goto('/orders/pins')
  const row = page.locator('[data-pins] tr', { hasText: o.number })
  await expect(row).toContainText('a round to come')
  await row.getByRole('button', { name: 'let loose' }).click()
  await expect(row).toHaveCount(0)
})

test('what an order lacks is bought in exactly, and pinned to it when it comes', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/orders')
  const item = (await ask(page, '/items?site=1&q=WS-100'))[0]
  const wanted = Math.max(0, Number(item.figures.free)) + 7
  const o = await order(page, [['WS-100', String(wanted)]], { wanted_on: inThree })
  await page.goto(`/orders/${o.id}`)
  await page.getByRole('button', { name: 'What it lacks' }).click()
  await expect(page.locator('[data-cover] tr', { hasText: 'WS-100' })).toContainText('Tarn & Tackle Rigging')
  await page.getByRole('button', { name: /Draft 1 purchase order/ }).click()
  await expect(page.getByRole('status').filter({ hasText: 'drafted' })).toBeVisible()
  const cover = (await ask(page, '/purchase-orders?site=1&list=open&q=WS-100')).orders.at(-1)
  const bought = await ask(page, `/purchase-orders/${cover.id}`)
  const line = bought.lines.find((l) => l.covers_order === o.number)
  expect(Number(line.quantity)).toBe(7 + Math.max(0, -Number(item.figures.free)) - Math.max(0, -Number(item.figures.free)))
  await command(page, `/purchase-orders/${cover.id}/place`, { version: bought.version })
  const a = await command(page, '/arrivals', { order_ids: [cover.id], dock_id: (await ask(page, '/floor?site=1')).places.find((p) => p.code === 'Dock 1').id })
  await page.goto(`/receive/arrival/${a.id}`)
  await command(page, `/arrivals/${a.id}/book-in`, { version: a.version, lines: [{ line_id: line.id, quantity: '7', lots: [{ code: 'WS-COVER', quantity: '7' }] }] })
  await page.goto(`/orders/${o.id}`)
  await expect(page.locator('[data-order] tr', { hasText: 'WS-100' })).not.toContainText('bought in for it')
  const pinned = (await ask(page, `/sales-orders/${o.id}`)).lines[0].pinned
  const inspected = (await ask(page, '/inspections?site=1')).filter((x) => x.sku === 'WS-100' && x.lot === 'WS-COVER').reduce((n, x) => n + Number(x.quantity), 0)
  expect(Number(pinned)).toBe(7 - inspected)
})

test('a wave of several orders is planned, looked over and let go', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/pick')
  const orders = []
  for (const [sku, n] of [['DX-015', '2'], ['TP-Y24', '1'], ['DX-015', '1'], ['TP-Y24', '2']]) orders.push(await order(page, [[sku, n]], { wanted_on: inThree }))
  await page.reload()
  for (const o of orders) await page.getByLabel(`Tick ${o.number}`).check()
  await page.getByLabel('Cartons a trolley').fill('2')
  await page.getByRole('button', { name: 'Plan rounds for 4 orders' }).click()
  const rows = page.locator('[data-wave] tbody tr')
  await expect(rows).toHaveCount(2)
  await expect(page.getByText('% less walk')).toBeVisible()
  await press(page, 'Let 2 rounds go')
  await expect(page.getByRole('status').filter({ hasText: '2 rounds let go' })).toBeVisible()
  const rounds = (await ask(page, '/rounds?site=1')).slice(-2)
  expect(rounds[0].wave).toBe(rounds[1].wave)

  // One is handed on at the desk, and its list printed for paper.
  await page.goto(`/pick/${rounds[0].id}`)
  await page.getByLabel('Hand it on to').selectOption({ label: 'Oskar Lund' })
  await expect(page.getByRole('status').filter({ hasText: 'Oskar Lund walks' })).toBeVisible()
  const list = await page.request.get(`/api/v1/rounds/${rounds[0].id}/list.pdf`)
  expect(list.headers()['content-type']).toBe('application/pdf')
  await page.getByRole('button', { name: 'Confirm from paper' }).click()
  await page.getByLabel('Taken at stop 1').fill('0')
  await page.getByRole('button', { name: /^Confirm R-/ }).click()
  await expect(page.getByRole('heading', { name: /Round R-/ })).toContainText('done')
})

test('takes made without a connection are kept and sent once; a conflict is shown and settled', async ({ browser, baseURL, page }) => {
  await signOn(page, 'lead')
  const o = await order(page, [['CF-185', '3'], ['GB-B01', '2']])
  const r = await round(page, [o])
  const hand = await takeHandheld(browser, baseURL, 'B-004')
  await hand.goto(`/hand/round/${r.id}`)
  await hand.getByRole('button', { name: 'Start walking' }).click()
  const sscc = await openCarton(hand)
  const [first, second] = (await ask(hand, `/rounds/${r.id}`)).stops
  await hand.context().setOffline(true)
  // A scan that does not look right stops even so.
  await expect(hand.locator('[data-go]')).toHaveText(first.bin)
  await scan(hand, 'Z-99-9-Z')
  await expect(hand.locator('[data-wrong]')).toContainText(`Here it is ${first.bin}`)
  await scanStop(hand, first, sscc)
  await expect(hand.locator('[data-kept]')).toContainText('1 take is kept on this device')
  await scanStop(hand, second, sscc)
  await expect(hand.locator('[data-kept]')).toContainText('2 takes are kept')
  expect((await ask(page, `/rounds/${r.id}`)).done_count).toBe(0)

  // Meanwhile the lead takes the second item off the order: that take can not stand.
  const now = await ask(page, `/sales-orders/${o.id}`)
  const kept = now.lines.find((l) => l.sku === first.sku)
  await command(page, `/sales-orders/${o.id}/change`, { version: now.version, wanted_on: now.wanted_on, lines: [{ id: kept.id, item_id: kept.item_id, quantity: kept.quantity }] })
  await hand.context().setOffline(false)
  await expect(hand.locator('[data-conflict]')).toContainText(`of ${second.sku} from ${second.bin}`, { timeout: 20_000 })
  expect((await ask(page, `/rounds/${r.id}`)).stops[0].taken).toBe(first.quantity)
  await hand.getByRole('button', { name: 'It is put back: leave it out' }).click()
  await expect(hand.locator('[data-conflict]')).toHaveCount(0)
  await expect(hand.getByRole('heading', { name: 'All stops made' })).toBeVisible()
  const takes = (await ask(page, `/items/${first.item_id}/trail?site=1`)).lines.filter((l) => l.document === r.number && l.kind === 'take' && Number(l.delta) < 0)
  expect(takes).toHaveLength(1)
})

test('two pickers race for the last unit: one has it, the other is told', async ({ browser, baseURL, page }) => {
  await signOn(page, 'lead')
  const item = (await ask(page, '/items?site=1&q=GL-106'))[0].item
  const held = (await ask(page, `/items/${item.id}?site=1`)).holdings.filter((h) => h.kind === 'bin' && Number(h.quantity) > Number(h.pinned))
  // All but two units of it are pinned elsewhere; two rounds want one each.
  const all = held.reduce((n, h) => n + Number(h.quantity) - Number(h.pinned), 0)
  await round(page, [await order(page, [['GL-106', String(all - 2)]])])
  const [a, b] = [await order(page, [['GL-106', '1']]), await order(page, [['GL-106', '1']])]
  const rounds = [await round(page, [a]), await round(page, [b])]
  const hands = []
  for (const [i, badge] of ['B-003', 'B-004'].entries()) {
    const hand = await takeHandheld(browser, baseURL, badge)
    await hand.goto(`/hand/round/${rounds[i].id}`)
    await hand.getByRole('button', { name: 'Start walking' }).click()
    hands.push([hand, await openCarton(hand, -1 - i)])
  }
  const stops = await Promise.all(rounds.map(async (r) => (await ask(page, `/rounds/${r.id}`)).stops[0]))
  // The shelf holds one less than the books: whoever comes second finds none.
  await scanStop(hands[0][0], stops[0], hands[0][1])
  await expect(hands[0][0].getByRole('heading', { name: 'All stops made' })).toBeVisible()
  await hands[1][0].getByRole('button', { name: 'Not enough here' }).click()
  await hands[1][0].getByLabel(/How many are there/).fill('0')
  await hands[1][0].getByRole('button', { name: 'Only 0 here' }).click()
  await expect(hands[1][0].getByRole('heading', { name: 'All stops made' })).toBeVisible()
  await page.goto('/orders')
  await page.getByLabel('Show').selectOption('stuck')
  await expect(page.locator('nav.q a', { hasText: b.number })).toContainText('a bin was short')
})

test('a carton is looked through, weighed, loaded onto the right vehicle, and billed', async ({ page }) => {
  await signOn(page, 'lead')
  const carrier = { carrier: 'Brook & Daughter Carriers' }
  const o = await order(page, [['TP-W50', '2']], carrier)
  const r = await round(page, [o])
  await command(page, `/rounds/${r.id}/confirm`, {})
  const carton = (await ask(page, '/cartons?site=1&state=at%20bench')).find((c) => c.order === o.number)
  await page.goto(`/pack/${carton.id}`)
  await page.locator('[data-check]').fill('HZ-500')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-problem]')).toContainText('does not belong into carton')
  for (const n of [1, 2]) {
    await page.locator('[data-check]').fill('TP-W50')
    await page.keyboard.press('Enter')
    await expect(page.locator('[data-contents] td').last()).toHaveText(String(n))
  }
  await expect(page.getByText('Looked through by Ines Calloway')).toBeVisible()
  await page.getByLabel(/Weight/).fill('9')
  await expect(page.locator('aside')).toContainText('stays open')
  await page.getByRole('button', { name: 'Weigh it' }).click()
  await press(page, 'Close carton')
  await expect(page.getByRole('status').filter({ hasText: 'stands at the gate' })).toBeVisible()

  await page.goto('/dispatch/load')
  await page.getByLabel('Carrier of the vehicle').fill('Northgate Vans')
  await page.getByRole('button', { name: 'Begin to load' }).click()
  await page.locator('[data-load]').fill(carton.sscc)
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-problem]')).toContainText('goes with Brook & Daughter Carriers')
  await page.getByLabel('Carrier of the vehicle').fill('Brook & Daughter Carriers')
  await page.getByRole('button', { name: 'Begin to load' }).click()
  await expect(page.getByRole('heading', { name: /Vehicle L-/ })).toContainText('Brook & Daughter')
  await page.locator('[data-load]').fill(carton.sscc)
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-loaded]')).toContainText(o.number)
  await press(page, /Let L-\d+ leave with 1 carton/)
  await expect(page.getByRole('status').filter({ hasText: 'left with 1 carton' })).toBeVisible()
  const sent = await ask(page, `/sales-orders/${o.id}`)
  expect(sent.state).toBe('sent')
  await page.goto('/dispatch/bills')
  await page.getByLabel(`Tick ${sent.deliveries[0].number}`).check()
  await press(page, 'Make 1 bill')
  await expect(page.getByRole('status').filter({ hasText: 'made' })).toBeVisible()
  await page.goto(`/dispatch/${sent.deliveries[0].id}`)
  await expect(page.getByText(/It is carried as/)).toBeVisible()
  await expect(page.getByText(/Billed with I-/)).toBeVisible()
})

test('orders of one carrier are sent in one step', async ({ page }) => {
  await signOn(page, 'lead')
  const orders = [await order(page, [['TP-G24', '1']], { carrier: 'Northgate Vans' }), await order(page, [['TP-G24', '2']], { carrier: 'Northgate Vans' })]
  for (const o of orders) {
    const r = await round(page, [o])
    await command(page, `/rounds/${r.id}/confirm`, {})
    const carton = (await ask(page, '/cartons?site=1&state=at%20bench')).find((c) => c.order === o.number)
    await command(page, `/cartons/${carton.id}/pack`, {})
  }
  await page.goto('/dispatch')
  for (const o of orders) await page.getByLabel(`Tick ${o.number}`).check()
  await page.getByRole('button', { name: 'Send 2 orders with Northgate Vans' }).click()
  await expect(page.getByRole('status').filter({ hasText: 'sent with Northgate Vans' })).toBeVisible()
  for (const o of orders) expect((await ask(page, `/sales-orders/${o.id}`)).state).toBe('sent')
})
