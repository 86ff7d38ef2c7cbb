import { ask, command, expect, pick, signOn, test } from '../lib/floor.mjs'

test('goods come back: found by their delivery note, received at the corner, decided one by one, and credited', async ({ page }) => {
  await signOn(page, 'lead')
  const rows = (await ask(page, '/shipments?site=1')).rows ?? (await ask(page, '/shipments?site=1'))
  let sold
  for (const d of rows) {
    sold = (await ask(page, `/returnable?q=${d.number}`)).find((s) => s.tracking === 'none' && Number(s.returnable) >= 3)
    if (sold) break
  }
  await page.goto('/returns')
  await page.getByRole('link', { name: 'New return' }).click()
  await page.getByRole('textbox', { name: 'Find what was shipped' }).fill(sold.shipment)
  const found = page.locator('[data-sold] tr', { hasText: sold.sku }).first()
  await found.getByRole('button', { name: 'Comes back' }).click()
  await pick(page, 'Kind of return', 'Credit')
  const mine = page.locator('[data-lines]')
  await page.getByLabel(`${sold.sku} that come back`).fill(String(Number(sold.returnable) + 1))
  await pick(page, `Why ${sold.sku} comes back`, 'does not work')
  // More than went is refused with the numbers, before anything is pressed.
  await expect(page.locator('[data-problem]')).toContainText(`${sold.returnable} may still be returned`)
  await page.getByLabel(`${sold.sku} that come back`).fill('3')
  // A reload keeps what was typed.
  await expect(page.getByRole('button', { name: `Announce 3 from ${sold.customer}` })).toBeEnabled()
  await page.reload()
  await expect(mine).toContainText(sold.shipment)
  await page.getByRole('button', { name: `Announce 3 from ${sold.customer}` }).click()
  await expect(page.getByRole('heading', { name: /Return RC-\d+ announced/ })).toBeVisible()

  // Two of three come now, and one of them is good.
  await page.getByLabel(`${sold.sku} that are here`).fill('2')
  await page.getByRole('button', { name: 'Receive 2 at the returns corner' }).click()
  await expect(page.getByRole('heading', { name: /partly received/ })).toBeVisible()
  const decide = page.locator('[data-decide]')
  await decide.getByLabel('How many').fill('1')
  await decide.getByRole('button', { name: `1 of ${sold.sku} back to stock` }).click()
  await expect(page.locator('[data-decisions] tr', { hasText: 'back to stock' })).toBeVisible()
  await pick(page, 'Becomes', 'scrap')
  await expect(decide.locator('[data-problem]')).toContainText('Write in a few words why')
  await decide.getByLabel('Why', { exact: true }).fill('it is torn')
  await expect(decide).toContainText('It goes off the books')
  await decide.getByRole('button', { name: `1 of ${sold.sku} to scrap` }).click()
  await expect(page.locator('[data-decisions] tr', { hasText: 'it is torn' })).toBeVisible()

  // The third stays with the customer: what came is settled.
  await page.getByRole('button', { name: 'Expect nothing more' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'Expect nothing more' }).click()
  const settle = page.locator('[data-settle]')
  await expect(settle).toContainText('in all')
  await settle.getByRole('button', { name: /^(Credit|Settle)/ }).click()
  await expect(page.locator('[data-settled]')).toContainText('The customer got')
  await expect(page.getByRole('heading', { name: /settled/ })).toBeVisible()
  const left = (await ask(page, `/returnable?q=${sold.shipment}`)).find((s) => s.line_id === sold.line_id && s.lot === sold.lot)
  expect(Number(left.returnable)).toBe(Number(sold.returnable) - 2)
})

test('a kind of return is set up in the catalog and does what it says', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/catalog/return-kinds')
  await page.getByRole('link', { name: 'Add one' }).click()
  await page.getByLabel('Name', { exact: true }).fill('Goodwill')
  await pick(page, 'Is approved', 'yes')
  await pick(page, 'Gives', 'nothing')
  await page.locator('[data-primary]').click()
  await expect(page.getByRole('status').filter({ hasText: 'Goodwill' }).first()).toBeVisible()
  const kind = (await ask(page, '/return-kinds')).find((k) => k.name === 'Goodwill')
  expect(kind).toMatchObject({ approved: true, gives: 'nothing' })
  const sold = (await ask(page, '/returnable?q=TP-G24')).find((s) => Number(s.returnable) > 0)
  const r = await command(page, '/returns', { site_id: 1, kind_id: kind.id, lines: [{ shipment_id: sold.shipment_id, line_id: sold.line_id,
    quantity: '1', reason_id: 1, ...(sold.lot_id ? { lot_id: sold.lot_id } : {}) }] })
  await page.goto(`/returns/${r.id}`)
  await expect(page.getByRole('heading', { name: /asked/ })).toBeVisible()
  await expect(page.getByRole('button', { name: /Receive/ })).toHaveCount(0)
  await page.getByRole('button', { name: `Approve ${r.number}` }).click()
  await page.getByRole('button', { name: 'Receive 1 at the returns corner' }).click()
  await page.locator('[data-decide]').getByRole('button', { name: `1 of ${sold.sku} back to stock` }).click()
  await expect(page.getByRole('heading', { name: /settled/ })).toBeVisible()
})
