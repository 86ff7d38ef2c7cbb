import { describe, expect, it } from 'vitest'
import type { Schemas } from '@/api/client'
import { byLot, fates, fateWords, lineOf, looseLine, looseWish, unitwise, waitsFor } from './returning'

const sold = (more: Partial<Schemas['ReturnsSold']>) =>
  ({ returnable: '7', serials: [], tracking: 'none', ...more }) as unknown as Schemas['ReturnsSold']

describe('a return as it is typed', () => {
  it('begins with all that may come back, and with no unit chosen where each has a serial', () => {
    expect(lineOf(sold({})).quantity).toBe('7')
    const byUnit = lineOf(sold({ tracking: 'serial', serials: ['A', 'B'] }))
    expect([byUnit.quantity, byUnit.serials]).toEqual(['', []])
    expect(lineOf(sold({})).key).not.toBe(lineOf(sold({})).key)
  })
  it('says what it waits for in each state that is not the end', () => {
    const states = ['asked', 'announced', 'partly_received', 'received', 'decided'] as const
    const words = states.map((state) => waitsFor({ state } as Schemas['ReturnsReturn']))
    expect(new Set(words).size).toBe(states.length)
    expect(words.some((w) => w.includes('_'))).toBe(false)
  })
  it('has words for every fate that the server knows, and shows one that it does not know as it is', () => {
    expect(fates.map((f) => fateWords(f.value))).toEqual(fates.map((f) => f.label))
    expect(fateWords('sold')).toBe('sold')
  })
})

describe('goods without a paper', () => {
  it('begin with nothing said, and ask for lots and units where an item has them', () => {
    const l = looseLine({ id: 1, sku: 'HC', description: 'Clamp', tracking: 'none' })
    expect([l.quantity, l.lot, l.serials, l.reason]).toEqual(['', '', '', null])
    expect(looseWish().lines).toEqual([])
    expect(['none', 'lot', 'lot_expiry', 'lot_out', 'serial', 'serial_out'].filter(byLot)).toEqual([
      'lot',
      'lot_expiry',
      'lot_out',
    ])
    expect(['none', 'lot', 'serial', 'serial_out'].filter(unitwise)).toEqual(['serial', 'serial_out'])
  })
})
