import { describe, expect, it } from 'vitest'
import { blank, lineOf } from './between'
import { kinds, kindWords, outcomes, outcomeWords } from './cases'

describe('a transfer as it is typed', () => {
  it('leaves lots and units to the withdrawal rule until something is chosen', () => {
    const l = lineOf({ id: 4, sku: 'CL', description: 'Cloth', base_unit: 'metre', tracking: 'lot', packs: [] })
    expect([l.lot, l.serials, l.quantity, l.pack]).toEqual([0, [], '', 0])
    expect(blank().expected > blank().wanted).toBe(true)
  })
})

describe('a difference between two sites', () => {
  it('ends in every way but for what was never sent, which is not lost', () => {
    expect(outcomes({ kind: 'less', from: 'Quay' }).map((o) => o.value)).toEqual([
      'received',
      'back',
      'lost',
      'carrier',
    ])
    expect(outcomes({ kind: 'more', from: 'Quay' }).map((o) => o.value)).toEqual(['received', 'back'])
  })
  it('has words for each kind and each end', () => {
    for (const k of kinds) {
      expect(kindWords(k.value)).toBe(k.label)
      for (const o of outcomes({ kind: k.value, from: 'Quay' }))
        expect(outcomeWords({ kind: k.value, from: 'Quay', outcome: o.value } as never)).toBe(o.label)
    }
  })
})
