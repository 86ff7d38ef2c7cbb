// Takes the pictures of docs/screenshots from a running demo: node shots.mjs http://127.0.0.1:8080 ../docs/screenshots
import { settled, signedOn } from './lib/browser.mjs'

const [base, out] = process.argv.slice(2)
const only = process.argv.slice(4)
const { browser, page } = await signedOn(base, 'lead')
const shot = async (name, act, of = page) => {
  if (only.length && !only.includes(name)) return
  await act()
  await settled(of)
  await of.screenshot({ path: `${out}/${name}.png` })
}
await shot('floor', () => page.goto('/'))
await shot('receive', async () => {
  await page.goto('/receive')
  await page.locator('a[href^="/receive/arrival/"]').last().click()
  await page.locator('[data-arrival] input[role=spinbutton]:not([readonly])').first().fill('10')
})
await shot('transfers', () => page.goto('/transfers'))
await shot('returns', () => page.goto('/returns'))
await shot('value', () => page.goto('/stock/value'))
await shot('recall', () => page.goto('/audit/recall/recall/1'))
await shot('catalog', async () => {
  await page.goto('/catalog/items/HZ-500')
  await page.getByLabel('Cost', { exact: true }).fill('43.5')
})
await shot('putaway', async () => {
  await page.goto('/putaway')
  await page.locator('nav.q button').first().click()
})
await shot('stock', async () => {
  await page.goto('/stock')
  await page.locator('a[href^="/stock/item/"]', { hasText: 'HZ-500' }).first().click()
})
await shot('orders', async () => {
  await page.goto('/orders')
  await page.locator('nav.q a.card').nth(2).click()
})
await shot('people', async () => {
  await page.goto('/people')
  await page.locator('nav.q a.card', { hasText: 'Wilma Ashby' }).click()
})
await shot('house', () => page.goto('/house'))
await shot('pick', async () => {
  await page.goto('/pick')
  await page.locator('[data-open] tr.row input').nth(0).check()
  await page.locator('[data-open] tr.row input').nth(1).check()
  await page.getByRole('button', { name: /^Plan one round/ }).click()
  await page.locator('[data-proposal]').waitFor()
})
await shot('pack', async () => {
  await page.goto('/pack')
  await page.locator('nav.q a.card', { hasText: 'differs' }).first().click()
})
await shot('departures', () => page.goto('/dispatch'))
await shot('audit', () => page.goto('/audit/sheets/1'))
await shot('accuracy', () => page.goto('/audit/accuracy'))
await shot('floor-past', async () => {
  await page.goto('/')
  await page.getByRole('slider').focus()
  await page.keyboard.press('Home')
  await page.getByRole('button', { name: 'Play' }).click()
  await page.waitForTimeout(4000)
  await page.getByRole('button', { name: 'Stop' }).click()
})
// In the hand of whoever walks the round.
const hand = await signedOn(base, 'picker', { width: 412, height: 800 })
await shot('hand-round', async () => {
  await hand.page.goto('/hand')
  await hand.page.locator('a[href^="/hand/round/"]').first().click()
}, hand.page)
await hand.browser.close()
await browser.close()
