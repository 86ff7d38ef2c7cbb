import { Problem, type Schemas } from '@/api/client'

type Round = Schemas['PickRound']

/** A step of a round, as the server is told of it. */
export type Step =
  | { what: 'pick'; body: Schemas['PickScans'] }
  | { what: 'cartons'; body: Schemas['PickOpenCarton'] }
  | { what: 'short'; body: Schemas['PickShort'] }
  | { what: 'whole'; body: Schemas['PickWhole'] }
  | { what: 'stage'; body: Schemas['PickStage'] }

/** What a round looks like on this device once a step is queued, until the server has it. */
export function withStep(round: Round, step: Step): Round {
  switch (step.what) {
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
    case 'pick':
      return changed(round, step.body.stop_id, (s) => ({
        picked: String(Number(s.picked) + Number(step.body.quantity)),
      }))
    case 'whole':
      return changed(round, step.body.stop_id, (s) => ({ picked: s.quantity }))
    case 'short':
      return changed(round, step.body.stop_id, (s) => ({
        short: String(Number(s.quantity) - Number(s.picked) - Number(step.body.found)),
      }))
    case 'stage':
      return { ...round, state: 'done' }
  }
}

function changed(
  round: Round,
  stop: number,
  what: (s: Schemas['PickRoundStop']) => Partial<Schemas['PickRoundStop']>,
): Round {
  const stops = round.stops.map((s) => {
    if (s.id !== stop) return s
    const now = { ...s, ...what(s) }
    const over = Number(now.picked) + Number(now.short) >= Number(now.quantity)
    return { ...now, state: over ? (Number(now.short) ? ('short' as const) : ('picked' as const)) : now.state }
  })
  return { ...round, stops }
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
