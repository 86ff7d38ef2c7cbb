import { basename } from 'node:path'
import { expect, test as base } from '@playwright/test'
import { openHouse } from './house.mjs'

/** Signs somebody on in a page of their own. */
export async function signOn(page, login) {
  await page.goto('/')
  await page.getByLabel('Name').fill(login)
  await page.getByLabel('Password').fill('lantern')
  await page.getByRole('button', { name: 'Sign on', exact: true }).click()
  await page.locator('[data-station=receive]').waitFor()
}

/** Signs a picker on at a handheld, by badge. */
export async function takeHandheld(browser, baseURL, badge, serviceWorkers = 'block') {
  const context = await browser.newContext({ viewport: { width: 412, height: 800 }, baseURL, hasTouch: true, serviceWorkers })
  const page = await context.newPage()
  await page.goto('/hand')
  await page.getByLabel('Badge').fill(badge)
  await page.getByLabel('PIN').fill('2468')
  await page.getByRole('button', { name: 'Sign on', exact: true }).click()
  await page.getByRole('heading', { name: 'What now?' }).waitFor()
  return page
}

/** Asks the API as whoever is signed on in the page. */
export const ask = (page, path) => page.evaluate(async (p) => (await fetch(`/api/v1${p}`)).json(), path)

/** Commands the API as whoever is signed on in the page, to set a scene that other tests show on the screen. */
export const command = (page, path, body) =>
  page.evaluate(
    async ([p, b]) => {
      const { csrf } = await (await fetch('/api/v1/session')).json()
      const r = await fetch(`/api/v1${p}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'x-csrf-token': csrf, 'idempotency-key': crypto.randomUUID() },
        body: JSON.stringify(b),
      })
      return r.json()
    },
    [path, body],
  )

/** An order for some units of some items, released. */
export async function order(page, lines, more = {}) {
  const items = await Promise.all(lines.map(async ([sku, quantity]) => ({ item_id: (await ask(page, `/items?site=1&q=${sku}`))[0].item.id, quantity })))
  const customer = (await ask(page, '/parties?kind=customer&q=harbour'))[0]
  return command(page, '/sales-orders', { customer_id: customer.id, site_id: 1, wanted_on: '2027-01-15', release: true, lines: items, ...more })
}

/** A round for orders, as it is proposed. */
export async function round(page, orders) {
  const plan = await command(page, '/pick/plan', { site_id: 1, order_ids: orders.map((o) => o.id) })
  const stops = plan.stops.map((s) => ({ line_id: s.line_id, location_id: s.location_id, ...(s.lot_id ? { lot_id: s.lot_id } : {}), ...(s.serial_ids.length ? { serial_ids: s.serial_ids } : {}), ...(s.carton_id ? { carton_id: s.carton_id } : {}), quantity: s.quantity }))
  return command(page, '/rounds', { site_id: 1, stops })
}

/** The bins of the first site that somebody put down for counting. */
export const askedFor = async (page) => (await ask(page, '/counts/today?site=1')).rows.filter((d) => d.reasons.includes('asked'))

/** Whoever is signed on in the page counts an item in a bin, of one kind. */
export async function countHere(page, location, item, quantity) {
  const entry = await ask(page, `/counts/entry?location=${location}&item=${item}`)
  return command(page, '/counts', { location_id: location, item_id: item, since: entry.since, kinds: [{ quantity }] })
}

const bench = (hand) => hand.getByRole('button', { name: 'Bring to the bench' })

/** Where a take leads: to the scan of the next stop, or to the bench. */
export const onward = (hand) => hand.locator('[data-scan]').or(bench(hand))

/** A stop that should have emptied its bin asks for a look: it is empty. Then comes what is next. */
export async function lookInto(hand, next = bench(hand)) {
  const look = hand.locator('[data-nought] [data-press]')
  await expect(look.or(next).first()).toBeVisible()
  if (await look.isVisible()) await look.click()
  await expect(next).toBeVisible()
}

/** What a wedge scanner does: it types and ends with Enter. */
export async function scan(page, text) {
  const field = page.locator('[data-scan]')
  await field.fill(text)
  await field.press('Enter')
}

/** Presses the button under before and after, once it is ready, with the keyboard. */
export async function press(page, words) {
  const button = page.locator('[data-primary]')
  await expect(button).toBeEnabled()
  if (words) await expect(button).toContainText(words)
  await page.keyboard.press('Control+Enter')
}

/** Walks with Tab until something has the focus, as who has no mouse does. */
export async function tabTo(page, target) {
  await expect(target).toBeVisible()
  for (let steps = 0; steps < 250; steps++) {
    if (await target.evaluate((e) => e === document.activeElement || e.contains(document.activeElement))) return
    await page.keyboard.press('Tab')
  }
  throw new Error('it is not reached with Tab')
}

/** A field by its whole label. */
export const field = (page, label) => page.getByLabel(label, { exact: true })

/** Takes one of a few in a field that offers them, by its label or itself, with the keyboard. */
export async function pick(where, label, option) {
  await (typeof label === 'string' ? field(where, label) : label).focus()
  const page = where.page?.() ?? where
  // The list of the field before may still be leaving.
  await expect(page.locator('.ant-select-dropdown:visible')).toHaveCount(0)
  await page.keyboard.press('ArrowDown')
  await expect(page.locator('.ant-select-dropdown:visible')).toBeVisible()
  await page.keyboard.insertText(option)
  await expect(page.locator('.ant-select-item-option:visible').first()).toContainText(option)
  await page.keyboard.press('Enter')
  await expect(page.locator('.ant-select-dropdown:visible')).toHaveCount(0)
}

/** Types a day or a time over what stands in a picker: it takes letters once it has the focus. */
export async function type(page, label, text) {
  await field(page, label).focus()
  await page.keyboard.press('Control+A')
  await page.keyboard.type(text)
  await page.keyboard.press('Enter')
}

/** Types the first letters into a finder and takes what it finds. */
export async function find(page, label, letters, found) {
  await field(page, label).fill(letters)
  await page.locator('.ant-select-item-option:visible', { hasText: found }).first().click()
}

/** Fills in a purchase order of two cases of tape with the keyboard alone, up to the press. */
export async function fillPurchase(page) {
  await page.goto('/receive/new')
  await field(page, 'Supplier').focus()
  await page.keyboard.type('hallow')
  await page.keyboard.press('Enter')
  await expect(field(page, 'Terms')).not.toHaveValue('')
  await field(page, 'Add an item').focus()
  await page.keyboard.type('TP-B50')
  await page.keyboard.press('Enter')
  await page.getByLabel('TP-B50 quantity').focus()
  await page.keyboard.type('2')
}

/** Each file of tests has a house of its own, which no other has changed. */
export const test = base.extend({
  houses: [
    async ({}, use) => {
      const now = { file: '', close: async () => {} }
      await use(async (file) => {
        if (now.file === file) return
        await now.close()
        Object.assign(now, { file, close: await openHouse(basename(file, '.spec.mjs')) })
      })
      await now.close()
    },
    { scope: 'worker', timeout: 120_000 },
  ],
  house: [
    async ({ houses }, use, info) => {
      await houses(info.file)
      await use()
    },
    { auto: true, timeout: 120_000 },
  ],
})
export { expect }
