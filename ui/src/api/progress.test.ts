import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { follow, progress } from './progress'

beforeEach(() => void vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

test('a command that is soon answered says nothing; a long one says how far it is, until it is answered', async () => {
  let done = 0
  const asked = vi.fn((path: string) => Promise.resolve(Response.json({ path, done: (done += 10), total: 40 })))
  vi.stubGlobal('fetch', asked)
  const quick = follow('a')
  await vi.advanceTimersByTimeAsync(1000)
  quick()
  await vi.advanceTimersByTimeAsync(5000)
  expect(asked).not.toHaveBeenCalled()

  const end = follow('b/1')
  await vi.advanceTimersByTimeAsync(1500)
  expect(asked).toHaveBeenLastCalledWith('/api/v1/commands/b%2F1')
  expect(progress.value).toMatchObject({ done: 10, total: 40 })
  await vi.advanceTimersByTimeAsync(700)
  expect(progress.value).toMatchObject({ done: 20 })
  end()
  expect(progress.value).toBeUndefined()
  await vi.advanceTimersByTimeAsync(5000)
  expect(asked).toHaveBeenCalledTimes(2)
})

test('where nobody tells how far it is, it is said to be under way all the same', async () => {
  vi.stubGlobal('fetch', () => Promise.reject(new Error('cut')))
  const end = follow('c')
  await vi.advanceTimersByTimeAsync(1500)
  expect(progress.value).toEqual({ done: 0, total: 0 })
  end()
})
