import { expect, test } from 'vitest'
import { sumOf } from './sums'

test('figures are added exactly, also where binary fractions would not be', () => {
  expect(sumOf(['0.1', '0.2', ''])).toBe('0.3')
  expect(sumOf(['12', '-0.5'])).toBe('11.5')
  expect(sumOf(['-1', '0.25'])).toBe('-0.75')
  expect(sumOf(['100', '200'])).toBe('300')
  expect(sumOf(['9007199254740993', '0.001'])).toBe('9007199254740993.001')
  expect(sumOf([])).toBe('0')
})
