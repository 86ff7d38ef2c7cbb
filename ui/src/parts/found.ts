import type { Schemas } from '@/api/client'

/** In what condition goods came that a customer sent back. */
export type Found = NonNullable<Schemas['ReceiveReceiptLine']['found']>
export const foundOptions: { value: Found; label: string }[] = [
  { value: 'as_new', label: 'as new' },
  { value: 'opened', label: 'opened' },
  { value: 'used', label: 'used' },
  { value: 'broken', label: 'broken' },
  { value: 'incomplete', label: 'incomplete' },
]

/** Whether it is said of what comes on a line of the arrival. */
export const asksFound = (a: Schemas['ReceiveArrival'] | undefined, line: Pick<Schemas['InboundLine'], 'order_id'>) =>
  !!a?.orders.some((o) => o.id === line.order_id && o.asks_found)
