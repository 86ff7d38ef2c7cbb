// @vitest-environment jsdom
import { beforeEach, expect, it } from 'vitest'
import { answered, commandOf, keyOf, settles } from './pending'

beforeEach(() => sessionStorage.clear())

it('keeps one key for one unchanged command until it is answered', () => {
  const command = commandOf(7, '/api/v1/moves', '{"quantity":"5"}')
  expect(keyOf(command, 'first')).toBe('first')
  expect(keyOf(command, 'second')).toBe('first')
  // Another quantity, another person and another operation are other wishes.
  expect(keyOf(commandOf(7, '/api/v1/moves', '{"quantity":"6"}'), 'third')).toBe('third')
  expect(keyOf(commandOf(8, '/api/v1/moves', '{"quantity":"5"}'), 'fourth')).toBe('fourth')
  answered(command)
  expect(keyOf(command, 'fifth')).toBe('fifth')
})

it('takes an answer for one that says what became of the command', () => {
  expect([0, 200, 409, 422, 499, 500, 502, 503].map(settles)).toEqual([
    false,
    true,
    true,
    true,
    true,
    false,
    false,
    false,
  ])
})

it('forgets what nobody answered for a day', () => {
  const command = commandOf(7, '/api/v1/moves', '{}')
  keyOf(command, 'old')
  const all = JSON.parse(sessionStorage.getItem('lanternrow.pending')!)
  all[command].at -= 25 * 60 * 60 * 1000
  sessionStorage.setItem('lanternrow.pending', JSON.stringify(all))
  expect(keyOf(command, 'new')).toBe('new')
})
