import AxeBuilder from '@axe-core/playwright'
import { settled } from '../lib/browser.mjs'
import { ask, expect, field, find, press, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'

const rules = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']

/** What the accessibility rules say of a page as it stands. */
async function faults(page) {
  await settled(page)
  const { violations } = await new AxeBuilder({ page }).withTags(rules).analyze()
  return violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.html).join(' | ')}`)
}

const pages = [
  '/', '/receive', '/receive/new', '/receive/list', '/putaway', '/stock', '/stock/history', '/stock/item/14', '/stock/location/177', '/stock/lot/1', '/orders', '/orders/new', '/orders/list',
  '/orders/reservations', '/pick', '/pack', '/dispatch', '/dispatch/load', '/dispatch/shipments', '/dispatch/invoices', '/dispatch/invoices/list', '/returns', '/returns/new', '/host', '/outbox', '/schedules',
  '/schedules/1', '/transfers', '/transfers/new', '/transfers/move', '/transfers/refills', '/transfers/refills/2', '/returns/without-paper', '/stock/serial/1', '/audit', '/audit/classes', '/audit/accuracy', '/audit/counts', '/audit/count/1', '/audit/sheets', '/audit/sheets/new', '/audit/recall/recall/1', '/audit/recall/lot/20', '/audit/got/2', '/stock/value', '/catalog/items/HZ-500', '/catalog/bins/import', '/printer', '/reference',
]
/** What is chosen from a station's list, besides the day that it shows without. */
const choosing = { '/putaway': 'nav button', '/receive': 'nav a[href^="/receive/arrival"]' }
for (const path of pages) {
  test(`${path} is accessible in both themes`, async ({ page }) => {
    await signOn(page, 'lead')
    await page.goto(path)
    expect(await faults(page)).toEqual([])
    await page.emulateMedia({ colorScheme: 'dark' })
    expect(await faults(page)).toEqual([])
    if (!choosing[path]) return
    await page.locator(choosing[path]).first().click()
    expect(await faults(page)).toEqual([])
  })
}

test('the handheld pages are accessible at 412 px and need no sideways scrolling', async ({ browser, baseURL }) => {
  const hand = await takeHandheld(browser, baseURL, 'B-003')
  for (const path of ['/hand', '/hand/put-away', '/hand/round/24', '/hand/refill/3', '/hand/move', '/hand/count']) {
    await hand.goto(path)
    await settled(hand)
    const { violations } = await new AxeBuilder({ page: hand }).withTags(rules).analyze()
    expect(violations.map((v) => `${path} ${v.id}: ${v.nodes.map((n) => n.html).join(' | ')}`)).toEqual([])
    expect(await hand.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(412)
  }
})

test('everything can be reached with the keyboard alone', async ({ page }) => {
  await signOn(page, 'lead')
  for (const [key, path] of [['1', '/receive'], ['2', '/putaway'], ['5', '/pick'], ['0', '/audit']]) {
    await page.keyboard.press(`Alt+${key}`)
    await expect(page).toHaveURL(new RegExp(`${path}$`))
  }
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'Keys of this page' })).toBeVisible()
  await page.keyboard.press('Escape')
  await page.keyboard.press('/')
  await page.keyboard.type('C-06-1-A')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('heading', { name: 'C-06-1-A' })).toBeVisible()
  await page.keyboard.press('/')
  await page.keyboard.type('(01)09521234000031')
  await page.keyboard.press('Enter')
  await expect(page.locator('#scan-said')).toContainText('check digit would be')
})

test('a change by one is seen by another at once', async ({ browser, baseURL }) => {
  const open = async (login) => {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, baseURL })).newPage()
    await signOn(page, login)
    return page
  }
  const lead = await open('lead')
  const watcher = await open('viewer')
  await watcher.goto('/')
  const lamp = watcher.locator('[data-station=putaway] b')
  const before = await lamp.textContent()
  await lead.goto('/putaway')
  await lead.locator('nav button').first().click()
  await press(lead, 'Put away')
  await expect(lead.getByRole('status').filter({ hasText: 'Put away' })).toBeVisible()
  await expect(lamp).not.toHaveText(before)
})

test('a command whose answer is lost is sent again and happens once', async ({ page }) => {
  await signOn(page, 'lead')
  const [from] = (await ask(page, '/items/14?site=1')).holdings.filter((h) => h.kind === 'bin' && Number(h.quantity) > Number(h.reserved))
  await page.goto('/transfers/move')
  await page.getByLabel('From bin').fill(from.location)
  await page.keyboard.press('Enter')
  await page.locator('nav button', { hasText: 'HZ-500' }).first().click()
  await page.getByLabel(/How many/).fill('1')
  const empty = (await ask(page, '/floor?site=1')).bins.find((b) => b.code.startsWith('C-') && Number(b.units) === 0)
  await page.getByLabel('To bin').fill(empty.code)
  const keys = []
  await page.route('**/api/v1/transfers', async (route) => {
    keys.push(route.request().headers()['idempotency-key'])
    if (keys.length > 1) return route.continue()
    await route.fetch() // it reaches the server, and its answer is lost
    await route.abort()
  })
  await press(page, 'Move 1')
  await expect(page.getByRole('status').filter({ hasText: 'Moved 1' })).toBeVisible()
  expect(keys.length).toBe(2)
  expect(keys[0]).toBe(keys[1])
  const there = await ask(page, `/locations/${empty.id}`)
  expect(there.holdings.map((h) => h.quantity)).toEqual(['1'])
})

test('when the session ends, what was typed is not lost', async ({ page, context }) => {
  await signOn(page, 'office')
  await page.goto('/orders/new')
  await field(page, "Customer's reference").fill('keep me')
  await find(page, 'Customer', 'copper', 'Copper Lane Playhouse')
  await find(page, 'Add an item', 'TP-B50', 'TP-B50')
  await page.getByLabel('TP-B50 wanted').fill('3')
  await context.clearCookies()
  // The page may notice on its own, before anybody presses anything, and cover the button.
  await page.getByRole('button', { name: 'Take the order, on hold' }).dispatchEvent('click')
  await expect(page.getByRole('dialog')).toContainText('what you typed is still there')
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('office')
  await page.getByLabel('Password').fill('lantern')
  await page.getByRole('button', { name: 'Sign on', exact: true }).click()
  await expect(field(page, "Customer's reference")).toHaveValue('keep me')
  await page.getByRole('button', { name: 'Take the order, on hold' }).click()
  await expect(page.getByRole('heading', { name: /Order S-/ })).toContainText('on hold')
})

test('goods are put away from the hand: scan the goods, be told the bin, scan the bin', async ({ browser, baseURL }) => {
  const hand = await takeHandheld(browser, baseURL, 'B-002')
  await hand.goto('/hand/put-away')
  const waiting = (await ask(hand, '/put-away/waiting?site=1')).map((x) => x.sku)
  const elsewhere = (await ask(hand, '/items?site=1&limit=100')).find((x) => !waiting.includes(x.item.sku))
  await scan(hand, elsewhere.item.sku)
  await expect(hand.locator('[data-wrong]')).toContainText('does not stand on a dock')
  const [w] = await ask(hand, '/put-away/waiting?site=1')
  await hand.getByText('Scanner stand-in').click()
  await hand.locator('.standin button', { hasText: w.sku }).first().click()
  const bin = await hand.locator('[data-go]').textContent()
  await scan(hand, 'Z-99')
  await expect(hand.locator('[data-wrong]')).toContainText('no bin')
  await hand.locator('[data-label="The bin told"]').click()
  await expect(hand.getByRole('status')).toContainText(`put away in ${bin}`)
  const left = (await ask(hand, '/put-away/waiting?site=1')).find((x) => x.item_id === w.item_id && x.lot_id === w.lot_id)
  expect(Number(left?.quantity ?? 0)).toBeLessThan(Number(w.quantity))
})

test('a bin on the Floor opens to its contents; nothing is asked of other machines', async ({ page }) => {
  const elsewhere = []
  page.on('request', (r) => { if (!r.url().startsWith(new URL(page.url() === 'about:blank' ? r.url() : page.url()).origin) && !r.url().startsWith('data:')) elsewhere.push(r.url()) })
  await signOn(page, 'viewer')
  const bin = (await ask(page, '/floor?site=1')).bins.find((b) => Number(b.units) > 0)
  await page.locator(`[data-bin="${bin.code}"]`).click()
  await expect(page.locator('[data-holding]').first()).toBeVisible()
  await page.getByRole('button', { name: 'Its trail' }).click()
  await expect(page.getByRole('heading', { name: bin.code })).toBeVisible()
  await page.goto('/putaway')
  await page.locator('nav button').first().click()
  await expect(page.getByRole('alert')).toContainText('Your role, viewer, may not do this')
  expect(elsewhere).toEqual([])
})

test('the API can be read on a page: every operation, who may use it, what goes in', async ({ page }) => {
  await signOn(page, 'viewer')
  await page.keyboard.press('?')
  await page.getByRole('link', { name: 'The API, for programs' }).click()
  const { paths } = await ask(page, '/openapi.json')
  const all = Object.values(paths).flatMap((methods) => Object.keys(methods)).length
  await expect(page.getByText(`${all} operations`)).toBeVisible()
  await page.getByLabel('Find').fill('receive what came')
  await expect(page.getByText('1 operations')).toBeVisible()
  await page.getByText('/api/v1/arrivals/{id}/receive').click()
  await expect(page.getByText('May be used by: lead, receiver.')).toBeVisible()
  await expect(page.locator('.op')).toContainText('Idempotency-Key')
  await expect(page.locator('.op')).toContainText('list of ReceiveReceiptLine')
})
