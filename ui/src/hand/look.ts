import { Problem, type Schemas } from '@/api/client'
import type { Place } from './store'

type Stop = Schemas['PickRoundStop']
type Step = Place['step']

const has = (text: string, code?: string | null) => !!code && text.toUpperCase().includes(code.toUpperCase())

/**
 * Whether a scan seems right, as far as this device can look while the connection is away, and what is asked for next.
 * The server looks again when the step is sent.
 */
export function lookLocally(r: Asks, s: Stop, step: Step, text: string, carton?: Schemas['PickCarton']): Step {
  const item = has(text, s.sku) || has(text, s.gtin)
  const expected: Record<Step, [boolean, string]> = {
    bin: [has(text, s.bin), s.bin],
    item: [item, s.sku],
    each: [item, s.sku],
    // A lot that is taken down here is nowhere to be looked up.
    lot: [!s.lot || has(text, s.lot), s.lot ?? ''],
    serial: [!s.serials.length || s.serials.some((u) => text.endsWith(u)), s.serials.join(', ')],
    carton: [has(text, carton?.sscc), carton?.sscc ?? ''],
    quantity: [true, ''],
  }
  otherLot(s, step, text)
  const [seems, wanted] = expected[step]
  if (!seems)
    throw new Problem(
      409,
      'wrong_scan',
      `You scanned ${text}. Here it is ${wanted}. The connection is away; this device cannot look further.`,
    )
  return stepAfter(r, s, step, text)
}

/** A lot that lies there too can be taken instead, when somebody says so. */
function otherLot(s: Stop, step: Step, text: string) {
  if (!['item', 'lot', 'each'].includes(step) || has(text, s.lot)) return
  const other = s.other_lots.find((o) => has(text, o.lot))
  if (other)
    throw new Problem(
      409,
      'wrong_lot',
      `You scanned lot ${other.lot}. Here you take lot ${s.lot} of ${s.sku}.`,
      'lot',
      { scanned: other.lot },
    )
}

/** What the site has scanned at each stop. */
type Asks = Pick<Schemas['PickRound'], 'scan_bin' | 'scan_item' | 'scan_carton'>

/** What is asked of a stop behind a step, or first of all: what the site does not have scanned is left out. */
export function stepAfter(r: Asks, s: Stop, step?: Step, text = ''): Step {
  const unitwise = s.tracking === 'serial' || s.tracking === 'serial_out'
  const all: [Step, boolean][] = [
    ['bin', r.scan_bin],
    ['item', r.scan_item],
    ['lot', s.ask_lot && !has(text, s.lot)],
    ['serial', unitwise],
    ['carton', r.scan_carton],
  ]
  const done = all.findIndex(([name]) => name === (step === 'each' ? 'serial' : step))
  if (step === 'quantity') return 'quantity'
  return all.slice(done + 1).find(([, asked]) => asked)?.[0] ?? 'quantity'
}

/** The serial on a label, where this device knows the units that lie there; nothing where it cannot tell. */
export const unitOn = (s: Stop, text: string) => s.serials.find((u) => text.endsWith(u))
