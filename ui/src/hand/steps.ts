import { Problem, type Schemas } from '@/api/client'

type Round = Schemas['PickRound']

/** A step of a round, as the server is told of it. */
export type Step =
  | { what: 'start' }
  | { what: 'other_lot'; body: Schemas['PickOtherLot'] }
  | { what: 'each_unit'; body: Schemas['PickEachUnit'] }
  | { what: 'pick'; body: Schemas['PickScans'] }
  | { what: 'cartons'; body: Schemas['PickOpenCarton'] }
  | { what: 'short'; body: Schemas['PickShort'] }
  | { what: 'nought'; body: Schemas['PickNought'] }
  | { what: 'whole'; body: Schemas['PickWhole'] }
  | { what: 'stage'; body: Schemas['PickStage'] }

/** What a round looks like on this device once a step is queued, until the server has it. */
export function withStep(round: Round, step: Step): Round {
  switch (step.what) {
    case 'start':
      return { ...round, state: 'walking' }
    case 'each_unit':
      return { ...round, each_unit: step.body.each_unit }
    case 'other_lot':
      return changed(round, step.body.stop_id, (s) => inLot(s, step.body.lot))
    case 'cartons': {
      const sscc = labelOf(step.body.scan)
      // It may have come through, and only the answer not.
      if (round.cartons.some((c) => c.sscc === sscc)) return round
      const order = round.orders.find((o) => o.id === step.body.order_id)
      const letter = String.fromCharCode(65 + (round.cartons.length % 26))
      const opened = {
        id: -1 - round.cartons.length,
        sscc,
        letter,
        order_id: step.body.order_id ?? null,
        order: order?.number ?? '',
        state: 'open',
      }
      return { ...round, cartons: [...round.cartons, opened] }
    }
    case 'nought':
      return looked(round, step.body.stop_id)
    case 'pick':
      return changed(round, step.body.stop_id, (s) => ({
        picked: sum(s.picked, step.body.quantity),
        serials: s.serials.filter((serial) => !step.body.serials?.includes(serial)),
        units: s.units.filter((u) => !step.body.serials?.includes(u.serial)),
      }))
    case 'whole':
      return changed(round, step.body.stop_id, (s) => ({ picked: s.quantity }))
    case 'short':
      return changed(round, step.body.stop_id, (s) => ({
        short: sum(s.quantity, sum(`-${s.picked}`, `-${step.body.found}`)),
      }))
    case 'stage':
      return { ...round, state: 'done' }
  }
}

/** A stop that is taken from another lot, which must have been there to be chosen when the device last knew. */
function inLot(s: Schemas['PickRoundStop'], lot: string): Partial<Schemas['PickRoundStop']> {
  const other = s.other_lots.find((o) => sameCode(o.lot, lot))
  if (!other || Number(other.free) < Number(s.quantity) || Number(s.picked) + Number(s.short) > 0)
    throw new Problem(
      409,
      'wrong_lot',
      `As far as this device knows, lot ${lot} cannot serve the ${s.quantity} wanted at ${s.bin}. Take lot ${s.lot}, say that there is not enough, or go where there is a connection.`,
    )
  return { lot: other.lot, expires_on: other.expires_on, planned_lot: s.planned_lot ?? s.lot, other_lots: [] }
}

/** Quantities carry six decimals at most. */
const sum = (a: string, b = '0') => String(Math.round((Number(a) + Number(b)) * 1e6) / 1e6)

const sameCode = (a: string, b: string) => a.toUpperCase() === b.toUpperCase()

function changed(
  round: Round,
  stop: number,
  what: (s: Schemas['PickRoundStop']) => Partial<Schemas['PickRoundStop']>,
): Round {
  const stops = round.stops.map((s) => {
    if (s.id !== stop) return s
    const now = { ...s, ...what(s) }
    const over = Number(now.picked) + Number(now.short) >= Number(now.quantity)
    if (!over) return now
    const state = Number(now.short) ? ('short' as const) : ('picked' as const)
    return { ...now, state, ask_nought: state === 'picked' && s.empties }
  })
  return { ...round, stops }
}

/** A bin that was looked into: no other stop there asks again. */
function looked(round: Round, stop: number): Round {
  const at = round.stops.find((s) => s.id === stop)
  const same = (s: Round['stops'][number]) => s.location_id === at?.location_id && s.item_id === at.item_id
  return { ...round, stops: round.stops.map((s) => (same(s) ? { ...s, ask_nought: false } : s)) }
}

/** The number on a carton's label, so far as this device can read it: the server looks again when it is back. */
export function labelOf(scan: string): string {
  const sscc = scan.match(/(\d{18})$/)?.[1]
  if (!sscc)
    throw new Problem(
      409,
      'wrong_carton',
      `You scanned ${scan}, which is no carton label. Scan the label on the carton.`,
    )
  return sscc
}
