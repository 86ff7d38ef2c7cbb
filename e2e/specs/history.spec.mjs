import { readFile } from 'node:fs/promises'
import { ask, expect, field, pick, signOn, test } from '../lib/floor.mjs'

test('history is narrowed, sorted, linked to and exported; a trail has the same filters', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/stock')
  await page.getByRole('link', { name: 'history' }).click()
  const rows = page.locator('[data-list] tr.row')
  const all = (await ask(page, '/history?site=1&limit=1')).total
  await expect(page.getByText(`${all} rows`)).toBeVisible()
  await field(page, 'Location').fill('d-')
  await pick(page, page.getByRole('combobox', { name: 'What' }), 'pick')
  const { total, lines } = await ask(page, '/history?site=1&bin=D-&kind=pick&sort=quantity&down=true')
  await expect(page.getByText(`${total} rows`)).toBeVisible()
  await expect(page).toHaveURL(/bin=d-&kind=pick/)
  const quantity = page.locator('[data-list]').getByRole('columnheader', { name: 'Quantity' }).getByRole('button')
  await quantity.click()
  await quantity.click()
  await expect(rows.first()).toContainText(lines[0].sku)
  await page.reload()
  await expect(field(page, 'Location')).toHaveValue('d-')
  await expect(rows.first()).toContainText(lines[0].sku)
  const download = page.waitForEvent('download')
  await page.getByRole('link', { name: 'CSV' }).click()
  const file = await readFile(await (await download).path(), 'utf8')
  expect(file.trim().split('\r\n')).toHaveLength(total + 1)

  await page.goto(`/stock/item/${lines[0].item_id}`)
  await page.getByText('Narrow the trail').click()
  await pick(page, page.getByRole('combobox', { name: 'What' }), 'ship')
  await expect(page.locator('[data-trail] tr.row').filter({ hasNotText: 'ship' })).toHaveCount(0)
  await field(page, 'Document').fill('nothing like it')
  await expect(page.getByText('No move here is like this.')).toBeVisible()
})
