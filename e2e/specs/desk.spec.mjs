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
  await page.getByRole('textbox', { name: 'Document', exact: true }).fill('nothing like it')
  await expect(page.getByText('No move here is like this.')).toBeVisible()
})

test("an item's figures add up, and each opens to what makes it up", async ({ page }) => {
  await signOn(page, 'lead')
  const { rows } = await ask(page, '/stock/items?site=1&limit=500')
  const held = rows.find((i) => Number(i.figures.on_hold) > 0)
  await page.goto(`/stock/item/${held.id}`)
  const of = async (name) => Number(await page.locator(`[data-figure=${name}] .value`).textContent())
  let sum = 0
  for (const name of ['in_cartons', 'on_hold', 'reserved', 'promised', 'free']) sum += await of(name)
  expect(sum).toBe(await of('on_hand'))
  for (const name of ['on_hand', 'on_hold', 'free']) {
    await page.locator(`[data-figure=${name}]`).click()
    await expect(page.locator(`[data-figure=${name}]`)).toHaveAttribute('aria-expanded', 'true')
    await expect.poll(async () => {
      const cells = await page.locator('[data-parts] tbody tr.ant-table-row td:last-child').allTextContents()
      return cells.reduce((n, text) => n + Number(text), 0)
    }).toBe(await of(name))
  }
})

test('a collection that is missed says what would help, at Dispatch and where rounds are planned', async ({ page }) => {
  await signOn(page, 'lead')
  const sites = await ask(page, '/dispatch/forecast?site=1')
  expect(sites.collections.length).toBeGreaterThan(0)
  // What the page is told is made up here, since a demo is in good time.
  const at = new Date(Date.now() + 30 * 60_000).toISOString()
  const late = new Date(Date.now() + 75 * 60_000).toISOString()
  const [first] = (await ask(page, '/dispatch/departures?site=1')).map((d) => d.carrier)
  const missed = { carrier: first, at, ready_at: late, made: false, spare: -45, lacking: '0',
    help: { one_more_at: at, release_at: null, leave: [{ id: 40, number: 'S-3340' }], leave_at: at } }
  await page.route('**/dispatch/forecast*', (r) => r.fulfill({ json: { walkers: 0, packers: 1, still: [], planned_at: null, collections: [missed] } }))
  for (const [path, part] of [['/dispatch', '[data-departures] li.missed'], ['/pick', '[data-forecast]']]) {
    await page.goto(path)
    await expect(page.locator(part).first()).toContainText('45 min too late')
    await expect(page.locator(part).first()).toContainText('With one more picker')
    await expect(page.locator(part).first().getByRole('link', { name: 'S-3340' })).toBeVisible()
  }
})

test('the scan line finds by parts, keeps the focus at a sheet, and asks before it leaves one', async ({ page }) => {
  await signOn(page, 'lead')
  const line = page.getByRole('textbox', { name: 'Scan or type' })
  const enter = async (text) => {
    await line.fill(text)
    await line.press('Enter')
  }
  await page.goto('/stock')
  await enter('calloway')
  await expect(page).toHaveURL(/\/stock\/history\?person=lead/)
  await expect(page.locator('[data-list] tr.row').first()).toContainText('Ines Calloway')
  const [pallet] = await ask(page, '/put-away/pallets?site=1')
  await enter(pallet.sscc)
  await expect(page).toHaveURL(`/stock/carton/${pallet.id}`)
  await expect(page.locator('[data-holdings]')).toContainText(pallet.holds[0].sku)

  // Goods are chosen by scan, and the next scan goes on from there.
  const goods = (await ask(page, '/put-away/waiting?site=1')).find((w) => w.tracking === 'none')
  await page.goto('/putaway')
  await enter(goods.sku)
  await expect(page.getByRole('heading', { name: goods.description })).toBeVisible()
  await expect(line).toBeFocused()
  await expect(line).toHaveValue('')
  await page.keyboard.insertText('S-3340')
  await page.keyboard.press('Enter')
  await expect(page.getByText('It does not belong to what is open here.')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('heading', { name: goods.description })).toBeVisible()
  await enter('S-3340')
  await expect(page.getByText('It does not belong to what is open here.')).toBeVisible()
  await line.press('Enter')
  await expect(page).toHaveURL('/orders/40')
})

test('a finder takes exactly what was typed or scanned, however fast, and says when there is none', async ({ page }) => {
  await signOn(page, 'lead')
  const gtinOf = async (sku) => (await ask(page, `/items?site=1&q=${sku}`))[0].item.packs.find((p) => p.gtin).gtin
  const [plain, labelled] = [await gtinOf('TP-B50'), await gtinOf('TP-HAZ')]
  await page.goto('/orders/new')
  const finder = page.getByLabel('Add an item')
  const lines = page.getByLabel(/ wanted$/)
  // Answers come late, and the one to the first letters last.
  await page.route('**/api/v1/items?*', async (route) => {
    await new Promise((over) => setTimeout(over, /q=(TP|T)&/.test(route.request().url()) ? 600 : 150))
    await route.continue().catch(() => undefined)
  })
  const type = async (text, key = 'Enter') => {
    await finder.focus()
    await page.keyboard.insertText(text)
    await page.keyboard.press(key)
  }
  await type('TP-W50')
  await expect(lines).toHaveCount(1)
  await expect(page.getByLabel('TP-W50 wanted')).toBeVisible()
  await type('ZZZ999')
  await expect(page.getByText('Nothing here is called ZZZ999.')).toBeVisible()
  await finder.fill('')
  await type(plain)
  await expect(page.getByLabel('TP-B50 wanted')).toBeVisible()
  await type(`]C101${labelled}10L77`)
  await expect(page.getByLabel('TP-HAZ wanted')).toBeVisible()
  await expect(lines).toHaveCount(3)
  // Ctrl Enter belongs to the page, also with something found under it.
  await type('TP-G24', 'Control+Enter')
  await expect(page.getByText('Gaffer tape green 24 mm').or(page.getByRole('option').first()).first()).toBeAttached()
  await page.keyboard.press('Control+Enter')
  await expect(lines).toHaveCount(3)
  await page.keyboard.press('Escape')
  const customer = field(page, 'Customer')
  await customer.focus()
  await page.keyboard.insertText('zzz')
  await page.keyboard.press('Enter')
  await expect(page.getByText('Nothing here is called zzz.')).toBeVisible()
  await expect(page.getByRole('button', { name: 'Take the order and release it' })).toBeDisabled()
})

test('a bin that nobody knows is answered by its name, and never more is placed than there is', async ({ page }) => {
  await signOn(page, 'lead')
  const goods = (await ask(page, '/put-away/waiting?site=1')).find((w) => w.tracking !== 'serial' && Number(w.quantity) > 3)
  await page.goto('/putaway')
  await page.getByRole('button', { name: goods.description }).first().click()
  const placed = page.getByText(`${Number(goods.quantity)} of ${goods.quantity} placed`)
  await expect(placed).toBeVisible()
  const other = page.getByRole('textbox', { name: 'Another bin' })
  await other.fill('ZZ-9')
  await other.press('Enter')
  await expect(page.getByText('There is no bin "ZZ-9"')).toBeVisible()
  await expect(page.locator('[data-place="ZZ-9"]')).toHaveCount(0)
  // A further bin takes from those before it; less at one of them leaves the rest to be placed.
  const before = await page.locator('[data-place]').count()
  await other.fill('d-01-1-a')
  await other.press('Enter')
  await expect(page.locator('[data-place="D-01-1-A"]')).toBeVisible()
  await expect(page.locator('[data-place]')).toHaveCount(before)
  await expect(placed).toBeVisible()
  const quantities = page.getByLabel(/^Quantity for/)
  await quantities.last().fill('1')
  await quantities.last().press('Tab')
  await expect(placed).toHaveCount(0)
  await quantities.last().fill('99999')
  await quantities.last().press('Tab')
  await expect(placed).toBeVisible()

  await page.goto('/transfers/move')
  await field(page, 'From bin').fill('A-0')
  await field(page, 'From bin').press('Enter')
  await expect(page.getByText('There is no bin "A-0"')).toBeVisible()
})
