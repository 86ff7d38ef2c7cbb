import { ask, command, expect, lookInto, order, round, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'
import { proxy } from '../lib/proxy.mjs'

/** A handheld on which the application is kept. */
async function handheld(browser, base, badge) {
  const hand = await takeHandheld(browser, base, badge, 'allow')
  await hand.evaluate(() => navigator.serviceWorker.ready.then((r) => r.active.state))
  return hand
}

/** A round of an order, begun in the hand with a carton opened. */
async function begun(page, hand, lines) {
  const r = await round(page, [await order(page, lines)])
  const [label] = await command(page, '/cartons', { site_id: 1, count: 1 })
  await hand.goto(`/hand/round/${r.id}`)
  await hand.getByRole('button', { name: 'Start walking' }).click()
  await scan(hand, label.sscc)
  await expect(hand.locator('.ct')).toContainText('A')
  return { id: r.id, number: r.number, sscc: label.sscc, stops: (await ask(page, `/rounds/${r.id}`)).stops }
}

async function take(hand, stop, sscc) {
  await expect(hand.locator('[data-go]')).toHaveText(stop.bin)
  await scan(hand, stop.bin)
  await scan(hand, stop.sku)
  await scan(hand, sscc)
  await hand.locator('[data-press]').click()
}

test('the server is stopped in mid-round: a reload and a start anew show all that is queued and scanned, and work on', async ({ browser, baseURL, page }) => {
  await signOn(page, 'lead')
  const between = await proxy(baseURL)
  const hand = await handheld(browser, between.url, 'B-004')
  const r = await begun(page, hand, [['CF-185', '3'], ['GB-B01', '2']])
  const [first, second] = r.stops
  await between.stop()
  await take(hand, first, r.sscc)
  await expect(hand.locator('[data-queued]')).toContainText('1 step is waiting')
  await scan(hand, second.bin)
  await expect(hand.getByText(`bin ${second.bin}`)).toBeVisible()

  await hand.reload()
  await expect(hand.locator('[data-go]')).toHaveText(second.bin)
  await expect(hand.getByText(`bin ${second.bin}`)).toBeVisible()
  await expect(hand.locator('[data-queued]')).toContainText('1 step is waiting')

  const anew = await hand.context().newPage()
  await hand.close()
  await anew.goto('/hand')
  await expect(anew.locator('[data-away]')).toContainText('No connection')
  await expect(anew.locator('[data-queued]')).toContainText('1 step is waiting')
  await anew.getByRole('button', { name: 'Sign off' }).click()
  await expect(anew.locator('[data-leaving]')).toContainText('1 step of yours is not sent')
  await anew.getByRole('button', { name: 'Stay signed on' }).click()
  await anew.getByRole('link', { name: /^Round R-/ }).click()
  await scan(anew, second.sku)
  await scan(anew, r.sscc)
  await anew.locator('[data-press]').click()
  await lookInto(anew)
  await anew.getByRole('button', { name: 'Bring to the bench' }).click()
  await expect(anew.getByRole('heading', { name: 'At the bench' })).toBeVisible()
  await expect(anew.locator('[data-queued]')).toContainText('3 steps are waiting')

  await between.start()
  await expect(anew.locator('[data-queued]')).toHaveCount(0, { timeout: 30_000 })
  await expect(anew.locator('[data-away]')).toHaveCount(0)
  expect(await ask(page, `/rounds/${r.id}`)).toMatchObject({ state: 'done', short: '0' })
  for (const s of [first, second]) {
    const { lines } = await ask(page, `/items/${s.item_id}/trail?site=1`)
    expect(lines.filter((l) => l.document === r.number && l.kind === 'pick' && Number(l.delta) < 0)).toHaveLength(1)
  }
  await between.stop()
})

test('whoever signs off without a connection is signed off at the server when it is back, before anything else', async ({ browser, baseURL }) => {
  const between = await proxy(baseURL)
  const hand = await handheld(browser, between.url, 'B-003')
  await between.stop()
  await hand.reload()
  await expect(hand.getByRole('heading', { name: 'What now?' })).toBeVisible()
  await hand.getByRole('button', { name: 'Sign off' }).click()
  await expect(hand.getByLabel('Badge')).toBeVisible()
  await hand.reload()
  await expect(hand.getByLabel('Badge')).toBeVisible()
  await between.start()
  expect((await hand.request.get(`${between.url}/api/v1/session`)).status()).toBe(200)
  await hand.reload()
  await expect(hand.getByLabel('Badge')).toBeVisible()
  expect((await hand.request.get(`${between.url}/api/v1/session`)).status()).toBe(401)
  await between.stop()
})

test('another lot that lies there is taken without a connection, and is judged when it is back', async ({ browser, baseURL, page }) => {
  await signOn(page, 'lead')
  const { item } = (await ask(page, '/items?site=1&q=SB-'))[0]
  const { holdings } = await ask(page, `/items/${item.id}?site=1`)
  const free = holdings.filter((h) => h.kind === 'bin' && h.lot && Number(h.quantity) - Number(h.reserved) >= 4)
  const other = free.find((h) => h.lot !== free[0].lot)
  const r = await round(page, [await order(page, [[item.sku, '2']])])
  const [stop] = (await ask(page, `/rounds/${r.id}`)).stops
  // The other lot lies beside it, or is laid there.
  const from = stop.lot === other.lot ? free[0] : other
  if (from.location !== stop.bin) expect(await command(page, '/transfers', { from_id: from.location_id, to: stop.bin, item_id: item.id, lot_id: from.lot_id, quantity: '3' })).toHaveProperty('done')
  const hand = await takeHandheld(browser, baseURL, 'B-004')
  await hand.goto(`/hand/round/${r.id}`)
  await hand.getByRole('button', { name: 'Start walking' }).click()
  const [label] = await command(page, '/cartons', { site_id: 1, count: 1 })
  await scan(hand, label.sscc)
  await expect(hand.locator('[data-go]')).toHaveText(stop.bin)
  await hand.context().setOffline(true)
  await scan(hand, stop.bin)
  await scan(hand, `]C101${stop.gtin}10${from.lot}`)
  await expect(hand.locator('[data-wrong]')).toContainText(`You scanned lot ${from.lot}`)
  await hand.getByRole('button', { name: `Take lot ${from.lot}` }).click()
  await expect(hand.locator('.it')).toContainText(from.lot)
  await scan(hand, `]C101${stop.gtin}10${from.lot}`)
  await scan(hand, label.sscc)
  await hand.locator('[data-press]').click()
  await expect(hand.locator('[data-queued]')).toContainText('2 steps are waiting')
  await hand.context().setOffline(false)
  await expect(hand.locator('[data-queued]')).toHaveCount(0, { timeout: 30_000 })
  expect((await ask(page, `/rounds/${r.id}`)).stops).toMatchObject([{ id: stop.id, lot: from.lot, planned_lot: stop.lot, picked: '2' }])
  await lookInto(hand)
  await hand.getByRole('button', { name: 'Bring to the bench' }).click()
  await expect(hand.getByRole('heading', { name: 'At the bench' })).toBeVisible()
})

test('a new version of the application is taken up between rounds, never within one', async ({ browser, baseURL, page }) => {
  await signOn(page, 'lead')
  let newer = ''
  const between = await proxy(baseURL, { '/sw.js': () => newer })
  const hand = await handheld(browser, between.url, 'B-001')
  const r = await begun(page, hand, [['GB-B01', '1']])
  newer = '// another build'
  await hand.evaluate(async () => {
    window.since = 'before'
    const registration = await navigator.serviceWorker.getRegistration('/hand')
    await registration.update()
  })
  await expect.poll(() => hand.evaluate(async () => !!(await navigator.serviceWorker.getRegistration('/hand')).waiting)).toBe(true)
  await hand.getByRole('link', { name: 'Back' }).click()
  await hand.getByRole('link', { name: `Round ${r.number}` }).click()
  await take(hand, r.stops[0], r.sscc)
  await lookInto(hand)
  await hand.getByRole('button', { name: 'Bring to the bench' }).click()
  await expect(hand.getByRole('heading', { name: 'At the bench' })).toBeVisible()
  expect(await hand.evaluate(() => window.since)).toBe('before')
  await hand.getByRole('button', { name: 'What now?' }).click()
  await expect.poll(() => hand.evaluate(() => window.since ?? 'anew').catch(() => '')).toBe('anew')
  await expect(hand.getByRole('heading', { name: 'What now?' })).toBeVisible()
  expect(await hand.evaluate(async () => !!(await navigator.serviceWorker.getRegistration('/hand')).waiting)).toBe(false)
  await between.stop()
})

test('the hand can be installed', async ({ browser, baseURL }) => {
  const page = await takeHandheld(browser, baseURL, 'B-004', 'allow')
  const devtools = await page.context().newCDPSession(page)
  // A test's own context is never offered it; nothing else may be in the way.
  const wrong = async () =>
    (await devtools.send('Page.getInstallabilityErrors')).installabilityErrors.map((e) => e.errorId).filter((e) => e !== 'in-incognito')
  await expect.poll(wrong).toEqual([])
  const manifest = JSON.parse((await devtools.send('Page.getAppManifest')).data)
  expect([manifest.start_url, manifest.scope, manifest.display]).toEqual(['/hand', '/hand', 'standalone'])
})
