import { ask, expect, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'

test('the list of the day is walked and counted in the hand, and leaves it', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  await page.goto('/audit')
  const before = (await ask(page, '/counts/today?site=1')).rows
  await expect(page.locator('[data-today]')).toContainText(`${before.length} to be counted on one walk`)
  const hand = await takeHandheld(browser, baseURL, 'B-004')
  await hand.getByRole('link', { name: /^Count/ }).click()
  await expect(hand.locator('[data-go]')).toHaveText(before[0].bin)
  await scan(hand, before.find((d) => d.bin !== before[0].bin && d.reasons.includes('emptied')).bin)
  const emptied = before.find((d) => d.bin !== before[0].bin && d.reasons.includes('emptied'))
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
  await expect(page.locator('[data-today]')).toContainText(`${before.length - 1} to be counted`)
})

test('the ranking of a site is shown as a curve, and set in the catalog', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/audit')
  await page.getByRole('link', { name: 'classes' }).click()
  await expect(page.getByText(/\d+ are A, \d+ are B, \d+ are C/).first()).toBeVisible()
  await expect(page.getByText('DM-012').first()).toBeVisible()
})
