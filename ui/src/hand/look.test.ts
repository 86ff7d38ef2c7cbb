import { expect, test, vi } from 'vitest'
import type { Schemas } from '@/api/client'

vi.stubGlobal('localStorage', { getItem: () => null })
const { stepAfter } = await import('./look')

type Stop = Schemas['PickRoundStop']
const stopOf = (more: Partial<Stop>) => ({ tracking: 'none', ask_lot: false, lot: null, ...more }) as Stop

test('a stop asks for what the site has scanned, in order, and for nothing else', () => {
  for (let bits = 0; bits < 8; bits++) {
    const asks = { scan_bin: !!(bits & 1), scan_item: !!(bits & 2), scan_carton: !!(bits & 4) }
    for (const s of [stopOf({}), stopOf({ ask_lot: true, lot: 'L1' }), stopOf({ tracking: 'serial' })]) {
      const asked: string[] = []
      for (let at = stepAfter(asks, s); at !== 'quantity'; at = stepAfter(asks, s, at)) asked.push(at)
      const wanted = [
        asks.scan_bin && 'bin',
        asks.scan_item && 'item',
        s.ask_lot && 'lot',
        s.tracking === 'serial' && 'serial',
        asks.scan_carton && 'carton',
      ].filter(Boolean)
      expect(asked).toEqual(wanted)
    }
  }
})

test('a label that says the lot is not asked for it again', () => {
  const asks = { scan_bin: true, scan_item: true, scan_carton: true }
  expect(stepAfter(asks, stopOf({ ask_lot: true, lot: 'L1' }), 'item', '(01)1(10)L1')).toBe('carton')
  expect(stepAfter(asks, stopOf({ ask_lot: true, lot: 'L1' }), 'item', 'TP-1')).toBe('lot')
})
