import { ask, command, expect, field, find, lookInto, onward, order, pick, press, round, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'

const itemOf = async (page, sku) => (await ask(page, `/items?site=1&q=${sku}`))[0]

/** An arrival of these items from Brindlewick Optics at the first dock. */
async function arrivalOf(page, lines, more = {}) {
  const [supplier] = await ask(page, '/parties?kind=supplier&q=brind')
  const items = await Promise.all(lines.map(async ([sku, quantity]) => ({ item_id: (await itemOf(page, sku)).item.id, quantity })))
  const order = await command(page, '/purchase-orders', { supplier_id: supplier.id, site_id: 1, expected_on: '2027-01-15', send: true, lines: items })
  const [dock] = await ask(page, '/locations?site=1&kind=dock')
  return { order, dock, arrival: await command(page, '/arrivals', { order_ids: [order.id], dock_id: dock.id, ...more }) }
}

test('a hundred serials are scanned in a row without a mouse; one twice, and one in stock, are refused by name', async ({ page }) => {
  await signOn(page, 'lead')
  const { arrival } = await arrivalOf(page, [['FR-200', '104']])
  await page.goto(`/receive/arrival/${arrival.id}`)
  const field = page.getByLabel('FR-200 serial', { exact: true })
  await field.focus()
  const { packs } = (await itemOf(page, 'FR-200')).item
  const gtin = packs.find((p) => p.holds === '1').gtin
  for (let n = 1; n <= 100; n++) {
    // Plain labels, and now and then one with item and serial in one symbol.
    const code = `H${String(n).padStart(4, '0')}`
    await page.keyboard.insertText(n % 25 ? code : `]d201${gtin}21${code}`)
    await page.keyboard.press('Enter')
  }
  await expect(page.locator('[data-count]')).toHaveText('100 serials')
  await page.keyboard.insertText('H0042')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Serial H0042 is scanned already')).toBeVisible()
  await expect(page.getByLabel('FR-200 here now')).toHaveValue('100')
  await press(page, 'Receive 100')
  await expect(page.getByRole('status').filter({ hasText: 'Received' })).toBeVisible()
  await expect(page.locator('[data-receipts]')).toContainText('H0001 and 99 more')

  // A range for the rest; one of them is in stock and says where.
  await field.fill('H0100')
  await page.getByRole('button', { name: 'Begin a range' }).click()
  await page.getByLabel('FR-200 last serial of the range').fill('H0103')
  await page.keyboard.press('Enter')
  await expect(page.locator('[data-problem]')).toContainText('Serial H0100 of FR-200 is in stock already, in Dock 1')
  await page.getByRole('button', { name: 'Remove H0100' }).click()
  await press(page, 'Receive 3')
  await expect(page.locator('[data-receipts]')).toContainText('H0101 and 2 more')

  // The trail of one of them is found by its label.
  await page.goto('/')
  await expect(page.getByLabel('Scan or type')).toBeVisible()
  await page.keyboard.press('/')
  await page.keyboard.insertText('H0042')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: 'Serial H0042' })).toBeVisible()
  await expect(page.locator('[data-where]')).toContainText('in Dock 1, Quay House')
  await expect(page.locator('[data-trail] tr.row')).toHaveCount(1)
})

test('a round takes units by serial: one that is elsewhere stops it, any of those there will do', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const { item, figures } = await itemOf(page, 'DM-004')
  expect(Number(figures.free)).toBeGreaterThan(2)
  const headset = (await itemOf(page, 'HS-001')).item
  const customer = (await ask(page, '/parties?kind=customer&q=lyre'))[0]
  const order = await command(page, '/sales-orders', { customer_id: customer.id, site_id: 1, wanted_on: '2027-01-20', release: true,
    lines: [{ item_id: item.id, quantity: '2' }, { item_id: headset.id, quantity: '1' }] })
  const plan = await command(page, '/pick/plan', { site_id: 1, order_ids: [order.id] })
  const round = await command(page, '/rounds', { site_id: 1, stops: plan.stops.map((s) => ({ line_id: s.line_id, location_id: s.location_id, quantity: s.quantity })) })
  const [carton] = await command(page, '/cartons', { site_id: 1, count: 1 })

  const hand = await takeHandheld(browser, baseURL, 'B-003')
  await hand.goto(`/hand/round/${round.id}`)
  await hand.getByRole('button', { name: 'Start walking' }).click()
  await scan(hand, carton.sscc)
  const { stops } = await ask(hand, `/rounds/${round.id}`)
  for (const s of stops) {
    await expect(hand.locator('[data-go]')).toHaveText(s.bin)
    await scan(hand, s.bin)
    await scan(hand, s.sku)
    if (s.tracking === 'serial') {
      await scan(hand, 'H0042')
      await expect(hand.locator('[data-wrong]')).toContainText('no serial H0042 of DM-004')
      // Those at the back of the bin, though others were counted on.
      for (const [i, unit] of s.serials.slice(-Number(s.quantity)).entries()) {
        await expect(hand.getByText(`Scan the serial of each, ${i} of ${s.quantity}`)).toBeVisible()
        await scan(hand, unit)
      }
    } else {
      await scan(hand, 'HS-2027-1')
    }
    await expect(hand.getByText('Scan carton A')).toBeVisible()
    await scan(hand, carton.sscc)
    await hand.locator('[data-press]').click()
    await lookInto(hand, onward(hand))
  }
  await hand.getByRole('button', { name: 'Bring to the bench' }).click()
  await expect(hand.getByRole('heading', { name: 'At the bench' })).toBeVisible()
  const packed = await ask(page, `/cartons/${carton.id}`)
  expect(packed.contents.find((c) => c.sku === 'HS-001').serials).toEqual(['HS-2027-1'])
  expect(packed.contents.find((c) => c.sku === 'DM-004').serials).toHaveLength(2)
})

test('units that are reserved by name are one stop: the bin is scanned once, and each of them is asked for', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const { item } = await itemOf(page, 'DM-004')
  const holding = (await ask(page, `/items/${item.id}?site=1`)).holdings.find((h) => h.kind === 'bin' && Number(h.quantity) - Number(h.reserved) >= 3)
  const o = await order(page, [['DM-004', '2']])
  const units = (await ask(page, `/sales-lines/${o.lines[0].id}/stock`)).find((h) => h.location_id === holding.location_id && (h.lot_id ?? 0) === (holding.lot_id ?? 0)).serials
  const named = [units[0], units.at(-1)]
  await command(page, `/sales-lines/${o.lines[0].id}/reservations`, { reservations: named.map((serial) => ({
    location_id: holding.location_id, serial, quantity: '1', ...(holding.lot_id ? { lot_id: holding.lot_id } : {}) })) })
  const r = await round(page, [o])
  expect(r.stops).toHaveLength(1)
  const [carton] = await command(page, '/cartons', { site_id: 1, count: 1 })
  const hand = await takeHandheld(browser, baseURL, 'B-004')
  await hand.goto(`/hand/round/${r.id}`)
  await hand.getByRole('button', { name: 'Start walking' }).click()
  for (const code of [carton.sscc, r.stops[0].bin, 'DM-004']) await scan(hand, code)
  await expect(hand.getByText(`Scan the very units ${named.join(', ')}`)).toBeVisible()
  await scan(hand, units[1])
  await expect(hand.locator('[data-wrong]')).toContainText(`promised the very units ${named.join(', ')}`)
  await scan(hand, named[1])
  await expect(hand.getByText(`Scan the very unit ${named[0]}`)).toBeVisible()
  await scan(hand, named[0])
  await scan(hand, carton.sscc)
  await hand.locator('[data-press]').click()
  await lookInto(hand)
})

test('units are moved by name at the desk', async ({ page }) => {
  await signOn(page, 'lead')
  const { item } = await itemOf(page, 'SP-300')
  const { holdings } = await ask(page, `/items/${item.id}?site=1`)
  const from = holdings.find((h) => h.kind === 'bin' && h.serials.length > 2 && !Number(h.reserved))
  await page.goto('/transfers/move')
  await expect(page.getByLabel('Scan or type')).toBeVisible()
  await page.keyboard.press('/')
  await page.keyboard.insertText(from.location)
  await page.keyboard.press('Enter')
  await page.locator('nav.q button', { hasText: item.description }).first().click()
  for (const code of from.serials.slice(0, 2)) await page.getByRole('button', { name: code, exact: true }).click()
  await page.getByLabel('To bin').fill('Dock 2')
  await press(page, 'Move 2 to Dock 2')
  await expect(page.getByRole('status').filter({ hasText: 'Moved 2 of SP-300' })).toBeVisible()
  const read = await ask(page, `/scan?site=1&text=${from.serials[1]}`)
  await page.goto(`/stock/serial/${read.found[0].id}`)
  await expect(page.locator('[data-where]')).toContainText('in Dock 2, Quay House')
})

test('a pallet is received as one and put away in one scan', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const { arrival } = await arrivalOf(page, [['CF-185', '48']])
  await page.goto(`/receive/arrival/${arrival.id}`)
  await pick(page, 'Load unit', 'one pallet')
  await page.getByLabel('CF-185 here now').fill('2')
  await pick(page, 'CF-185 pack', 'box of 24')
  await expect(page.getByText('2 × box of 24 of CF-185 are 48 each.')).toBeVisible()
  await expect(page.getByText('All of it stands on a new pallet, and is put away as one.')).toBeVisible()
  await press(page, 'Receive 48')
  await expect(page.getByRole('status').filter({ hasText: 'Received' })).toBeVisible()
  const pallet = (await ask(page, '/put-away/pallets?site=1')).find((p) => p.holds.some((h) => h.sku === 'CF-185'))
  await page.goto('/putaway')
  await expect(page.locator('[data-docks]')).toContainText(`on …${pallet.sscc.slice(-4)}, put away as one`)

  const hand = await takeHandheld(browser, baseURL, 'B-002')
  await hand.goto('/hand/put-away')
  await expect(hand.locator('.job', { hasText: '48 CF-185' })).toBeVisible()
  await scan(hand, `]C100${pallet.sscc}`)
  const told = await hand.locator('[data-go]').textContent()
  await scan(hand, 'C-01-1-A-X')
  await expect(hand.locator('[data-wrong]')).toContainText('no bin')
  await scan(hand, told)
  await expect(hand.getByRole('status')).toContainText(`…${pallet.sscc.slice(-4)} is in ${told}`)
  const read = await ask(page, `/scan?site=1&text=${pallet.sscc}`)
  expect(read.found[0].label).toBe(`pallet, in ${told}`)

  // An order of just that takes it as it is: no carton is asked for.
  const r = await round(page, [await order(page, [['CF-185', '48']])])
  const [stop] = (await ask(page, `/rounds/${r.id}`)).stops
  expect(stop).toMatchObject({ bin: told, whole_carton: true })
  const picker = await takeHandheld(browser, baseURL, 'B-004')
  await picker.goto(`/hand/round/${r.id}`)
  await picker.getByRole('button', { name: 'Start walking' }).click()
  await expect(picker.locator('.ct')).toContainText('as it is')
  await scan(picker, told)
  await expect(picker.getByText('All on it is wanted')).toBeVisible()
  await scan(picker, `]C100${pallet.sscc}`)
  await lookInto(picker)
  expect((await ask(page, `/rounds/${r.id}`)).cartons[0].sscc).toBe(pallet.sscc)
})

test('two orders come on one vehicle; what waits for the rest is not free until it comes', async ({ page }) => {
  await signOn(page, 'lead')
  const { order, dock } = await arrivalOf(page, [['GB-A01', '24'], ['GB-B01', '24']])
  const other = (await arrivalOf(page, [['IR-100', '12']])).order
  const free = async () => Number((await itemOf(page, 'GB-A01')).figures.free)
  const before = await free()
  await page.goto(`/receive/order/${order.id}`)
  await page.getByLabel('Wait on the dock until the order is complete').check()
  await page.getByRole('button', { name: 'Open another arrival' }).click()
  await page.getByRole('button', { name: 'Open another', exact: true }).click()
  await expect(page.getByText('What comes waits on the dock, not free, until its order is complete.')).toBeVisible()
  await page.getByRole('button', { name: 'Add another order' }).click()
  await page.getByRole('button', { name: other.number }).click()
  await expect(page.locator('[data-arrival]')).toContainText(`IR-100, ${other.number}`)
  await page.getByLabel('GB-A01 here now').fill('24')
  await expect(page.getByText(`24 of GB-A01 wait on the dock until ${order.number} is complete`)).toBeVisible()
  await press(page, 'Receive 24')
  await expect(page.locator('[data-receipts]')).toContainText('waits')
  expect(await free()).toBe(before)
  await page.goto('/putaway')
  await expect(page.locator('[data-docks]')).toContainText('waits for the rest of its order')
  const { arrivals } = { arrivals: await ask(page, '/arrivals?site=1') }
  await page.goto(`/receive/arrival/${arrivals.find((a) => a.waits && a.order.includes(order.number)).id}`)
  await page.getByLabel('GB-B01 here now').fill('24')
  await press(page, 'Receive 24')
  await expect(page.locator('[data-receipts]')).not.toContainText('waits')
  expect(await free()).toBe(before + 24)
  expect(dock.code).toBe('Dock 1')
})

test('a shipment that fails its sample is refused whole', async ({ page }) => {
  await signOn(page, 'lead')
  const waiting = (await ask(page, '/inspections?site=1')).find((x) => x.sku === 'BT-0AA')
  await page.goto(`/receive/inspection/${waiting.id}`)
  await expect(page.locator('[data-plan]')).toContainText('Look at 50 of them')
  await field(page, 'Passed').fill('48')
  await field(page, 'What is wrong with the rest').fill('No charge at all')
  await expect(page.locator('aside')).toContainText('2 of the sample of 50 fail, and at most 1 may: all 400 are refused.')
  await field(page, 'Passed').fill('49')
  await expect(page.locator('aside')).toContainText('the delivery passes')
  await press(page, 'Pass 399, fail 1')
  await expect(page.getByRole('status').filter({ hasText: '399 passed, 1 failed.' })).toBeVisible()
})

test('a shipment is checked off in the hand: lots, dates and serials are asked for where they lack', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const { arrival } = await arrivalOf(page, [['FR-200', '3'], ['HZ-250', '12'], ['BD-185', '4']])
  const hand = await takeHandheld(browser, baseURL, 'B-002')
  await hand.getByRole('link', { name: /^Receive/ }).click()
  await hand.getByText(arrival.number).click()
  await scan(hand, 'TP-B50')
  await expect(hand.locator('[data-wrong]')).toContainText(`is on no open line of ${arrival.number}`)
  await scan(hand, 'FR-200')
  // Serials of this very try: another one finds those of the first in stock.
  const units = [1, 2, 3].map((n) => `D${Date.now() % 1_000_000}-${n}`)
  for (const code of units) await scan(hand, code)
  await scan(hand, units[1])
  await expect(hand.locator('[data-wrong]')).toContainText(`Serial ${units[1]} is scanned already`)
  await scan(hand, 'HZ-250')
  await expect(hand.getByText('Scan the lot of HZ-250')).toBeVisible()
  await scan(hand, 'HX-31')
  await expect(hand.getByText('When does lot HX-31 expire?')).toBeVisible()
  await scan(hand, '2028-09-30')
  await hand.locator('[data-line=HZ-250] input').fill('12')
  const { packs } = (await itemOf(hand, 'BD-185')).item
  await scan(hand, `]d201${packs.find((p) => p.holds === '1').gtin}`)
  await hand.locator('[data-line=BD-185] input').fill('9')
  await expect(hand.locator('[data-refused]')).toContainText('at most 4 may still come')
  await hand.locator('[data-line=BD-185] input').fill('4')
  await expect(hand.locator('[data-press]')).toHaveText('Receive 19 at Dock 1')
  expect(await hand.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(412)
  await hand.locator('[data-press]').click()
  await expect(hand.getByRole('status')).toContainText('Received')
  const { receipts, state } = await ask(page, `/arrivals/${arrival.id}`)
  expect(state).toBe('done')
  expect(receipts.map((b) => b.quantity).sort()).toEqual(['12', '3', '4'])

  // A vehicle that nobody has opened yet: its order is scanned, and the dock told.
  const { order, arrival: first } = await arrivalOf(page, [['BD-185', '2']])
  await command(page, `/arrivals/${first.id}/close`, { version: first.version })
  await hand.goto('/hand/receive')
  await scan(hand, 'TP-B50')
  await expect(hand.locator('[data-wrong]')).toContainText('no purchase order and no return')
  await scan(hand, order.number)
  await hand.getByRole('button', { name: 'Dock 2' }).click()
  await expect(hand.getByText('Scan what is here')).toBeVisible()
  // Whoever stands at the shelf scans the bin behind the goods: they go into it at once, and not by way of the dock.
  await scan(hand, 'A-01-1-A')
  await expect(hand.locator('[data-wrong]')).toContainText('Scan the goods first')
  await scan(hand, 'BD-185')
  await expect(hand.locator('[data-line=BD-185]')).toBeVisible()
  await scan(hand, 'Dock 1')
  await expect(hand.locator('[data-refused]')).toContainText('Dock 1 is a dock, not a storage bin')
  const home = (await ask(hand, '/floor?site=1')).bins.find((b) => !Number(b.units) && b.level === 1 && 'DE'.includes(b.code[0])).code
  await scan(hand, home)
  await expect(hand.locator('[data-bin]')).toHaveText(home)
  await expect(hand.locator('[data-press]')).toHaveText(`Receive 1 into ${home}`)
  await hand.locator('[data-press]').click()
  await expect(hand.getByRole('status')).toContainText('into bins')
})

test('a label scanned where a lot or an expiry is asked gives its part; a label as a whole is never a lot', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const [{ item }] = (await ask(page, '/items?site=1&q=')).filter((i) => i.item.tracking === 'lot_expiry')
  const gtin = item.packs.find((p) => p.holds === '1').gtin
  const { arrival } = await arrivalOf(page, [[item.sku, '30']])
  await page.goto(`/receive/arrival/${arrival.id}`)
  await page.getByLabel(`${item.sku} here now`).fill('30')
  const lot = page.getByLabel(`${item.sku} lot 1`, { exact: true })
  const expires = page.getByLabel(`${item.sku} lot 1 expires`)
  // From a scanner that sends no symbology identifier, date and lot in one.
  await lot.focus()
  await page.keyboard.insertText(`01${gtin}17290630` + '10LX-7')
  await page.keyboard.press('Enter')
  await expect(lot).toHaveValue('LX-7')
  await expect(expires).toHaveValue('2029-06-30')
  // A label of its own for the date.
  await expires.fill('')
  await expires.focus()
  await page.keyboard.insertText(`(01)${gtin}(17)291231`)
  await page.keyboard.press('Enter')
  await expect(expires).toHaveValue('2029-12-31')
  await lot.fill(item.sku)
  await expect(page.locator('[data-problem]')).toContainText(`is the item ${item.sku} itself, no lot of it`)
  await lot.fill('(01)09521234000013(10)A')
  await lot.press('Enter')
  await expect(page.getByText(`which is not ${item.sku}`)).toBeVisible()

  const hand = await takeHandheld(browser, baseURL, 'B-002')
  await hand.goto(`/hand/receive/${arrival.id}`)
  await scan(hand, item.sku)
  await scan(hand, `01${gtin}17290630` + '10LX-8')
  await expect(hand.locator('[data-line]')).toContainText('LX-8')
  await expect(hand.getByText('When does lot')).toHaveCount(0)
})

test('goods of an item on two joined orders fill the first line, then the second; a second arrival is asked about', async ({ page }) => {
  await signOn(page, 'lead')
  const { order, arrival } = await arrivalOf(page, [['GL-106', '10']])
  const [supplier] = await ask(page, '/parties?kind=supplier&q=brind')
  const { item } = await itemOf(page, 'GL-106')
  const other = await command(page, '/purchase-orders', { supplier_id: supplier.id, site_id: 1, expected_on: '2027-01-16', send: true, lines: [{ item_id: item.id, quantity: '10' }] })
  await command(page, `/arrivals/${arrival.id}/orders`, { version: arrival.version, order_id: other.id })
  await page.goto(`/receive/arrival/${arrival.id}`)
  const here = page.getByLabel('GL-106 here now')
  await expect(here).toHaveCount(2)
  const line = page.getByLabel('Scan or type')
  // A scanner's burst: none waits for the answer to the one before, and one of them is unknown.
  await line.focus()
  for (let n = 1; n <= 14; n++) {
    await page.keyboard.insertText(n === 7 ? 'ZZ-9999' : item.sku)
    await page.keyboard.press('Enter')
  }
  await expect(here.first()).toHaveValue('10')
  await expect(here.last()).toHaveValue('3')
  await expect(page.locator('#scan-said')).toContainText('Nothing here is called ZZ-9999.')
  // What was not found stands in the field; the next scan goes over it.
  await page.keyboard.insertText('ZZ-9998')
  await page.keyboard.press('Enter')
  await expect(page.locator('#scan-said')).toContainText('Nothing here is called ZZ-9998.')
  await expect(line).toHaveValue('ZZ-9998')
  await page.keyboard.insertText('ZZ-9997')
  await expect(line).toHaveValue('ZZ-9997')
  await press(page, 'Receive 13')
  await expect(page.getByRole('status').filter({ hasText: 'Received' })).toBeVisible()
  const lines = (await ask(page, `/arrivals/${arrival.id}`)).lines.map((l) => [l.order, l.received])
  expect(lines).toEqual([[order.number, '10'], [other.number, '3']])

  await page.goto(`/receive/order/${other.id}`)
  await expect(page.locator('[data-arrivals]')).toContainText(`${arrival.number} is open for it at`)
  await page.getByRole('button', { name: 'Open another arrival' }).click()
  await expect(page.getByText(`${arrival.number} stays open.`)).toBeVisible()
  await page.getByRole('button', { name: 'Open another', exact: true }).click()
  await expect(page.getByRole('heading', { name: /Arrival A-/ })).not.toContainText(arrival.number)
})
