import { Problem, type Schemas } from '@/api/client'
import type { Step } from './kept'

type Round = Schemas['PickRound']

/** What a round looks like on this device once a step is kept, until the server has it. */
export function withStep(round: Round, step: Step): Round {
  switch (step.what) {
    case 'cartons': {
      const order = round.orders.find((o) => o.id === step.body.order_id)
      const letter = String.fromCharCode(65 + (round.cartons.length % 26))
      const opened = {
        id: -1 - round.cartons.length,
        sscc: labelOf(round, step.body.scan),
        letter,
        order_id: step.body.order_id ?? null,
        order: order?.number ?? '',
        state: 'open',
      }
      return { ...round, cartons: [...round.cartons, opened] }
    }
    case 'take':
      return changed(round, step.body.stop_id, (s) => ({ taken: String(Number(s.taken) + Number(step.body.quantity)) }))
    case 'whole':
      return changed(round, step.body.stop_id, (s) => ({ taken: s.quantity }))
    case 'short':
      return changed(round, step.body.stop_id, (s) => ({
        short: String(Number(s.quantity) - Number(s.taken) - Number(step.body.found)),
      }))
    case 'set-down':
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
    return { ...now, done: Number(now.taken) + Number(now.short) >= Number(now.quantity) }
  })
  return { ...round, stops }
}

/** The number on a carton's label, so far as this device can read it: the server looks again when it is back. */
function labelOf(round: Round, scan: string): string {
  const sscc = scan.match(/(?:^|\]C1|\(?00\)?)?(\d{18})$/)?.[1]
  if (!sscc)
    throw new Problem(
      409,
      'wrong_carton',
      `You scanned ${scan}, which is no carton label. Scan the label on the carton.`,
    )
  if (round.cartons.some((c) => c.sscc === sscc))
    throw new Problem(409, 'carton_used', `Carton ${sscc} is on this round already. Take a blank label.`)
  return sscc
}
