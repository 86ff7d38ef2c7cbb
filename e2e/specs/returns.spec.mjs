import { ask, command, expect, order, pick, round, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'

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
  await expect(page.getByRole('heading', { name: 'Goodwill' })).toBeVisible()
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

test('a return is received in the hand by the number on its paper, at the returns corner', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const kind = (await ask(page, '/return-kinds')).find((k) => k.name === 'Credit')
  const sold = (await ask(page, '/returnable?q=playhouse')).find((s) => s.tracking === 'none' && Number(s.returnable) >= 2)
  const r = await command(page, '/returns', { site_id: 1, kind_id: kind.id, lines: [{ shipment_id: sold.shipment_id, line_id: sold.line_id,
    quantity: '2', reason_id: 1, ...(sold.lot_id ? { lot_id: sold.lot_id } : {}) }] })
  const hand = await takeHandheld(browser, baseURL, 'B-002')
  await hand.goto('/hand/receive')
  await scan(hand, r.number)
  await expect(hand.getByText('Bring it to the returns corner')).toBeVisible()
  await hand.getByRole('button', { name: 'Returns corner' }).click()
  await expect(hand.getByText('Scan what is here')).toBeVisible()
  await scan(hand, 'GTIN-OF-NOTHING')
  await expect(hand.locator('[data-wrong]')).toBeVisible()
  await scan(hand, sold.sku)
  await hand.locator(`[data-line="${sold.sku}"] input`).fill('3')
  await expect(hand.locator('[data-refused]')).toContainText('at most 2 may still come')
  await hand.locator(`[data-line="${sold.sku}"] input`).fill('2')
  await expect(hand.locator('[data-press]')).toHaveText('Receive 2 at Returns corner')
  await hand.locator('[data-press]').click()
  await expect(hand.getByRole('status')).toContainText('Received')
  expect((await ask(page, `/returns/${r.id}`)).state).toBe('received')
  // A kind that gives money once all is decided offers it then, and one that gives it on receipt at once.
  await page.goto(`/returns/${r.id}`)
  await expect(page.locator('[data-decide]')).toBeVisible()
  await expect(page.locator('[data-settle]')).toHaveCount(0)
  const early = (await ask(page, '/return-kinds')).find((k) => k.gives === 'money' && k.gives_when === 'received')
  const again = (await ask(page, '/returnable?q=playhouse')).find((s) => s.tracking === 'none' && Number(s.returnable) >= 1)
  const x = await command(page, '/returns', { site_id: 1, kind_id: early.id, lines: [{ shipment_id: again.shipment_id, line_id: again.line_id,
    quantity: '1', reason_id: 1, ...(again.lot_id ? { lot_id: again.lot_id } : {}) }] })
  await page.goto(`/returns/${x.id}`)
  await page.getByRole('button', { name: 'Receive 1 at the returns corner' }).click()
  await page.locator('[data-settle]').getByRole('button', { name: /^(Credit|Settle)/ }).click()
  await expect(page.locator('[data-settled]')).toContainText('The customer got')
  await expect(page.locator('[data-decide]')).toBeVisible()
})

test('a unit is repaired and goes to its customer again, another goes back to its supplier', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const kind = (await ask(page, '/return-kinds')).find((k) => k.name === 'Repair')
  // Two units go to a customer, straight from the round.
  const o = await order(page, [['DM-004', '2']])
  const r = await round(page, [o])
  const [carton] = await command(page, '/cartons', { site_id: 1, count: 1 })
  const [stop] = (await command(page, `/rounds/${r.id}/start`, {})).stops
  const [broken, faulty] = stop.serials
  await command(page, `/rounds/${r.id}/cartons`, { scan: carton.sscc, order_id: o.id })
  await command(page, `/rounds/${r.id}/pick`, { stop_id: stop.id, bin: stop.bin, item: stop.sku, carton: carton.sscc, quantity: '2', serials: [broken, faulty],
    ...(stop.ask_lot ? { lot: stop.lot } : {}) })
  await command(page, `/rounds/${r.id}/ship`, { order_ids: [o.id] })
  const [sold] = await ask(page, `/returnable?q=${broken}`)
  await page.goto('/returns/new')
  await page.getByRole('textbox', { name: 'Find what was shipped' }).fill(broken)
  await page.locator('[data-sold] tr', { hasText: 'DM-004' }).getByRole('button', { name: 'Comes back' }).click()
  await pick(page, 'Kind of return', kind.name)
  await pick(page, 'Why DM-004 comes back', 'does not work')
  /** Units are chosen as a scanner does: it types each and ends with Enter. */
  const choose = async (field, ...codes) => {
    await field.click()
    for (const code of codes) {
      await page.keyboard.type(code)
      await page.keyboard.press('Enter')
    }
    await page.keyboard.press('Escape')
  }
  await choose(page.getByLabel('Units of DM-004 that come back'), broken, faulty)
  await page.getByRole('button', { name: `Announce 2 from ${sold.customer}` }).click()
  await page.getByRole('button', { name: 'Receive 2 at the returns corner' }).click()
  await expect(page.locator('[data-decide]')).toBeVisible()
  const decide = async (unit, becomes, words) => {
    await choose(page.locator('[data-decide]').getByLabel('Units'), unit)
    await pick(page, 'Becomes', becomes)
    await page.locator('[data-decide]').getByRole('textbox', { name: 'Why' }).fill('the shutter sticks')
    await page.locator('[data-decide]').getByRole('button', { name: `1 of DM-004 ${words}` }).click()
    await expect(page.locator('[data-decisions] tr', { hasText: unit })).toContainText('the shutter sticks')
  }
  await decide(broken, 'to be repaired', 'to be repaired')
  await decide(faulty, 'back to the supplier', 'back to the supplier')
  await expect(page.locator('[data-decisions] tr', { hasText: faulty })).toContainText('RS-')
  await page.locator('[data-decisions] tr', { hasText: broken }).getByRole('button', { name: 'It is repaired' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'Send it again' }).click()
  await expect(page.locator('[data-decisions] tr', { hasText: broken })).toContainText('RP-')
  // Both wait at Pick as any order does, each for its very unit.
  const open = (await ask(page, '/pick/open?site=1')).rows.filter((o) => /^R[PS]-/.test(o.number) && o.units === '1')
  expect(open.map((o) => o.number.slice(0, 2)).sort()).toEqual(['RP', 'RS'])
  const plan = await command(page, '/pick/plan', { site_id: 1, order_ids: open.map((o) => o.id) })
  expect(plan.stops.flatMap((s) => s.serials).sort()).toEqual([broken, faulty].sort())
  // Whoever only looks is offered none of it.
  const looks = await (await browser.newContext({ baseURL })).newPage()
  await signOn(looks, 'viewer')
  await looks.goto(new URL(page.url()).pathname)
  await expect(looks.locator('[data-decisions]')).toBeVisible()
  for (const name of [/Receive/, /Mail it/, /Expect nothing/, /Send it/, /It is repaired/]) await expect(looks.getByRole('button', { name })).toHaveCount(0)
  await looks.goto('/returns/new')
  await expect(looks.getByText('Your role looks only')).toBeVisible()
})

test('what returns tell is read by what they have in common, as a picture and as a table', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/returns')
  const told = page.locator('[data-told]')
  const { rows, weeks } = await ask(page, '/returns-told?site=1&by=item&days=90')
  await expect(told.locator('tr', { hasText: rows[0].label })).toContainText(`${rows[0].pct} %`)
  await pick(page, 'By', 'reason')
  const [first] = (await ask(page, '/returns-told?site=1&by=reason&days=90')).rows
  await expect(told.locator('tr', { hasText: first.label })).toContainText(first.returned)
  await told.getByRole('button', { name: 'As a table' }).click()
  await expect(told.locator('tr', { hasText: weeks.at(-1).monday })).toContainText(`${weeks.at(-1).pct} %`)
  const file = await page.request.get('/api/v1/returns-told/export?site=1&by=reason&format=csv')
  expect((await file.text()).split(/\r?\n/)[0]).toBe('what,returned,shipped,per_cent')
})
