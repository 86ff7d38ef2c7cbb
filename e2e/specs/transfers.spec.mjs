import { ask, command, expect, field, find, pick, round, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'
import { proxy } from '../lib/proxy.mjs'

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

test('a transfer on hold is released, put on hold again and cancelled; somebody who only looks is offered none of it', async ({ page, browser, baseURL }) => {
  await signOn(page, 'office')
  const { site } = await other(page)
  await page.goto('/transfers/new')
  await pick(page, 'To site', site.name)
  await find(page, 'Add an item', 'DX-050')
  // What cannot be is said at its field, and what is typed stays.
  await page.getByLabel('DX-050 quantity').fill('1.5')
  await page.getByRole('button', { name: 'Write it, on hold' }).click()
  await expect(page.getByText('is not a whole number').first()).toBeVisible()
  await expect(page.getByLabel('DX-050 quantity')).toHaveValue('1.5')
  await page.getByLabel('DX-050 quantity').fill('2')
  await page.reload()
  await expect(page.getByLabel('DX-050 quantity')).toHaveValue('2')
  await page.getByRole('button', { name: 'Write it, on hold' }).click()
  const heading = page.getByRole('heading', { name: /Transfer T-/ })
  await expect(heading).toContainText('on hold')
  await page.getByRole('button', { name: /^Release T-/ }).click()
  await expect(heading).toContainText('released')
  await page.getByRole('button', { name: 'Put it on hold' }).click()
  await expect(heading).toContainText('on hold')
  await page.getByRole('button', { name: 'Cancel what is open' }).click()
  await expect(page.getByRole('dialog')).toContainText('2 units are not shipped')
  await page.getByRole('button', { name: 'Cancel them' }).click()
  await expect(heading).toContainText('cancelled')

  const looker = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, baseURL })).newPage()
  await signOn(looker, 'viewer')
  await looker.goto('/transfers')
  await expect(looker.locator('[data-transfers]')).toBeVisible()
  await expect(looker.getByRole('link', { name: 'New transfer' })).toHaveCount(0)
  await looker.goto('/transfers/new')
  await expect(looker.getByText('Your role looks only')).toBeVisible()
})

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
  await page.getByLabel('DX-050 here now').fill('')
  // Its carton is known with what is in it: scanned, it is filled in as it is.
  const [carton] = await ask(page, `/arrivals/${new URL(page.url()).pathname.split('/').pop()}/coming`)
  await expect(page.locator('[data-coming]')).toContainText('3 DX-050')
  await page.getByLabel('Scan or type').fill(`]C100${carton.sscc}`)
  await page.getByLabel('Scan or type').press('Enter')
  await expect(page.getByLabel('DX-050 here now')).toHaveValue('3')
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

test('a difference is told and settled: it stays in transit until somebody says where the goods are', async ({ page }) => {
  await signOn(page, 'lead')
  const [told] = await ask(page, '/transfer-cases?site=1')
  await page.goto('/transfers')
  await page.locator('[data-open-cases]').getByRole('link', { name: told.order }).click()
  await expect(page.locator('[data-cases] tr', { hasText: told.number })).toContainText('open for')
  const settle = page.locator('[data-settle-case]')
  await pick(page, 'The goods are', 'lost on the way')
  await expect(settle.locator('[data-problem]')).toContainText('Write in a few words how you know')
  await settle.getByRole('textbox', { name: 'How you know' }).fill('the carrier has no trace')
  await expect(settle).toContainText('off the books')
  await settle.getByRole('button', { name: `Settle ${told.number}: lost on the way` }).click()
  await expect(page.locator('[data-cases] tr', { hasText: told.number })).toContainText('lost on the way, worth')
  await expect(page.locator('[data-figures]')).toContainText('Settled otherwise 1')
  await expect(page.getByRole('heading', { name: /closed/ })).toBeVisible()

  // A unit that was never sent came besides: it is fetched from where it stands by the books.
  const [shelf] = await ask(page, '/locations?site=1&kind=bin&q=D-01-1-A')
  const stray = (await ask(page, `/locations/${shelf.id}`)).holdings.find((h) => h.sku === 'SP-150').serials.at(-1)
  const tell = page.locator('[data-tell-case]')
  await find(page, 'What came besides', 'SP-150', 'SP-150')
  await tell.getByRole('textbox', { name: 'Serials of SP-150' }).fill(`${stray}9`)
  await expect(tell.locator('[data-problem]')).toContainText('was never in our books')
  await tell.getByRole('textbox', { name: 'Serials of SP-150' }).fill(stray)
  await tell.getByRole('button', { name: 'Open a case' }).click()
  await expect(page.locator('[data-cases]')).toContainText(`1 came besides, ${stray}`)
  await settle.getByRole('button', { name: /^Settle TC-\d+: taken in here/ }).click()
  await expect.poll(async () => (await ask(page, `/locations/${shelf.id}`)).holdings
    .find((h) => h.sku === 'SP-150').serials.includes(stray)).toBe(false)

  // Another is told where the goods come to; more than is in transit is refused before it is pressed.
  const way = (await ask(page, '/in-transit?site=2')).rows.find((t) => t.sku === 'LN-036')
  await pick(page, 'Site', 'Hill Loft')
  await page.goto(`/transfers/${way.order_id}`)
  await tell.getByLabel('How many').fill('400')
  await expect(tell.locator('[data-problem]')).toContainText('are in transit')
  await tell.getByLabel('How many').fill('1')
  await tell.getByRole('button', { name: 'Open a case' }).click()
  await expect(page.getByRole('status').filter({ hasText: 'its goods stay in transit until somebody settles it' })).toBeVisible()
  await expect(page.locator('[data-cases]')).toContainText('1 did not come')
})

test('a bin is emptied into another at once', async ({ page }) => {
  await signOn(page, 'picker')
  const bins = (await ask(page, '/locations?site=1&kind=bin')).map((b) => b)
  const lies = async (b) => (await ask(page, `/locations/${b.id}`)).holdings
  const free = (h) => !h.carton_id && Number(h.reserved) === 0 && h.condition === 'good'
  let from, to
  for (const b of bins) {
    const held = await lies(b)
    if (!from && held.length === 1 && held.every(free) && held[0].serials.length === 0) from = { ...b, held }
    else if (from && !held.length && b.code.slice(0, 1) === from.code.slice(0, 1)) to = b
    if (from && to) break
  }
  await page.goto('/transfers/move')
  await page.getByLabel('From bin').fill(from.code)
  await page.getByLabel('From bin').press('Enter')
  await page.getByText('All of it, into another bin').click()
  await page.getByLabel('To bin').fill(to.code)
  await page.getByLabel('To bin').press('Enter')
  await expect(page.locator('[data-primary]')).toContainText(`Empty ${from.code} into ${to.code}`)
  await page.keyboard.press('Control+Enter')
  await expect(page.getByRole('status').filter({ hasText: `Emptied ${from.code} into ${to.code}` })).toBeVisible()
  expect(await lies(from)).toHaveLength(0)
  expect((await lies(to))[0].quantity).toBe(from.held[0].quantity)
})

test('what is received moves on by a rule of the catalog, and that is said before it is received', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/catalog/relays')
  await page.getByRole('link', { name: 'Add one' }).click()
  await page.getByLabel('Name', { exact: true }).fill('Pattern holders go up')
  await page.getByLabel('On to', { exact: true }).fill('Hill Loft')
  await expect(page.getByText('Say what moves on').first()).toBeVisible()
  await page.getByLabel('Item', { exact: true }).fill('GB-A01')
  await page.locator('[data-primary]').click()
  await expect(page.getByRole('heading', { name: 'Pattern holders go up' })).toBeVisible()
  const [supplier] = await ask(page, '/parties?kind=supplier&q=brind')
  const { item } = (await ask(page, '/items?site=1&q=GB-A01'))[0]
  const o = await command(page, '/purchase-orders', { supplier_id: supplier.id, site_id: 1, expected_on: '2027-01-15', send: true,
    lines: [{ item_id: item.id, quantity: '6' }] })
  const [dock] = await ask(page, '/locations?site=1&kind=dock')
  const a = await command(page, '/arrivals', { order_ids: [o.id], dock_id: dock.id })
  await page.goto(`/receive/arrival/${a.id}`)
  await page.getByLabel('GB-A01 here now').fill('6')
  await expect(page.locator('aside').last()).toContainText('6 of GB-A01 move on to Hill Loft by "Pattern holders go up"')
  await page.keyboard.press('Control+Enter')
  await expect(page.getByRole('status').filter({ hasText: 'Received' }).first()).toBeVisible()
  const made = (await ask(page, '/transfer-orders?site=1&open=true&sort=number&down=true')).rows[0]
  expect(made).toMatchObject({ state: 'released', wanted: '6', reason: `relay of ${a.number}: Pattern holders go up` })
  await page.goto(`/transfers/${made.id}`)
  await expect(page.locator('body')).toContainText(`relay of ${a.number}`)
})

test('a transfer is received in the hand over a lost connection, and what differs is told there', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const { dock } = await other(page)
  const way = (await ask(page, '/in-transit?site=2')).rows.find((t) => t.sku === 'LN-036')
  const o = await ask(page, `/transfer-orders/${way.order_id}`)
  const half = o.shipments.at(-1)
  const a = half.arrival_id ? await ask(page, `/arrivals/${half.arrival_id}`) : await command(page, '/arrivals', { order_ids: [half.inbound_id], dock_id: dock.id })
  const between = await proxy(baseURL)
  const hand = await takeHandheld(browser, between.url, 'B-002')
  await hand.goto(`/hand/receive/${a.id}`)
  await scan(hand, 'LN-036')
  await hand.locator('[data-line="LN-036"] input').fill('2')
  await expect(hand.locator('[data-press]')).toBeEnabled()
  await between.stop()
  await hand.locator('[data-press]').click()
  await expect(hand.locator('[data-wrong]')).toBeVisible()
  // What was typed is there still; pressed again once it is back, it is received once.
  await expect(hand.locator('[data-line="LN-036"] input')).toHaveValue('2')
  await between.start()
  await expect(hand.locator('[data-away]')).toHaveCount(0)
  await expect(hand.locator('[data-press]')).toBeEnabled()
  await hand.locator('[data-press]').click()
  await expect(hand.getByRole('status').filter({ hasText: 'Received' })).toBeVisible()
  await expect.poll(async () => (await ask(page, `/arrivals/${a.id}`)).lines.find((l) => l.sku === 'LN-036').received).toBe('2')

  await hand.getByRole('button', { name: 'Something differs' }).click()
  await hand.locator('.job', { hasText: 'LN-036' }).click()
  expect(await hand.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(412)
  await hand.getByRole('button', { name: 'did not come' }).click()
  await hand.locator('[data-differs] [data-quantity]').fill('99')
  await hand.locator('[data-tell]').click()
  await expect(hand.locator('[data-wrong]')).toContainText('are in transit')
  await hand.locator('[data-differs] [data-quantity]').fill('1')
  await hand.locator('[data-tell]').click()
  await expect(hand.locator('[data-told]')).toContainText('1 of LN-036, did not come')
  await between.stop()
})

test('what another site has to spare comes from there instead of being bought; the lot that goes is chosen', async ({ page }) => {
  await signOn(page, 'lead')
  const { site } = await other(page)
  await pick(page, 'Site', site.name)
  await page.goto('/receive/suggestions')
  const row = page.locator('[data-suggestions] tr', { hasText: 'TP-B50' })
  await expect(row.locator('[data-elsewhere]')).toContainText('Quay House has')
  await pick(page, 'Supplier of TP-B50', 'Quay House has')
  await page.getByRole('button', { name: /^Make .*1 transfer of 1 item/ }).click()
  const made = page.getByRole('link', { name: /from Quay House/ })
  await expect(made).toBeVisible()
  await made.click()
  await expect(page.getByRole('heading', { name: /Transfer T-/ })).toContainText('on hold')

  // An order there that is short of it gets it the same way, reserved when it comes.
  const item = (await ask(page, '/items?site=1&q=DX-015'))[0].item
  const customer = (await ask(page, '/parties?kind=customer&q=harbour'))[0]
  const o = await command(page, '/sales-orders', { customer_id: customer.id, site_id: site.id, wanted_on: '2027-01-15', release: true, lines: [{ item_id: item.id, quantity: '2' }] })
  await page.goto(`/orders/${o.id}`)
  await page.getByRole('button', { name: /Cover|short/i }).first().click()
  await page.getByRole('button', { name: /^Transfer 2 from Quay House/ }).click()
  await expect(page.getByRole('status').filter({ hasText: 'brings 2 of DX-015 from Quay House' })).toBeVisible()
  await expect(page.getByText('Nothing is short')).toBeVisible()

  await pick(page, 'Site', 'Quay House')
  await page.goto('/transfers/new')
  await pick(page, 'To site', site.name)
  await find(page, 'Add an item', 'CL-BLK', 'CL-BLK')
  await page.getByLabel('CL-BLK quantity').fill('5000')
  await pick(page, 'Lot of CL-BLK', 'free')
  await expect(page.locator('[data-problem]')).toContainText('of that lot of CL-BLK are free')
  await page.getByLabel('CL-BLK quantity').fill('2')
  await page.getByRole('button', { name: 'Transfer it and release it' }).click()
  await expect(page.getByRole('heading', { name: /Transfer T-/ })).toContainText('released')
})
