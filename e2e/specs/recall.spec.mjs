import { ask, command, expect, find, order, pick, round, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'

test('a lot is called back: held at one press, stopped in the hand, and let go', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const hand = await takeHandheld(browser, baseURL, 'B-004')
  const r = await round(page, [await order(page, [['BT-0AA', '3']])])
  const [label] = await command(page, '/cartons', { site_id: 1, count: 1 })
  await hand.goto(`/hand/round/${r.id}`)
  await hand.getByRole('button', { name: 'Start walking' }).click()
  await scan(hand, label.sscc)
  const [stop] = (await ask(page, `/rounds/${r.id}`)).stops

  await page.goto('/audit')
  await page.getByRole('link', { name: 'recalls' }).click()
  await find(page, 'Follow', stop.lot, stop.lot)
  await expect(page.getByRole('heading', { name: `What became of lot ${stop.lot} of BT-0AA` })).toBeVisible()
  await expect(page.locator('[data-whole]')).toContainText('add up, to the unit')
  const begin = page.locator('[data-begin]')
  await begin.getByRole('textbox', { name: 'Why it is called back' }).fill('the caps come off')
  await expect(begin).toContainText('is stopped where it is')
  await begin.getByRole('button', { name: /^Hold \d+ of lot/ }).click()
  await expect(page.locator('[data-recall]')).toContainText('the caps come off')
  await expect(page.locator('[data-here]')).toContainText('held')
  const number = (await page.locator('[data-recall] b').textContent()).split(' ')[1]

  // Whoever walks with it is stopped, and reads why.
  await scan(hand, stop.bin)
  await scan(hand, stop.sku)
  if (await hand.getByText(/^lot /i).first().isVisible()) await scan(hand, stop.lot)
  await scan(hand, label.sscc)
  await hand.locator('[data-press]').click()
  await expect(hand.locator('[data-wrong], [role=alert]').filter({ hasText: number }).first()).toContainText('the caps come off')

  await page.getByRole('textbox', { name: 'How you know' }).fill('the maker looked at them')
  await page.getByRole('button', { name: 'Let them go' }).click()
  await expect(page.locator('[data-recall]')).toContainText('1 of 1 are cleared')
  await page.getByRole('button', { name: 'End the recall' }).click()
  await expect(page.locator('[data-recall]')).toContainText('This page is as it stood then')
  await hand.locator('[data-press]').click()
  await expect(hand.getByRole('button', { name: 'Bring to the bench' })).toBeVisible()
})

test('a drill holds nothing, and what a customer got opens what became of it', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/audit/recall')
  await page.getByRole('link', { name: /^RL-101/ }).click()
  await expect(page.locator('[data-recall]')).toContainText(/Drill RL-101.*after \d+(\.\d)? min/)
  await page.locator('[data-went]').getByRole('link').first().click()
  await expect(page.getByRole('heading', { name: 'What a customer got' })).toBeVisible()
  await page.getByRole('link', { name: /^SB-\d+[A-C]$/ }).first().click()
  await expect(page.getByRole('heading', { name: /What became of lot SB-/ })).toBeVisible()
})
