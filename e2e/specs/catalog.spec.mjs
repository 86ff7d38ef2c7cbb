import { ask, expect, field, find, pick, press, signOn, test } from '../lib/floor.mjs'

const file = (name, text) => ({ name, mimeType: 'text/csv', buffer: Buffer.from(text) })

test('an import with wrong rows says which and why, and imports nothing until they are right', async ({ page }) => {
  await signOn(page, 'office')
  await page.getByRole('link', { name: 'Catalog' }).click()
  await page.getByRole('link', { name: 'Import' }).click()
  const before = (await ask(page, '/catalog/items?site=1')).total
  const rows = ['sku,description,cost,tracking', 'TP-B50,Gaffer tape black 50 mm,9.95,none', 'HZ-500,Haze fluid 5 L,42,none', 'LC-001,Ladder clamp,12,none', 'FT-025,"Foil tape 25 mm, heatproof","8,6",none']
  await page.locator('input[type=file]').setInputFiles(file('goods.csv', rows.join('\n')))
  const table = page.locator('[data-import]')
  await expect(table).toContainText(/HZ-500 has made \d+ moves: its tracking stays lot and expiry/)
  await expect(table).toContainText('Cost is a number, with a point for decimals')
  await expect(page.getByRole('button', { name: '2 of 4 rows are wrong' })).toBeDisabled()
  expect((await ask(page, '/catalog/items?site=1')).total).toBe(before)
  rows[2] = 'HZ-500,Haze fluid 5 L,42,lot_expiry'
  rows[4] = rows[4].replace('8,6', '8.6')
  await page.locator('input[type=file]').setInputFiles(file('goods.csv', rows.join('\n')))
  await page.getByRole('button', { name: '2 changed', exact: true }).click()
  await expect(table).toContainText('Cost: 9.8 becomes 9.95')
  await press(page, 'Import 1 new, 2 changed')
  await expect(page.getByRole('status').filter({ hasText: 'Imported: 1 new, 2 changed, 1 as they were' })).toBeVisible()
  expect((await ask(page, '/items?site=1&q=ladder'))[0].item.sku).toBe('LC-001')
})

test('the same file in, unchanged, changes nothing, in both formats', async ({ page }) => {
  await signOn(page, 'lead')
  for (const sheet of ['items', 'bins', 'suppliers', 'customers']) {
    for (const format of ['csv', 'xlsx']) {
      await page.goto(`/catalog/${sheet}/import`)
      const download = page.waitForEvent('download')
      await page.getByRole('link', { name: format.toUpperCase() }).click()
      await page.locator('input[type=file]').setInputFiles(await (await download).path())
      await expect(page.getByRole('button', { name: 'Nothing would change' })).toBeDisabled()
      await expect(page.getByRole('button', { name: '0 wrong' })).toBeVisible()
    }
  }
})

test('a field is changed with before and after, and says what it is for', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/catalog/items/SB-600')
  const pace = field(page, 'Over allowance, %')
  await pace.focus()
  await page.getByRole('button', { name: 'About Over allowance, %' }).focus()
  await expect(page.getByRole('tooltip')).toContainText('By how much a purchase line may come in over and be taken.')
  await pace.fill('130')
  await expect(page.locator('.explain.wrong')).toContainText('from 0 to 100 per cent, not 130')
  await expect(page.locator('[data-primary]')).toBeDisabled()
  await pace.fill('12.5')
  await expect(page.getByText('5 becomes 12.5')).toBeVisible()
  await press(page, 'Save 1 change of SB-600')
  await expect(page.getByRole('status').filter({ hasText: 'SB-600 is saved' })).toBeVisible()
  await pick(page, 'Tracking', 'none')
  await expect(page.locator('.explain.wrong')).toContainText(/SB-600 has made \d+ moves/)
})

test('adding what is there already is refused, and offers to open it', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/catalog/items/new')
  await field(page, 'SKU').fill('sb-600')
  await field(page, 'Description').fill('Another sandbag')
  await expect(page.locator('.explain.wrong')).toContainText('SB-600 is in the catalog already.')
  await expect(page.locator('[data-primary]')).toBeDisabled()
  await page.getByRole('link', { name: 'Open sb-600' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'Discard it and leave' }).click()
  await expect(field(page, 'Description')).not.toHaveValue('Another sandbag')
})

test('a range of bins is shown, made, and stands on the floor', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/catalog/bins/import')
  await page.getByText('Make a range of bins').click()
  await page.getByLabel('Aisles').fill('1-')
  await page.getByRole('button', { name: 'Show the bins' }).click()
  await expect(page.getByRole('alert')).toContainText('Write 1-6, A-F, or 1,3,5')
  await page.getByLabel('Aisles').fill('K')
  await field(page, 'Bays').fill('1-5')
  await field(page, 'Levels').fill('1-2')
  await page.getByLabel('First aisle at x').fill('28')
  await page.getByLabel('Most units').fill('40')
  await page.getByRole('button', { name: 'Show the bins' }).click()
  await press(page, 'Import 10 new, 0 changed')
  await expect(page.getByRole('status').filter({ hasText: '10 new' })).toBeVisible()
  const floor = await ask(page, '/floor?site=1')
  expect(floor.bins.filter((b) => b.code.startsWith('K-'))).toHaveLength(10)
  expect(floor.aisles.find((a) => a.code === 'K').x).toBe(28)
})
