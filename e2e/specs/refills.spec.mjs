import { ask, command, expect, field, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'

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

test('levels are set in the catalog and obeyed; a refill is given up at the desk, and taken over in the hand', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  await page.goto('/catalog/picking-bins')
  await page.getByRole('link', { name: 'Add one' }).click()
  await field(page, 'Item / bin').fill('TP-W50 / A-03-1-A')
  await page.getByLabel('Least', { exact: true }).fill('12')
  await page.getByLabel('Most', { exact: true }).fill('6')
  await expect(page.getByText('The most of 6 is below the least of 12').first()).toBeVisible()
  await page.getByLabel('Most', { exact: true }).fill('24')
  await page.locator('[data-primary]').click()
  await expect(page.getByRole('heading', { name: 'TP-W50 / A-03-1-A' })).toBeVisible()
  await page.goto('/transfers/refills')
  await expect(page.locator('[data-levels]')).toContainText('A-03-1-A')
  await expect(page.locator('[data-fetches]')).toContainText('A-03-1-A')

  // One that waits is given up: what it would fetch is planned again.
  const waits = (await ask(page, '/refills?site=1')).find((r) => r.state === 'planned')
  await page.getByRole('link', { name: new RegExp(waits.number) }).click()
  await page.getByRole('button', { name: 'Give it up' }).click()
  await expect(page.getByText('cancelled').first()).toBeVisible()
  await page.goto('/transfers/refills')
  await expect(page.locator('[data-fetches]')).toContainText(new RegExp(waits.lines.map((l) => l.to).join('|')))

  // One that somebody walks is taken over by name, and ended: nothing stays on the trolley.
  const walked = (await ask(page, '/refills?site=1')).find((r) => r.state === 'walking')
  const hand = await takeHandheld(browser, baseURL, 'B-003')
  await hand.goto(`/hand/refill/${walked.id}`)
  await expect(hand.getByRole('status')).toContainText(`${walked.person} walks it`)
  await hand.getByRole('button', { name: 'Take it over' }).click()
  await hand.getByRole('button', { name: 'End it here' }).click()
  await hand.getByRole('button', { name: 'Go on' }).click()
  await expect(hand.locator('[data-go]')).toBeVisible()
  await hand.getByRole('button', { name: 'End it here' }).click()
  await hand.locator('[data-end]').click()
  await expect(hand.getByRole('heading', { name: 'What now?' })).toBeVisible()
  const over = await ask(page, `/refills/${walked.id}`)
  expect(over.state).toBe('done')
  expect(over.lines.every((l) => Number(l.fetched) === Number(l.brought) + Number(l.returned))).toBe(true)
})
