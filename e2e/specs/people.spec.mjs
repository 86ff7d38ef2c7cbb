import { ask, command, expect, field, press, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'

test('a wrong password is said in words; the right one gets in, with the keyboard alone', async ({ page }) => {
  await page.goto('/stock')
  await page.getByLabel('Name').focus()
  await page.keyboard.type('lead')
  await page.keyboard.press('Tab')
  await page.keyboard.type('candle')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('alert')).toContainText('The name or the password is wrong')
  await page.getByLabel('Password').fill('lantern')
  await page.keyboard.press('Enter')
  await page.locator('[data-station=receive]').waitFor()
  await expect(page).toHaveURL(/\/stock$/)
  expect(await page.evaluate(() => document.cookie)).toBe('')
})

test('a second person signs on at the same handheld, and the trail tells them apart', async ({ browser, baseURL }) => {
  const hand = await takeHandheld(browser, baseURL, 'B-003')
  const first = (await ask(hand, '/session')).person.name
  const item = (await ask(hand, '/items?site=1&q=SW-130'))[0].item
  const putAway = async () => {
    // Somebody put two stage weights back on the dock.
    const { holdings } = await ask(hand, `/items/${item.id}?site=1`)
    const full = holdings.find((h) => h.kind === 'bin' && Number(h.quantity) - Number(h.reserved) > 2)
    expect(await command(hand, '/transfers', { from_id: full.location_id, to: 'Dock 2', item_id: item.id, quantity: '2' })).toHaveProperty('done')
    await hand.goto('/hand/put-away')
    await hand.getByText('Scan the goods').waitFor()
    await expect(hand.locator('.job', { hasText: item.description }).first()).toBeVisible()
    await scan(hand, item.sku)
    const code = (await hand.locator('[data-go]').textContent()).trim()
    await scan(hand, code)
    await expect(hand.getByRole('status')).toContainText(`put away in ${code}`)
    return { code, item: item.id }
  }
  const one = await putAway()
  await hand.goto('/hand')
  await hand.getByRole('button', { name: 'Sign off' }).click()
  const begun = Date.now()
  await hand.getByLabel('Badge').fill('B-004')
  await hand.getByLabel('PIN').fill('2468')
  await hand.getByRole('button', { name: 'Sign on', exact: true }).click()
  await hand.getByRole('heading', { name: 'What now?' }).waitFor()
  expect(Date.now() - begun).toBeLessThan(10_000)
  const second = (await ask(hand, '/session')).person.name
  const two = await putAway()
  expect(second).not.toBe(first)
  for (const [goods, name] of [[one, first], [two, second]]) {
    const trail = await ask(hand, `/items/${goods.item}/trail?site=1&limit=20`)
    expect(trail.lines.filter((l) => l.location === goods.code && l.kind === 'put_away').slice(0, 2).map((l) => l.person)).toContain(name)
  }
})

test('a viewer sees the house and is told who may act', async ({ page }) => {
  await signOn(page, 'viewer')
  for (const path of ['/', '/receive', '/putaway', '/orders', '/pick', '/pack', '/dispatch']) {
    await page.goto(path)
    await expect(page.locator('main')).not.toBeEmpty()
  }
  await page.goto('/stock/value')
  await expect(page.getByText('What you work as, viewer, does not see this.')).toBeVisible()
  await page.goto('/orders/list')
  await expect(page.getByRole('columnheader', { name: 'Units' })).toBeVisible()
  await expect(page.getByRole('columnheader', { name: 'Value' })).toHaveCount(0)
  const before = (await ask(page, '/items?site=1&q=SB-900'))[0].figures
  await page.goto('/orders/new')
  await expect(page.getByText('Your role looks only: orders are taken by the office.')).toBeVisible()
  // And the server says the same to whoever asks all the same.
  const [{ item }] = await ask(page, '/items?site=1&q=SB-900')
  const [customer] = await ask(page, '/parties?kind=customer&q=lyre')
  expect(await command(page, '/sales-orders', { customer_id: customer.id, site_id: 1, wanted_on: '2027-01-15', lines: [{ item_id: item.id, quantity: '1' }] })).toMatchObject({
    status: 403, detail: 'Your role, viewer, may not do this. Ask one of: lead, office.',
  })
  expect((await ask(page, '/items?site=1&q=SB-900'))[0].figures).toEqual(before)
})

test('an order is taken with the keyboard alone, and bad quantities are refused at their field', async ({ page }) => {
  await signOn(page, 'office')
  await page.keyboard.press('Alt+4')
  await page.goto('/orders/new')
  await field(page, 'Customer').focus()
  await page.keyboard.type('harb')
  // What the letters typed last find, not what the first of them found.
  const found = page.locator('.ant-select-item-option:visible')
  await expect(found).toHaveText(['Harbour Opera Company'], { useInnerText: true })
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Brook & Daughter Carriers, as the customer has it')).toBeVisible()
  await field(page, 'Add an item').focus()
  await page.keyboard.type('stage weight')
  await expect(found).toHaveText([/SW-130/])
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  const wanted = page.getByLabel(/ wanted$/)
  await wanted.focus()
  for (const [typed, words] of [['0', 'A quantity of 0 moves nothing'], ['-2', 'below zero'], ['1.5', 'whole units'], ['many', 'is not a quantity'], ['99999999', 'more than one line can carry']]) {
    await wanted.fill(typed)
    await page.keyboard.press('Control+Enter')
    await expect(page.getByRole('alert')).toContainText(words)
    await expect(wanted).toHaveAttribute('aria-invalid', 'true')
  }
  await wanted.fill('1')
  await page.keyboard.press('Control+Enter')
  await expect(page.getByRole('heading', { name: /Order S-/ })).toContainText('released')
})

test('a long trail is read page by page, and its balances join up', async ({ page }) => {
  await signOn(page, 'lead')
  const floor = await ask(page, '/floor?site=1')
  const dock = floor.locations.find((p) => p.kind === 'dock')
  await page.goto(`/stock/location/${dock.id}`)
  // What is further down is read as it comes into sight.
  const table = page.locator('[data-trail] table')
  await expect(table).toHaveAttribute('aria-rowcount', '41')
  await page.locator('[data-trail] tr.row').first().focus()
  await page.keyboard.press('End')
  await expect.poll(async () => Number(await table.getAttribute('aria-rowcount'))).toBeGreaterThan(61)
  const ids = new Set()
  let before
  for (let i = 0; i < 3; i++) {
    const trail = await ask(page, `/locations/${dock.id}/trail?limit=25${before ? `&after=${encodeURIComponent(before)}` : ''}`)
    for (const l of trail.lines) {
      expect(ids.has(l.id)).toBe(false)
      ids.add(l.id)
    }
    before = trail.next
  }
  // From any line, the one before it of the same item had what this one added to.
  const item = (await ask(page, '/items?site=1&q=TP-B50'))[0].item
  const trail = await ask(page, `/items/${item.id}/trail?site=1&limit=100`)
  for (const [i, l] of trail.lines.entries()) {
    const earlier = trail.lines.slice(i + 1).find((e) => e.location_id === l.location_id)
    if (earlier) expect(Number(l.location_after) - Number(l.delta)).toBeCloseTo(Number(earlier.location_after))
  }
})

test('what a role may not do is not offered, page by page', async ({ page }) => {
  await signOn(page, 'viewer')
  const first = async (path, of = (x) => x) => of(await ask(page, path))[0].id
  const pages = [
    `/receive/arrival/${await first('/arrivals?site=1')}`,
    `/receive/order/${await first('/purchase-orders?site=1&list=open', (x) => x.orders)}`,
    `/receive/inspection/${await first('/inspections?site=1')}`,
    '/receive/new', '/receive/suggestions', '/putaway', '/orders/new', '/orders/40', '/pick',
    `/pack/${await first('/cartons?site=1&state=at_bench')}`,
    '/dispatch', '/dispatch/invoices', '/transfers', '/audit', '/catalog', '/printer', '/host',
  ]
  const barred = /^(Close|Take back|Take it back|Receive|Add another order|Make|Check|Weigh|All pass|Return it|Release|Plan|Hold|Ship|Move|Print \d|Discard the|Let it|Put a new roll|Add one|Import|Send)\b/
  for (const path of pages) {
    await page.goto(path)
    await expect(page.locator('#main h1').first()).toBeVisible()
    await expect(page.locator('.ant-spin, .ant-skeleton')).toHaveCount(0)
    await expect(page.locator('#main, aside').getByRole('button', { name: barred }), path).toHaveCount(0)
  }
})

test('a lead adds somebody, who chooses a password of their own and is shut out again', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  await page.getByRole('link', { name: 'People', exact: true }).click()
  await page.getByRole('link', { name: 'add somebody' }).click()
  await field(page, 'Name').fill('Tamsin Reed')
  await field(page, 'Signs on as').fill('tamsin')
  await field(page, 'Badge').fill('b-077')
  // Somebody who picks and does the accounts too.
  await field(page, 'Works as').click()
  await page.keyboard.type('acc')
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  await expect(page.getByText('set prices, write invoices').first()).toBeVisible()
  await field(page, 'First password').fill('short')
  await field(page, 'First PIN').fill('5193')
  await press(page, 'Add Tamsin Reed')
  await expect(page.getByText('A password has 10 to 200 characters, and this has 5.').first()).toBeVisible()
  await field(page, 'First password').fill('a boat in the harbour')
  await press(page, 'Add Tamsin Reed')
  await expect(page.getByRole('heading', { name: 'Tamsin Reed' })).toBeVisible()
  await expect(page.locator('[data-access]')).toContainText('a password to be changed, and a badge with a PIN to be changed')
  const hers = await (await browser.newContext({ baseURL })).newPage()
  await hers.goto('/pick')
  await hers.getByLabel('Name').fill('tamsin')
  await hers.getByLabel('Password').fill('a boat in the harbour')
  await hers.getByRole('button', { name: 'Sign on', exact: true }).click()
  await expect(hers.getByRole('heading', { name: 'Your password' })).toBeVisible()
  await hers.getByLabel('that you have now').fill('a boat in the harbour')
  await hers.getByLabel('The new one', { exact: true }).fill('two boats at sea')
  await hers.getByLabel('The new one again').fill('two boats at see')
  await hers.getByRole('button', { name: 'Change it' }).click()
  await expect(hers.getByRole('alert')).toContainText('not the same')
  await hers.getByLabel('The new one again').fill('two boats at sea')
  await hers.getByRole('button', { name: 'Change it' }).click()
  await hers.locator('[data-station=pick]').waitFor()
  await expect(hers.getByRole('link', { name: 'People', exact: true })).toHaveCount(0)
  expect((await ask(hers, '/session')).person.roles).toEqual(['picker', 'accounts'])
  await hers.goto('/stock/value')
  await expect(hers.getByRole('heading', { name: 'What stock is worth' })).toBeVisible()
  // Who is signed on is seen, and shut out.
  await page.reload()
  await expect(page.getByRole('cell', { name: 'password', exact: true })).toBeVisible()
  await page.getByRole('button', { name: 'They left' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'They left' }).click()
  await expect(page.getByRole('heading', { name: /Tamsin Reed left/ })).toBeVisible()
  await expect.poll(async () => (await ask(hers, '/row?site=1')).code, { timeout: 15_000 }).toBe('signed_out')
  await page.getByRole('link', { name: 'What happened to their access' }).click()
  await expect(page.locator('[data-events]')).toContainText('person ended')
})
