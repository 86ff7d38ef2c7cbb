import type { Schemas } from '@/api/client'
import { newKey } from '@/parts/lines'
import { today } from '@/parts/words'

/** A line of a sales order as it is typed. */
export interface Line {
  /** What tells it from the others: its id, or a name of its own while it has none. */
  key: string
  id?: number
  item: number
  sku: string
  description: string
  text: string
  quantity: string
  price: string
}

/** A sales order or a quote as it is typed. */
export interface Sale {
  customer: Schemas['CatalogParty'] | null
  wanted: string
  reference: string
  carrier: string
  note: string
  until: string
  reason: string
  lines: Line[]
}

export const blank = (): Sale => ({
  customer: null,
  wanted: today(1),
  reference: '',
  carrier: '',
  note: '',
  until: today(14),
  reason: '',
  lines: [],
})

/** An order that stands, as its form shows it: what of its lines is not cancelled. */
export const ofOrder = (o: Schemas['OrdersOrder']): Sale => ({
  ...blank(),
  wanted: o.wanted_on,
  reference: o.reference,
  carrier: o.carrier,
  note: o.note,
  until: o.quote_until ?? '',
  lines: o.lines
    .filter((l) => Number(l.cancelled) < Number(l.quantity))
    .map((l) => ({
      key: String(l.id),
      id: l.id,
      item: l.item_id,
      sku: l.sku,
      description: l.description,
      text: l.item_id ? '' : l.description,
      quantity: String(Number(l.quantity) - Number(l.cancelled)),
      price: l.price,
    })),
})

export const lineOf = (item: Schemas['CatalogItem'], quantity = ''): Line => ({
  key: newKey(),
  item: item.id,
  sku: item.sku,
  description: item.description,
  text: '',
  quantity,
  price: '',
})

/** A line for what is no stock, such as freight or a service. */
export const charge = (): Line => ({
  key: newKey(),
  item: 0,
  sku: '',
  description: '',
  text: '',
  quantity: '1',
  price: '0',
})

/** An order as the server is told it. */
export const sent = (s: Sale) => ({
  wanted_on: s.wanted,
  reference: s.reference,
  carrier: s.carrier || undefined,
  note: s.note || undefined,
  reason: s.reason || undefined,
  lines: s.lines.map((l) => ({
    id: l.id,
    item_id: l.item,
    text: l.item ? undefined : l.text,
    quantity: l.quantity,
    price: l.price || undefined,
  })),
})
