import type { Schemas } from '@/api/client'

export type HoldReason = Schemas['OrdersOnHold']['reason']

/** Why an order is put on hold, in words. */
export const holdWords: Record<HoldReason, string> = {
  hand: 'by hand',
  credit: 'credit',
  payment: 'payment',
  address: 'address',
  stock: 'stock',
}
export const holdReasons = (Object.keys(holdWords) as HoldReason[]).map((value) => ({ value, label: holdWords[value] }))

/** How an order stands that is on hold. */
export const onHoldWords = (o: Pick<Schemas['OrdersOrder'], 'hold' | 'hold_note' | 'held_by'>) =>
  o.hold ? [holdWords[o.hold], o.hold_note, `by ${o.held_by}`].filter(Boolean).join(', ') : ''

/** What keeps an order from going, as its blocker is called. */
export const keeps = {
  carton_weight: "a carton's weight differs",
  restock: 'goods to return to stock',
  bin_short: 'a bin was short',
  lines_short: 'lines short of stock',
}
