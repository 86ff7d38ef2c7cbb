import { ask, expect, find, lookInto, onward, press, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'

test.describe.configure({ mode: 'serial' })

let page
let numbers = {}
test.beforeAll(async ({ browser, baseURL, houses }, info) => {
  await houses(info.file)
  page = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, baseURL })).newPage()
  await signOn(page, 'lead')
})

test('a purchase order is made with items found by words, by SKU and by GTIN', async () => {
  await page.goto('/receive/new')
  await find(page, 'Supplier', 'mis', 'Mistral Hollow Fluids')
  const finder = page.getByLabel('Add an item')
  await finder.fill('haze 5')
  await page.locator('.ant-select-item-option', { hasText: 'HZ-500' }).click()
  await finder.fill('DH-1')
  await page.locator('.ant-select-item-option', { hasText: 'DH-100' }).click()
  const item = (await ask(page, '/items?site=1&q=HP-001'))[0].item
  await finder.fill(item.packs[0].gtin)
  await page.locator('.ant-select-item-option', { hasText: 'HP-001' }).click()
  await page.getByLabel('HZ-500 quantity').fill('7')
  await page.getByLabel('DH-100 quantity').fill('2.5')
  await page.getByLabel('HP-001 quantity').fill('1')
  await expect(page.getByText('28 canister')).toBeVisible()
  await page.getByRole('button', { name: /Send the order/ }).click()
  await expect(page.getByRole('alert')).toContainText('2.5 is not a whole number')
  await expect(page.getByLabel('DH-100 quantity')).toHaveAttribute('aria-invalid', 'true')
  await page.getByLabel('DH-100 quantity').fill('2')
  await page.getByRole('button', { name: /Send the order/ }).click()
  await expect(page.getByRole('heading', { name: /Order P-/ })).toBeVisible()
  numbers.order = await page.locator('h1 .mono').textContent()
})

test('what came is checked off: a lot item without its lot is refused, a GS1 scan fills it', async () => {
  await page.getByRole('button', { name: /Open an arrival/ }).click()
  await expect(page.getByRole('heading', { name: /Arrival A-/ })).toBeVisible()
  await page.getByLabel('DH-100 here now').fill('20')
  await page.getByLabel('HZ-500 here now').fill('28')
  await expect(page.locator('[data-problem]')).toContainText('HZ-500 is kept by lots')
  await expect(page.locator('[data-primary]')).toBeDisabled()
  await page.getByLabel('HZ-500 here now').fill('')
  const gtin = (await ask(page, '/items?site=1&q=HZ-500'))[0].item.packs[1].gtin
  const line = page.getByLabel('Scan or type')
  for (let i = 0; i < 7; i++) {
    await line.fill(`(01)${gtin}(17)281231(10)QX-77`)
    await line.press('Enter')
    await expect(page.getByLabel('HZ-500 here now')).toHaveValue(String(4 * (i + 1)))
  }
  await expect(page.getByLabel('HZ-500 lot 1', { exact: true })).toHaveValue('QX-77')
  await expect(page.getByLabel('HZ-500 lot 1 expires')).toHaveValue('2028-12-31')
  await expect(page.locator('aside')).toContainText('28 of 28, closes')
  await press(page, 'Receive 48')
  await expect(page.getByRole('status').filter({ hasText: 'Received' })).toBeVisible()
  await page.getByLabel('HP-001 here now').fill('7')
  await expect(page.locator('[data-problem]')).toContainText('at most 6 may still come')
})

test('bins are proposed for it; an over-full bin is refused; another bin is chosen and put away', async () => {
  await page.goto('/putaway')
  await page.locator('nav button', { hasText: 'QX-77' }).click()
  const locations = page.locator('[data-place]')
  await expect(locations.first()).toBeVisible()
  await expect(page.getByText('28 of 28 placed')).toBeVisible()
  await expect.poll(() => locations.count()).toBeGreaterThan(1)
  const first = await locations.first().getAttribute('data-place')
  await page.getByRole('button', { name: `all into ${first}` }).click()
  await expect(page.locator('[data-problem]')).toContainText(new RegExp(`${first} can take \\d+ of HZ-500, not 28`))
  await expect(page.locator('[data-primary]')).toBeDisabled()
  await page.getByRole('button', { name: 'Propose again' }).click()
  // The proposal is there when what was wrong is gone; all 28 were placed before it too.
  await expect(page.locator('[data-problem]')).toHaveCount(0)
  await expect(page.getByText('28 of 28 placed')).toBeVisible()
  await page.getByLabel(`Quantity for ${first}`).fill('1')
  await expect(page.locator('[data-problem]')).toContainText('the parts must add up', { ignoreCase: true })
  await page.getByRole('button', { name: 'Propose again' }).click()
  await press(page, 'Put away 28')
  await expect(page.getByRole('status').filter({ hasText: 'Put away' })).toBeVisible()
})

test('the trail of the lot tells who, when, from where and for which document', async () => {
  const line = page.getByLabel('Scan or type')
  await line.fill('QX-77')
  await line.press('Enter')
  await expect(page.getByRole('heading', { name: 'Lot QX-77' })).toBeVisible()
  const trail = page.locator('[data-trail]')
  await expect(trail).toContainText('receive')
  await expect(trail).toContainText('Ines Calloway')
  await expect(trail).toContainText('Mistral Hollow Fluids')
  await trail.getByRole('link', { name: /^A-/ }).first().click()
  await expect(page.getByRole('heading', { name: /Arrival A-/ })).toBeVisible()
})

test('an order is taken by first letters, with free and free after, and released', async () => {
  await page.goto('/orders/new')
  await find(page, 'Customer', 'lyre', 'The Lyrebird Theatre')
  await find(page, 'Add an item', 'haze fluid 5', 'HZ-500')
  const figures = (await ask(page, '/items?site=1&q=HZ-500'))[0].figures
  await page.getByLabel('HZ-500 wanted').fill('26')
  await expect(page.locator('tr', { hasText: 'HZ-500' })).toContainText(String(Number(figures.free) - 26))
  await page.getByRole('button', { name: 'Take the order, on hold' }).click()
  await expect(page.getByRole('heading', { name: /Order S-/ })).toContainText('on hold')
  numbers.sales = await page.locator('h1 .mono').textContent()
  await page.getByRole('button', { name: /Release S-.*/ }).click()
  await expect(page.getByRole('heading', { name: /Order S-/ })).toContainText('released')
})

test('a round is planned bin by bin, changed, and released', async () => {
  await page.getByRole('link', { name: 'Plan a round for it' }).click()
  const rows = page.locator('[data-proposal] tbody tr')
  await expect(rows.first()).toBeVisible()
  await expect.poll(() => rows.count()).toBeGreaterThan(1)
  const take = rows.first().getByRole('spinbutton')
  const planned = await take.inputValue()
  await take.fill('9999')
  await expect(page.getByRole('alert')).toContainText('are free in that bin')
  await take.fill(planned)
  await rows.last().getByRole('button', { name: 'Bin' }).click()
  await expect(page.getByRole('button', { name: 'Use it' }).first()).toBeVisible()
  await press(page, /Release \d+ stops for 1 order/)
  await expect(page.getByRole('heading', { name: /Round R-/ })).toBeVisible()
  numbers.round = await page.locator('h1 .mono').textContent()
})

test('the round is walked on a handheld; a wrong scan stops it and says what was expected', async ({ browser, baseURL }) => {
  const hand = await takeHandheld(browser, baseURL, 'B-004')
  await hand.getByText(numbers.round).click()
  await hand.getByRole('button', { name: 'Start walking' }).click()
  const blank = await ask(hand, '/cartons?site=1&state=blank')
  await scan(hand, 'A-01-1-A')
  await expect(hand.locator('[data-wrong]')).toContainText('no carton label')
  await scan(hand, `]C100${blank[0].sscc}`)
  numbers.sscc = blank[0].sscc
  const round = (await ask(hand, '/rounds?site=1')).find((r) => r.number === numbers.round)
  const { stops } = await ask(hand, `/rounds/${round.id}`)
  for (const [i, stop] of stops.entries()) {
    await expect(hand.locator('[data-go]')).toHaveText(stop.bin)
    if (i === 0) {
      await scan(hand, stop.bin === 'F-12-3-B' ? 'F-12-3-A' : 'F-12-3-B')
      await expect(hand.locator('[data-wrong]')).toContainText(`This stop is at ${stop.bin}`)
      await expect(hand.locator('html')).toHaveAttribute('data-signal', 'wrong')
    }
    await scan(hand, stop.bin)
    await expect(hand.getByText('Scan the item')).toBeVisible()
    if (i === 0) {
      await scan(hand, 'TP-B50')
      await expect(hand.locator('[data-wrong]')).toContainText('Here you take HZ-500')
      await scan(hand, `(01)${stop.gtin}(10)NOT-IT`)
      await expect(hand.locator('[data-wrong]')).toContainText('Here you take lot')
    }
    await scan(hand, `]C101${stop.gtin}10${stop.lot}`)
    await expect(hand.getByText('Scan carton A')).toBeVisible()
    if (i === 0) {
      await scan(hand, `]C100${blank[1].sscc}`)
      await expect(hand.locator('[data-wrong]')).toContainText('not on this round')
    }
    await scan(hand, numbers.sscc)
    await expect(hand.locator('[data-quantity]')).toHaveValue(stop.quantity)
    await hand.locator('[data-press]').click()
    await expect(hand.locator('.dots .d')).toHaveCount(i + 1)
    await lookInto(hand, onward(hand))
  }
  await hand.getByRole('button', { name: 'Bring to the bench' }).click()
  await expect(hand.getByRole('heading', { name: 'At the bench' })).toBeVisible()
})

test('the carton is closed at the bench, sent, and the order shows it', async () => {
  const line = page.getByLabel('Scan or type')
  await line.fill(numbers.sscc)
  await line.press('Enter')
  await expect(page.getByRole('heading', { name: `Carton ${numbers.sscc}` })).toBeVisible()
  await expect(page.locator('[data-contents]')).toContainText('HZ-500')
  await page.getByLabel(/Weight/).fill('140')
  await expect(page.locator('aside')).toContainText('140 kg')
  await press(page, 'Close carton')
  await expect(page.getByRole('status').filter({ hasText: 'stands at the gate' })).toBeVisible()
  await page.goto('/dispatch')
  await page.locator('nav button', { hasText: numbers.sales }).click()
  await press(page, 'Ship 1 carton, 26 units')
  await expect(page.getByRole('heading', { name: /Shipment D-/ })).toBeVisible()
  const pdf = await page.request.get(await page.getByRole('link', { name: 'Delivery note' }).getAttribute('href'))
  expect(pdf.headers()['content-type']).toBe('application/pdf')
  await line.fill(numbers.sales)
  await line.press('Enter')
  await expect(page.getByRole('heading', { name: /Order S-/ })).toContainText('shipped')
})
