import { expect, test } from 'vitest'
import { partsOf } from './trace'

const none = { found: '0', sent_back: '0', scrapped: '0', lost: '0', stands: '0', with_customers: '0', came: '0' }

test('the parts of what came in add up to it, lot by lot', () => {
  const goods = [
    { ...none, came: '40', stands: '30.5', with_customers: '8', scrapped: '1.5' },
    { ...none, came: '10', found: '1', stands: '9', lost: '2' },
  ]
  const { came, parts } = partsOf(goods as never)
  expect(came).toBe(51)
  expect(parts.map((p) => [p.name, p.quantity])).toEqual([
    ['here', 39.5],
    ['customers', 8],
    ['scrapped', 1.5],
    ['lost', 2],
  ])
  expect(parts.reduce((n, p) => n + p.quantity, 0)).toBe(came)
})
