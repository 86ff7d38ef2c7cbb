import { describe, expect, it } from 'vitest'
import { type Json, merge, withField } from './merge'

const order = (lines: Json[], more: { [field: string]: Json } = {}) => ({ carrier: 'Vans', note: '', lines, ...more })
const line = (key: string, quantity: string, price = '1') => ({ key, quantity, price })

describe('a merge of what was read, what is typed and what stands there now', () => {
  it('lets fields that nobody touched follow, and keeps those that somebody did', () => {
    const base = order([line('1', '5'), line('2', '7')])
    const mine = order([line('1', '6'), line('2', '7')], { note: 'by noon' })
    const theirs = order([line('1', '5', '2'), line('2', '8')], { carrier: 'Post' })
    const merged = merge<Json>(base, mine, theirs)
    expect(merged.conflicts).toEqual([])
    expect(merged.value).toEqual(order([line('1', '6', '2'), line('2', '8')], { carrier: 'Post', note: 'by noon' }))
  })

  it('says where both changed to something else, keeps mine, and takes theirs when told', () => {
    const merged = merge<Json>(order([line('1', '5')]), order([line('1', '6')]), order([line('1', '9')]))
    expect(merged.conflicts).toEqual([{ path: ['lines', '1', 'quantity'], mine: '6', theirs: '9' }])
    expect(merged.value).toEqual(order([line('1', '6')]))
    expect(withField(merged.value, ['lines', '1', 'quantity'], '9')).toEqual(order([line('1', '9')]))
  })

  it('loses no line: added on either side, removed on either side, removed here and changed there', () => {
    const base = order([line('1', '1'), line('2', '2'), line('3', '3')])
    const mine = order([line('1', '1'), line('3', '4'), line('mine', '8')])
    const theirs = order([line('1', '1'), line('2', '20'), line('theirs', '9')])
    const { value, conflicts } = merge<Json>(base, mine, theirs)
    expect((value as { lines: { key: string }[] }).lines.map((l) => l.key)).toEqual(['1', '3', 'mine', 'theirs'])
    expect(conflicts).toEqual([
      { path: ['lines', '3'], mine: line('3', '4'), theirs: undefined },
      { path: ['lines', '2'], mine: undefined, theirs: line('2', '20') },
    ])
    const taken = conflicts.reduce((v, c) => withField(v, c.path, c.theirs), value)
    expect((taken as { lines: { key: string }[] }).lines.map((l) => l.key)).toEqual(['1', 'mine', 'theirs', '2'])
  })

  /** Random records of a few fields and lines, from a seed of their own. */
  function random(seed: number) {
    const next = () => (seed = (seed * 1_103_515_245 + 12_345) % 2_147_483_648) / 2_147_483_648
    const word = () => 'abc'[Math.floor(next() * 3)]!
    return () =>
      ({
        a: word(),
        b: word(),
        lines: ['1', '2', '3'].filter(() => next() > 0.3).map((key) => ({ key, q: word(), p: word() })),
      }) as { [field: string]: Json }
  }

  it('holds its laws on random records', () => {
    const make = random(20261126)
    for (let i = 0; i < 3000; i++) {
      const [base, mine, theirs] = [make(), make(), make()]
      // Who touched nothing follows; what nobody else touched stays; the same on both sides is no conflict.
      expect(merge(base, base, theirs)).toEqual({ value: theirs, conflicts: [] })
      expect(merge(base, mine, base)).toEqual({ value: mine, conflicts: [] })
      expect(merge(base, mine, mine)).toEqual({ value: mine, conflicts: [] })
      // Every field that was touched here is as it is here: nothing typed is ever taken away.
      const { value } = merge(base, mine, theirs)
      for (const f of ['a', 'b']) {
        if (mine[f] !== base[f]) expect(value[f]).toBe(mine[f])
        else expect(value[f]).toBe(theirs[f])
      }
    }
  })
})
