import { ask, command, countHere, expect, field, order, pick, press, round, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'

test('the list of the day is walked and counted in the hand, and leaves it', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  await page.goto('/audit')
  const before = (await ask(page, '/counts/today?site=1')).rows
  await expect(page.locator('[data-today]')).toContainText(`${before.length} to be counted on one walk`)
  const hand = await takeHandheld(browser, baseURL, 'B-004')
  await hand.getByRole('link', { name: /^Count/ }).click()
  await expect(hand.locator('[data-go]')).toHaveText(before[0].bin)
  let emptied
  const alone = (d) => before.filter((x) => x.location_id === d.location_id).length === 1
  for (const d of before.filter((x) => x.bin !== before[0].bin && x.reasons.includes('emptied') && alone(x)))
    if ((await ask(page, `/counts/entry?location=${d.location_id}&item=${d.item_id}`)).tracking !== 'serial') emptied ??= d
  await scan(hand, emptied.bin)
  await expect(hand.locator('[data-go]')).toHaveText(emptied.bin)
  await hand.locator('[data-quantity="0"]').fill('0')
  await hand.locator('[data-press]').click()
  await expect(hand.getByRole('status').filter({ hasText: `0 of ${emptied.sku} in ${emptied.bin} are confirmed` })).toBeVisible()
  await expect(hand.locator('[data-go]')).toHaveText(before[0].bin)
  await scan(hand, 'Z-99')
  await expect(hand.locator('[data-wrong]')).toBeVisible()
  await hand.getByRole('button', { name: 'Later' }).click()
  await expect(hand.locator('[data-go]')).not.toHaveText(before[0].bin)
  // The desk hears of it.
  await expect(page.locator(`nav.q a[href="/audit/${emptied.location_id}/${emptied.item_id}"]`)).toHaveCount(0)
})

test('the ranking of a site is shown as a curve, and set in the catalog', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/audit')
  await page.getByRole('link', { name: 'classes' }).click()
  await expect(page.getByText(/\d+ are A, \d+ are B, \d+ are C/).first()).toBeVisible()
  await expect(page.getByText('DM-012').first()).toBeVisible()
})

/** A bin of the first site that holds some of one item loose, of no lot, that nothing is reserved of. */
async function quietBin(page) {
  const { bins } = await ask(page, '/floor?site=1')
  for (const b of bins.filter((x) => Number(x.units) > 6)) {
    const { holdings } = await ask(page, `/locations/${b.id}`)
    const [h] = holdings
    const plain = holdings.length === 1 && h.condition === 'good' && !h.lot && !h.carton && !h.serials.length && !Number(h.reserved)
    if (plain && Number.isInteger(Number(h.quantity))) return { id: b.id, code: b.code, item: h.item_id, sku: h.sku, units: Number(h.quantity) }
  }
  throw new Error('no quiet bin')
}

test('a stretch is counted in the hand by its sheet, and the desk sees how far it is', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const bin = await quietBin(page)
  await page.goto('/audit/sheets')
  await page.getByRole('link', { name: 'New count sheet' }).click()
  await pick(page, 'Counted is', 'a stretch of bins')
  await field(page, 'From bin').fill(bin.code)
  await field(page, 'To bin').fill('nowhere')
  await expect(page.getByText(/nowhere.* is no/).first()).toBeVisible()
  await field(page, 'To bin').fill(bin.code)
  await expect(page.getByRole('cell', { name: `${bin.code} to ${bin.code}` })).toBeVisible()
  await press(page, 'Open a sheet of 2 lines')
  await expect(page.getByRole('heading', { name: /Count sheet CS-\d+/ })).toBeVisible()
  const sheet = page.url().match(/sheets\/(\d+)/)[1]
  // What is on it is counted there and nowhere else.
  expect((await countHere(page, bin.id, bin.item, '1')).code).toBe('on_sheet')
  const hand = await takeHandheld(browser, baseURL, 'B-004')
  await hand.goto('/hand/count')
  await hand.locator(`a[href="/hand/count/${sheet}"]`).click()
  await scan(hand, bin.code)
  await expect(hand.locator('[data-go]')).toHaveText(bin.code)
  await hand.locator('[data-quantity="0"]').fill(String(bin.units))
  await hand.locator('[data-press]').click()
  await expect(hand.getByText('What else is in')).toBeVisible()
  await expect(page.locator('[data-progress]')).toContainText('1 of 2 lines are counted')
  // Something lies there that the books do not know of: it is counted by whoever finds it, and by somebody else.
  const stray = 'HC-050'
  const strayItem = (await ask(page, `/items?site=1&q=${stray}`))[0].item.id
  const { lot } = (await ask(page, `/items/${strayItem}?site=1`)).holdings.find((h) => h.lot)
  await scan(hand, 'never-heard-of')
  await expect(hand.locator('[data-wrong]')).toBeVisible()
  await scan(hand, stray)
  await hand.locator('[data-quantity="0"]').fill('2')
  await hand.locator('[data-press]').click()
  await expect(hand.locator('[data-wrong]')).toContainText('Say which lot was counted')
  await hand.getByRole('button', { name: 'Another lot is here' }).click()
  await hand.locator('[data-lot="0"]').fill(lot)
  await hand.locator('[data-quantity="0"]').fill('2')
  await hand.locator('[data-press]').click()
  await expect(hand.getByRole('status').filter({ hasText: `2 of ${stray} in ${bin.code} are confirmed` })).toContainText('another person counts it again')
  await hand.getByRole('button', { name: 'Nothing else' }).click()
  await expect(hand.locator('[data-over]')).toContainText('is counted')
  await expect(page.locator('[data-progress]')).toContainText('2 of 2 lines are counted')
})

test('goods in quarantine and among the damaged are counted as what they are', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/audit/sheets/new?scope=bins')
  await page.getByRole('textbox', { name: 'Bins, one to a line' }).fill('Quarantine\nReturns corner, Nowhere')
  await expect(page.getByText(/no bin "Nowhere"/).first()).toBeVisible()
  await page.getByRole('textbox', { name: 'Bins, one to a line' }).fill('Quarantine\nReturns corner')
  await press(page, 'Open a sheet of')
  await expect(page.getByRole('heading', { name: /Count sheet CS-\d+/ })).toBeVisible()
  await expect(page.getByRole('cell', { name: 'quarantine', exact: true })).toBeVisible()
  const there = (await ask(page, `/locations?site=1&kind=quarantine`))[0]
  const [h] = (await ask(page, `/locations/${there.id}`)).holdings
  await page.locator(`[data-lines] a[href^="/audit/${there.id}/${h.item_id}"]`).click()
  await expect(page.getByText('on hold').first()).toBeVisible()
  await page.locator('[data-count]').first().fill(String(Number(h.quantity)))
  await press(page, `Confirm ${Number(h.quantity)} of ${h.sku}`)
  await expect(page.locator('[data-progress]')).toContainText(/^1 of/)
  await page.getByRole('button', { name: 'Close the sheet' }).click()
  await page.getByRole('button', { name: /^Close CS-/ }).click()
  await expect(page.locator('[data-progress]')).toContainText('closed')
})

test('goods that move while they are counted are asked about, and the count stands for its moment', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const bin = await quietBin(page)
  await page.goto(`/audit/${bin.id}/${bin.item}`)
  await page.locator('[data-count]').fill(String(bin.units))
  const to = (await ask(page, '/floor?site=1')).bins.find((b) => Number(b.units) === 0 && b.level === 1 && b.code[0] === bin.code[0])
  const moved = await command(page, '/transfers', { from_id: bin.id, to: to.code, item_id: bin.item, quantity: '2' })
  expect(moved.code).toBeUndefined()
  await expect(page.locator('[data-problem]')).toContainText('Say whether you counted before that')
  await page.getByRole('button', { name: 'I counted before that' }).click()
  await press(page, `Confirm ${bin.units} of ${bin.sku}`)
  await expect(page.getByRole('heading', { name: 'Counting' })).toBeVisible()
  const [last] = (await ask(page, '/counts?site=1&sort=number&down=true')).rows
  expect([last.bin, last.found, last.expected, last.state]).toEqual([bin.code, String(bin.units), String(bin.units), 'settled'])
})

test('what differs by much is counted by others, settled with a reason, and taken back', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const bin = await quietBin(page)
  const other = await (await browser.newContext({ baseURL })).newPage()
  await signOn(other, 'picker')
  const third = await (await browser.newContext({ baseURL })).newPage()
  await signOn(third, 'receiver')
  const less = String(Math.floor(bin.units / 2))
  expect((await countHere(other, bin.id, bin.item, less)).verdict).toBe('again')
  expect((await countHere(other, bin.id, bin.item, less)).code).toBe('count_mine')
  await page.goto('/audit')
  await expect(page.locator('[data-differs]', { hasText: bin.code }).filter({ hasText: bin.sku })).toContainText('another person counts it')
  expect((await countHere(third, bin.id, bin.item, less)).verdict).toBe('decide')
  const card = page.locator('[data-differs]', { hasText: bin.code }).filter({ hasText: bin.sku })
  await expect(card).not.toContainText('another person counts it')
  await card.click()
  await expect(page.getByRole('heading', { name: 'Who counted it' })).toBeVisible()
  await page.locator('[data-reason]').fill('the rest was taken for the school show')
  await press(page, `Settle ${bin.code}: ${less} of ${bin.sku}`)
  await expect(page.getByRole('heading', { name: 'Counting' })).toBeVisible()
  await page.getByRole('link', { name: 'Past counts' }).click()
  await page.locator('[data-counts] a', { hasText: /^C-/ }).first().click()
  await page.locator('[data-reason]').fill('they came back after all')
  await press(page, 'Take back C-')
  await expect(page.getByText('they came back after all').first()).toBeVisible()
  const { holdings } = await ask(page, `/locations/${bin.id}`)
  expect(holdings.map((h) => h.quantity)).toEqual([String(bin.units)])
})

test('accuracy is told by zone and by who put away, with its bounds and what made it wrong', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/audit/accuracy')
  await expect(page.locator('[data-accuracy]')).toContainText(/of bins were right\. Of all there is, counted or not, between [\d.]+ and [\d.]+ %/)
  await pick(page, 'By', 'Who put away')
  await expect(page.getByRole('heading', { name: 'What made them wrong' })).toBeVisible()
  await expect(page).toHaveURL(/by=person/)
})

test('a stop that empties its bin asks for a look, which counts it', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const bin = await quietBin(page)
  const o = await order(page, [[bin.sku, String(bin.units)]])
  const { lines } = await ask(page, `/sales-orders/${o.id}`)
  await command(page, `/sales-lines/${lines[0].id}/reservations`, { reservations: [{ location_id: bin.id, quantity: String(bin.units) }] })
  const r = await round(page, [o])
  expect(r.stops.map((s) => s.empties)).toEqual([true])
  const [label] = await command(page, '/cartons', { site_id: 1, count: 1 })
  const hand = await takeHandheld(browser, baseURL, 'B-004')
  await hand.goto(`/hand/round/${r.id}`)
  await hand.getByRole('button', { name: 'Start walking' }).click()
  await scan(hand, label.sscc)
  await scan(hand, bin.code)
  await scan(hand, bin.sku)
  await scan(hand, label.sscc)
  await hand.locator('form [data-press]').click()
  // It is asked again after a reload, and answered once.
  await expect(hand.locator('[data-nought]')).toContainText('Is any of it left there?')
  await hand.reload()
  await hand.getByRole('button', { name: 'Some are left' }).click()
  await hand.locator('[data-left]').fill('2')
  await hand.locator('[data-nought] [data-press]').click()
  await expect(hand.getByRole('heading', { name: 'All stops made' })).toBeVisible()
  const [waits] = (await ask(page, '/counts/differing?site=1')).filter((c) => c.bin === bin.code && c.sku === bin.sku)
  expect([waits.found, waits.expected, waits.how, waits.state]).toEqual(['2', '0', 'round', 'recount'])
})
