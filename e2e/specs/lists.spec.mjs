import { ask, expect, signOn, test } from '../lib/floor.mjs'
import { databaseOf, sql } from '../lib/house.mjs'

const many = 10_000

/** So many orders on hold, as copies of one that is there. */
const orders = `
  WITH made AS (
    INSERT INTO outbound_orders (number, kind, site_id, party_id, destination_id, wanted_on, reference, carrier,
      state, changed_by, changed_at, last_change)
    SELECT 'S-' || (100000 + n), o.kind, o.site_id, o.party_id, o.destination_id, current_date + n % 60,
           'PO ' || (100000 + n), o.carrier, 'on_hold', o.changed_by, o.changed_at, 'took it'
      FROM generate_series(1, ${many}) AS n,
           (SELECT * FROM outbound_orders WHERE kind = 'sale' AND site_id = 1 ORDER BY id LIMIT 1) AS o
    RETURNING id),
  sold AS (
    INSERT INTO sales_orders (order_id, customer_id)
    SELECT id, (SELECT customer_id FROM sales_orders LIMIT 1) FROM made),
  lines AS (
    INSERT INTO outbound_lines (order_id, line, item_id, quantity)
    SELECT id, 1, (SELECT id FROM items WHERE sku = 'TP-W50'), 1 + id % 9 FROM made RETURNING id)
  INSERT INTO sales_lines (line_id, price) SELECT id, 4.50 FROM lines;
  ANALYZE`

test('ten thousand orders are counted, sorted by any column and walked to the end, with few rows drawn', async ({ page }) => {
  await signOn(page, 'lead')
  const before = (await ask(page, '/sales-orders/list?site=1&state=open')).total
  sql(orders, databaseOf('lists'))
  await page.goto('/orders/list?columns=customer,wanted,reference,state')
  const list = page.locator('[data-list]')
  await expect(page.getByText(`${before + many} rows, `)).toBeVisible()
  expect(await list.locator('tr.row').count()).toBeLessThan(80)

  // By reference from the end, as the server sorts it.
  const reference = list.getByRole('columnheader', { name: 'Reference' }).getByRole('button')
  await reference.click()
  await reference.click()
  const [last] = (await ask(page, '/sales-orders/list?site=1&state=open&sort=reference&down=true&limit=1')).orders
  await expect(list.locator('tr.row').first()).toContainText(last.number)
  // The keyboard goes on to what is not read yet: each End reads a page more.
  await list.locator('tr.row').first().focus()
  for (let pages = 0; pages < 3; pages++) {
    const end = await list.locator('tr.row').last().getAttribute('data-row')
    await page.keyboard.press('End')
    await expect(list.locator('tr.row').last()).not.toHaveAttribute('data-row', end ?? '')
  }
  expect(await list.locator('tr.row').count()).toBeLessThan(80)

  // The station itself does not choke on them either.
  await page.goto('/orders')
  await expect(page.getByRole('heading', { name: 'Orders on hold' })).toBeVisible()
  await expect(page.getByRole('checkbox', { name: /^Tick S-/ }).first()).toBeVisible()
  // It is sorted where all of them are: the most units of all stand first, and its file begins with them.
  const held = page.locator('#main [role=region]', { hasText: 'On hold for' })
  await expect(page.getByText(/^1\d{4} rows, /)).toBeVisible()
  const units = held.getByRole('columnheader', { name: 'Units' }).getByRole('button')
  await units.click()
  await units.click()
  const [most] = (await ask(page, '/sales-orders/list?site=1&state=on_hold&sort=units&down=true&limit=1')).orders
  await expect(held.locator('tr.row').first()).toContainText(most.number)
})

test('the page of an item that all of them want draws those in sight of its free stock to come', async ({ page }) => {
  await signOn(page, 'lead')
  const [{ item }] = await ask(page, '/items?site=1&q=TP-W50')
  const course = await ask(page, `/items/${item.id}/course?site=1`)
  await page.goto(`/stock/item/${item.id}`)
  const list = page.locator('[data-course]')
  await expect(page.getByText(`${course.lines.length + 1} rows`)).toBeVisible()
  expect(course.lines.length).toBeGreaterThan(many)
  expect(await list.locator('tr.row').count()).toBeLessThan(80)
  await list.locator('tr.row').first().focus()
  await page.keyboard.press('End')
  await expect(list.locator('tr.row').last()).toContainText(course.lines.at(-1).after)
})

test('what lies somewhere, mail and the trail are sorted by the server, and their files as they are', async ({ page }) => {
  await signOn(page, 'lead')
  const [{ item }] = await ask(page, '/items?site=1&q=TP-W50')
  await page.goto(`/stock/item/${item.id}`)
  const holdings = page.locator('[data-holdings]')
  const most = async () => (await ask(page, `/holdings?of=item&id=${item.id}&site=1&sort=quantity&down=true`)).rows
  const quantity = holdings.getByRole('columnheader', { name: 'Quantity' }).getByRole('button')
  await quantity.click()
  await quantity.click()
  await expect(holdings.locator('tr.row').first()).toContainText((await most())[0].location)
  const file = await page.request.get(await page.getByRole('link', { name: 'CSV' }).nth(1).getAttribute('href'))
  expect((await file.text()).split('\n')[1].split(',')[0]).toBe((await most())[0].location)
  // From the oldest move on, where nothing was there before.
  const trail = page.locator('[data-trail]')
  const [oldest] = (await ask(page, `/items/${item.id}/trail?site=1&oldest=true&limit=2`)).lines
  const when = trail.getByRole('columnheader', { name: 'When' }).getByRole('button')
  await when.click()
  await when.click()
  await expect(trail.locator('tr.row').first()).toContainText(`${oldest.delta}`)
  expect(oldest.site_after).toBe(oldest.delta)
})
