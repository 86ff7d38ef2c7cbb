import { expect, signOn, test } from '../lib/floor.mjs'

test('the floor goes back to any instant, plays on, and back to now', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/')
  const bar = page.locator('[data-rewind]')
  await expect(bar.locator('[data-when]')).toHaveText('now')
  await expect(page.getByText('On the floor', { exact: true })).toBeVisible()
  // By the keyboard, to the first day of all.
  await bar.getByRole('slider').focus()
  await page.keyboard.press('Home')
  await expect(page.locator('[data-then]')).toContainText('Done in the half hour before')
  await expect(bar.locator('[data-when]')).not.toHaveText('now')
  await expect(page.getByRole('heading', { name: /432 bins, 0% full/ })).toBeVisible()
  await bar.getByRole('button', { name: 'Play' }).click()
  await expect(page.locator('[data-step]').first()).toBeVisible({ timeout: 20_000 })
  await bar.getByRole('button', { name: 'Stop' }).click()
  await bar.getByRole('button', { name: 'Back to now' }).click()
  await expect(bar.locator('[data-when]')).toHaveText('now')
  await expect(page.locator('[data-then]')).toHaveCount(0)
})
