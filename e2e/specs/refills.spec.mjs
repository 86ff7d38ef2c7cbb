import { ask, command, expect, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'

test('picking bins that are short are refilled on one walk in the hand; what does not fit goes back', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  await page.goto('/transfers/refills')
  await expect(page.locator('[data-fetches]')).toContainText('DX-100')
  await page.getByRole('button', { name: /^Make 1 refill of/ }).click()
  const said = page.getByRole('status').filter({ hasText: 'waits for whoever walks next' })
  await expect(said).toBeVisible()
  const number = (await said.textContent()).match(/RF-\d+/)[0]
  await expect(page.locator('[data-fetches]')).toHaveCount(0)
  const found = (await ask(page, '/refills?site=1')).find((r) => r.number === number)

  const hand = await takeHandheld(browser, baseURL, 'B-003')
  await hand.goto('/hand')
  await hand.getByRole('link', { name: new RegExp(`Refill ${number}`) }).click()
  await hand.getByRole('button', { name: 'Start walking' }).click()
  await scan(hand, 'F-11-1-A')
  await expect(hand.locator('[data-wrong]')).toContainText('You scanned F-11-1-A. Go to')
  let short
  const at = async () => {
    const now = await ask(hand, `/refills/${found.id}`)
    return { now, step: now.steps[0], line: now.lines.find((l) => l.id === now.steps[0]?.line_id) }
  }
  const key = ({ step }) => (step ? `${step.does} ${step.line_id} ${step.quantity}` : 'over')
  for (let here = await at(), last = ''; here.step; here = await at()) {
    await expect(hand.locator('[data-go]')).toHaveText(here.step.bin)
    await expect(hand.locator('[data-take]')).toHaveText(here.step.quantity)
    if (last !== here.step.bin) await scan(hand, here.step.bin)
    last = here.step.bin
    if (here.step.does === 'bring' && !short && Number(here.step.quantity) > 1) {
      short = here
      await hand.getByRole('button', { name: 'Not all fit' }).click()
      await hand.getByLabel('How many fit?').fill(String(Number(here.step.quantity) - 1))
      await hand.getByRole('button', { name: /^Only / }).click()
    } else {
      await scan(hand, here.line.sku)
    }
    await expect.poll(async () => key(await at())).not.toBe(key(here))
  }
  await expect(hand.getByRole('heading', { name: 'All brought' })).toBeVisible()
  const done = await ask(page, `/refills/${found.id}`)
  expect(done.lines.find((l) => l.id === short.line.id).returned).toBe('1')
  await page.goto(`/go/${number}`)
  await expect(page.locator('[data-refill-lines]')).toContainText('DX-100')
})

test('goods, and a carton as it is, are moved by scan in the hand', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const hand = await takeHandheld(browser, baseURL, 'B-003')
  await hand.goto('/hand')
  await hand.getByRole('link', { name: /^Move/ }).click()
  await scan(hand, 'B-11-1-A')
  await scan(hand, 'CB-100')
  await expect(hand.locator('[data-wrong]')).toContainText('does not lie in B-11-1-A')
  await scan(hand, 'GL-106')
  await hand.locator('[data-quantity]').fill('5')
  await hand.locator('[data-press]').click()
  await scan(hand, 'B-05-1-A')
  await expect(hand.getByRole('status')).toContainText('Moved 5 of GL-106 from B-11-1-A to B-05-1-A')
  // A pallet that stands in a bin goes as it is.
  const [pallet] = (await ask(page, '/put-away/pallets?site=1'))
  const [bin] = await ask(page, `/put-away/pallets/${pallet.id}/bins`)
  await command(page, '/put-away/pallets', { carton_id: pallet.id, bin: bin.bin })
  await scan(hand, bin.bin)
  await scan(hand, `]C100${pallet.sscc}`)
  await scan(hand, bin.bin)
  await expect(hand.locator('[data-wrong]')).toContainText('already')
  const other = (await ask(page, '/locations?site=1&kind=dock'))[0]
  await scan(hand, other.code)
  await expect(hand.getByRole('status')).toContainText(`from ${bin.bin} to ${other.code}`)
})
