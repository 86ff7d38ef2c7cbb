import AxeBuilder from '@axe-core/playwright'
import { settled } from '../lib/browser.mjs'
import { ask, askedFor, command, expect, field, find, order, pick, press, round, signOn, test } from '../lib/floor.mjs'

const rules = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']
const violations = async (page) =>
  (await new AxeBuilder({ page }).withTags(rules).analyze()).violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.html).join(' | ')}`)

test('what is typed stays while somebody else changes the same order; where both changed, both are shown', async ({ page }) => {
  await signOn(page, 'lead')
  const o = await order(page, [['TP-B50', '3'], ['TP-G24', '5']], { release: false, note: 'as agreed' })
  await page.goto(`/orders/${o.id}`)
  await page.getByRole('button', { name: 'Change the order' }).click()
  await field(page, 'TP-B50 wanted').fill('4')
  await field(page, 'Note').fill('by the side door')
  const change = async (lines, more) => {
    const now = await ask(page, `/sales-orders/${o.id}`)
    const all = now.lines.map((l) => ({ id: l.id, item_id: l.item_id, quantity: lines[l.sku] ?? l.quantity, price: l.price }))
    return command(page, `/sales-orders/${o.id}/change`, { version: now.version, wanted_on: now.wanted_on, reference: now.reference, note: now.note, lines: all, ...more })
  }
  // A field that nobody touched here follows; those that somebody did stay.
  await change({ 'TP-G24': '9' }, { reference: 'PO 77' })
  await expect(field(page, 'TP-G24 wanted')).toHaveValue('9')
  await expect(field(page, "Customer's reference")).toHaveValue('PO 77')
  await expect(field(page, 'TP-B50 wanted')).toHaveValue('4')
  await expect(field(page, 'Note')).toHaveValue('by the side door')
  await expect(page.locator('[data-conflict]')).toHaveCount(0)
  await change({ 'TP-B50': '6' }, {})
  await expect(page.locator('[data-conflict]')).toContainText('the quantity of TP-B50 to 6; you typed 4')
  await page.locator('[data-conflict]').getByRole('button', { name: 'Keep mine' }).click()
  await press(page, `Change ${o.number}`)
  await expect(page.getByRole('heading', { name: /Order S-/ })).toBeVisible()
  const now = await ask(page, `/sales-orders/${o.id}`)
  expect(now).toMatchObject({ note: 'by the side door', reference: 'PO 77' })
  expect(now.lines.map((l) => [l.sku, l.quantity])).toEqual([['TP-B50', '4'], ['TP-G24', '9']])
})

test('an order is changed over a slow connection: no line that is still on its way is taken off', async ({ page }) => {
  await signOn(page, 'lead')
  const supplier = (await ask(page, '/parties?kind=supplier&q=hallow'))[0]
  const skus = ['TP-B50', 'TP-W50', 'TP-HAZ', 'TP-G24']
  const items = await Promise.all(skus.map(async (sku) => ({ item_id: (await ask(page, `/items?site=1&q=${sku}`))[0].item.id, quantity: '48' })))
  const o = await command(page, '/purchase-orders', { supplier_id: supplier.id, site_id: 1, expected_on: '2027-02-01', send: true, lines: items })
  await page.goto(`/receive/order/${o.id}`)
  await page.getByRole('button', { name: 'Change the order' }).waitFor()
  const held = []
  await page.route('**/api/v1/items?*', (route) => held.push(route))
  await page.getByRole('button', { name: 'Change the order' }).click()
  await field(page, 'TP-B50 quantity').fill('50')
  await page.getByRole('button', { name: `Save ${o.number} with 4 lines` }).click()
  await expect(page.getByRole('status').filter({ hasText: 'is changed' })).toBeVisible()
  expect((await ask(page, `/purchase-orders/${o.id}`)).lines.map((l) => [l.sku, l.quantity])).toEqual([['TP-B50', '50'], ['TP-W50', '48'], ['TP-HAZ', '48'], ['TP-G24', '48']])
  await Promise.all(held.map((r) => r.abort()))
})

test('leaving asks; Escape and a wrong key lose nothing; a reload brings it back, and it is discarded when one says so', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/orders')
  await page.getByRole('link', { name: 'New order' }).click()
  await field(page, "Customer's reference").fill('keep me')
  await page.keyboard.press('Escape')
  await page.keyboard.press('Escape')
  await page.keyboard.press('Escape')
  await expect(page).toHaveURL(/\/orders\/new$/)
  await page.keyboard.press('Alt+2')
  const asks = page.getByRole('dialog', { name: 'Leave with something typed?' })
  await expect(asks).toBeVisible()
  await expect.poll(() => violations(page)).toEqual([])
  await asks.getByRole('button', { name: 'Stay here' }).click()
  await expect(field(page, "Customer's reference")).toHaveValue('keep me')
  await page.keyboard.press('Alt+2')
  await asks.getByRole('button', { name: 'Keep it for later' }).click()
  await expect(page).toHaveURL(/\/putaway$/)
  await page.goto('/orders/new')
  await expect(page.locator('[data-restored]')).toBeVisible()
  await page.reload()
  await expect(field(page, "Customer's reference")).toHaveValue('keep me')
  await page.locator('[data-restored]').getByRole('button', { name: 'Discard it' }).click()
  await expect(field(page, "Customer's reference")).toHaveValue('')
  await page.keyboard.press('Alt+2')
  await expect(page).toHaveURL(/\/putaway$/)
})

test('Enter in a finder takes exactly what was typed, however fast; nothing is chosen for what is not there', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/orders/new')
  const finder = field(page, 'Add an item')
  const lines = page.locator('[data-lines] tbody tr.ant-table-row')
  const { packs } = (await ask(page, '/items?site=1&q=HP-001'))[0].item
  for (const [n, [text, sku]] of [['TP-W50', 'TP-W50'], ['tp-g24', 'TP-G24'], [packs[0].gtin, 'HP-001']].entries()) {
    await finder.focus()
    await page.keyboard.insertText(text)
    await page.keyboard.press('Enter')
    await expect(lines).toHaveCount(n + 1)
    await expect(lines.last()).toContainText(sku)
  }
  await finder.focus()
  await page.keyboard.insertText('ZZZ999')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Nothing here is called ZZZ999.')).toBeVisible()
  await page.keyboard.press('Control+Enter')
  await expect(lines).toHaveCount(3)
  await find(page, 'Customer', 'moon', 'Moonrake Touring')
  await page.getByRole('button', { name: 'Discard' }).click()
})

test('changes by others come through again after a proxy ended the stream, and after signing on again', async ({ page, context }) => {
  await signOn(page, 'lead')
  const o = await order(page, [['TP-B50', '1']], { release: false })
  let ends = 0
  await page.route('**/api/v1/events', (route) => (++ends <= 2 ? route.fulfill({ status: 502, body: 'bad gateway' }) : route.continue()))
  await page.goto(`/orders/${o.id}`)
  await expect(page.getByText('Changes by others do not come through')).toBeVisible()
  await expect(page.getByText('Changes by others do not come through')).toHaveCount(0)
  const note = (text) =>
    ask(page, `/sales-orders/${o.id}`).then((now) =>
      command(page, `/sales-orders/${o.id}/change`, { version: now.version, wanted_on: now.wanted_on, note: text, lines: now.lines.map((l) => ({ id: l.id, item_id: l.item_id, quantity: l.quantity, price: l.price })) }))
  await note('first word')
  await expect(page.getByText('first word')).toBeVisible()
  await context.clearCookies()
  await page.goto(`/orders/${o.id}`)
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('lead')
  await page.getByLabel('Password').fill('lantern')
  await page.getByRole('button', { name: 'Sign on', exact: true }).click()
  await expect(page.getByRole('heading', { name: o.number })).toBeVisible()
  await note('second word')
  await expect(page.getByText('second word')).toBeVisible()
})

test('a server that fails or is gone is said on every main page, and never looks like an empty house', async ({ page }) => {
  // Each question is asked three times before it counts as failed.
  test.setTimeout(300_000)
  await signOn(page, 'lead')
  const paths = ['/', '/receive', '/putaway', '/stock', '/orders', '/orders/list', '/receive/list', '/pick', '/pack', '/dispatch', '/dispatch/invoices', '/audit', '/schedules', '/catalog', '/outbox', '/printer', '/host']
  for (const [i, path] of paths.entries()) {
    let broken = true
    await page.route('**/api/v1/**', (route) => {
      if (!broken || /session|events|sites/.test(route.request().url())) return route.continue()
      if (i % 2) return route.abort()
      return route.fulfill({ status: 500, contentType: 'application/problem+json', body: JSON.stringify({ code: 'internal', detail: 'Something went wrong here.' }) })
    })
    await page.goto(path)
    await expect(page.getByText('This could not be read.').first(), path).toBeVisible({ timeout: 30_000 })
    await expect(page.locator('#main .empty:visible', { hasText: /^\s*(No |Nothing|The .* clear)/ }), path).toHaveCount(0)
    broken = false
    const failed = await page.getByText('This could not be read.').count()
    await page.getByRole('button', { name: 'Try again' }).first().click()
    await expect.poll(() => page.getByText('This could not be read.').count(), path).toBeLessThan(failed)
    await page.unroute('**/api/v1/**')
  }
})

for (const theme of ['light', 'dark'])
  test(`with a list, a picker and a dialog open, the pages are accessible in the ${theme} theme`, async ({ page }) => {
    await page.emulateMedia({ colorScheme: theme })
    await signOn(page, 'lead')
    await page.goto('/orders/new')
    await settled(page)
    await field(page, 'Wanted').click()
    await expect(page.locator('.ant-picker-dropdown:visible')).toBeVisible()
    expect(await violations(page)).toEqual([])
    await page.keyboard.press('Escape')
    await field(page, 'Customer').fill('moon')
    await expect(page.locator('.ant-select-item-option:visible').first()).toBeVisible()
    expect(await violations(page)).toEqual([])
    await page.keyboard.press('Escape')
    for (const path of ['/', '/receive/list', '/receive/new', '/orders', '/pick', '/schedules', '/catalog/items/HZ-500', '/host']) {
      await page.goto(path)
      await settled(page)
      expect(await violations(page), path).toEqual([])
    }
  })

test('a column is sorted and made wider by keyboard, rows are walked, ticked and opened', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/pick')
  const rows = page.locator('[data-open] tr.row')
  await rows.first().waitFor()
  await page.locator('[data-open]').getByRole('button', { name: 'Units', exact: true }).focus()
  await page.keyboard.press('Enter')
  const units = async () => (await page.locator('[data-open] tr.row td:nth-child(7)').allTextContents()).map(Number)
  await expect.poll(async () => JSON.stringify(await units())).toBe(JSON.stringify((await units()).sort((a, b) => a - b)))
  await page.keyboard.press('Tab')
  const edge = page.getByRole('separator', { name: 'Width of Units' })
  await expect(edge).toBeFocused()
  const before = Number(await edge.getAttribute('aria-valuenow'))
  await page.keyboard.press('ArrowRight')
  await expect(edge).toHaveAttribute('aria-valuenow', String(before + 16))
  await rows.first().focus()
  await page.keyboard.press('ArrowDown')
  await expect(rows.nth(1)).toBeFocused()
  // What goes out for a return or a transfer opens by another name.
  const numberOf = async (i) => (await rows.nth(i).locator('a').first().textContent()).trim()
  let at = 1
  for (; !(await numberOf(at)).startsWith('S-'); at++) await page.keyboard.press('ArrowDown')
  await expect(rows.nth(at)).toBeFocused()
  await page.keyboard.press(' ')
  await expect(page.getByText('1 order ticked')).toBeVisible()
  const number = await numberOf(at)
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: number })).toBeVisible()
  await expect(page.locator('#main h1')).toBeFocused()
  await pick(page, 'Site', 'Hill Loft')
  await pick(page, 'Site', 'Quay House')
})

test('a step that has a counter-move is taken back by Undo; one that has none asks first, in numbers', async ({ page }) => {
  await signOn(page, 'lead')
  const o = await order(page, [['TP-G24', '2']], { release: false })
  await page.goto(`/orders/${o.id}`)
  await press(page, `Release ${o.number}`)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('status').filter({ hasText: 'is on hold' })).toBeVisible()
  expect((await ask(page, `/sales-orders/${o.id}`)).state).toBe('on_hold')

  const [from] = (await ask(page, '/items?site=1&q=TP-G24').then(([i]) => ask(page, `/items/${i.item.id}?site=1`))).holdings.filter((h) => h.kind === 'bin' && Number(h.quantity) > Number(h.reserved))
  const empty = (await ask(page, '/floor?site=1')).bins.find((b) => b.code.startsWith('A-') && Number(b.units) === 0)
  await page.goto('/transfers/move')
  await page.getByLabel('From bin').fill(from.location)
  await page.keyboard.press('Enter')
  await page.locator('nav button', { hasText: 'TP-G24' }).first().click()
  await page.getByLabel(/How many/).fill('1')
  await page.getByLabel('To bin').fill(empty.code)
  await press(page, 'Move 1')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('status').filter({ hasText: `to ${from.location}` })).toBeVisible()
  expect((await ask(page, `/locations/${empty.id}`)).holdings).toEqual([])

  await page.goto(`/orders/${o.id}`)
  await page.getByRole('button', { name: 'Cancel what is open' }).click()
  const asks = page.getByRole('dialog', { name: `Cancel what is open of ${o.number}?` })
  await expect(asks).toContainText('2 of 2 units are not shipped')
  await page.keyboard.press('Escape')
  await expect(asks).toHaveCount(0)
  expect((await ask(page, `/sales-orders/${o.id}`)).state).toBe('on_hold')
})

test('on paper a list has all its rows, in ink on white, whatever the theme', async ({ page }) => {
  await page.emulateMedia({ colorScheme: 'dark' })
  await signOn(page, 'lead')
  await page.goto('/orders/list?state=')
  const rows = page.locator('[data-list] tr.row')
  await rows.first().waitFor()
  const read = Number(await page.locator('[data-list] table').getAttribute('aria-rowcount')) - 1
  expect(await rows.count()).toBeLessThan(read)
  await page.emulateMedia({ colorScheme: 'dark', media: 'print' })
  await expect.poll(() => rows.count()).toBeGreaterThanOrEqual(Math.min(read, 100))
  expect(await page.evaluate(() => getComputedStyle(document.documentElement).getPropertyValue('--ink'))).toBe('#231e18')
  await expect(page.locator('header')).toBeHidden()
})

test('what is typed into a move or a count comes back after a reload, and is given up when one says so', async ({ page }) => {
  await signOn(page, 'lead')
  const { item } = (await ask(page, '/items?site=1&q=CB-050'))[0]
  const from = (await ask(page, `/items/${item.id}?site=1`)).holdings.find((h) => h.kind === 'bin')
  await page.goto('/transfers/move')
  await field(page, 'From bin').fill(from.location)
  await page.keyboard.press('Enter')
  await page.locator('nav button', { hasText: 'CB-050' }).first().click()
  await page.getByLabel(/^How many of CB-050/).fill('2')
  await field(page, 'Note').fill('nearer to the bench')
  await page.reload()
  await expect(page.locator('[data-restored]')).toBeVisible()
  await expect(page.getByLabel(/^How many of CB-050/)).toHaveValue('2')
  await expect(field(page, 'Note')).toHaveValue('nearer to the bench')
  await expect(page.locator('nav button[aria-current=true], nav button.on', { hasText: 'CB-050' })).toHaveCount(1)
  await page.getByRole('button', { name: 'Discard it' }).click()
  await expect(page.getByLabel(/^How many of/)).toHaveCount(0)

  const [due] = await askedFor(page)
  await page.goto(`/audit/${due.location_id}/${due.item_id}`)
  await page.locator('[data-count]').first().fill('7')
  await page.reload()
  await expect(page.locator('[data-count]').first()).toHaveValue('7')
})

test('what is typed for goods, a reservation, a round and a carton is back after a reload', async ({ page }) => {
  await signOn(page, 'lead')
  const kept = async (label, value) => {
    await page.getByLabel(label).first().fill(value)
    await page.reload()
    await expect(page.locator('[data-restored]').first()).toBeVisible()
    await expect(page.getByLabel(label).first()).toHaveValue(value)
  }
  const goods = (await ask(page, '/put-away/waiting?site=1')).find((w) => w.tracking !== 'serial' && Number(w.quantity) > 1)
  await page.goto('/putaway')
  await page.getByRole('button', { name: goods.description }).first().click()
  await kept(/^Quantity for/, '3')
  const o = await order(page, [['RS-200', '2'], ['TP-B50', '5']])
  await page.goto(`/orders/${o.id}`)
  await page.getByRole('button', { name: 'Reserve stock to line 1' }).click()
  await kept(/^Reserve from/, '1')
  await page.goto(`/pick?order=${o.id}`)
  await kept(/^Take from/, '1')
  // Who comes back to plan another is asked first.
  const other = await order(page, [['TP-B50', '1']])
  await page.goto(`/pick?order=${other.id}`)
  await expect(page.getByLabel(/^Take from/).first()).toHaveValue('1')
  await page.getByRole('button', { name: 'Discard it and plan 1 other order' }).click()
  await expect(page.getByLabel(`Take from`)).toHaveCount(1)
  const [carton] = await ask(page, '/cartons?site=1&state=at_bench')
  await page.goto(`/pack/${carton.id}`)
  await kept(/^Weight, kg/, '77')
  // A list on paper that is taken down line by line.
  const r = await round(page, [await order(page, [['TP-B50', '2']])])
  await page.goto(`/pick/${r.id}`)
  await page.getByRole('button', { name: 'Confirm from paper' }).click()
  await kept(/^Picked at stop 1/, '1')
})
