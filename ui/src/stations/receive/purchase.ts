import type { Schemas } from '@/api/client'
import { seesMoney } from '@/api/session'
import { newKey } from '@/parts/lines'
import { today } from '@/parts/words'

/** A line of a purchase order as it is typed. */
export interface Line {
  /** What tells it from the others: its id, or a name of its own while it has none. */
  key: string
  id?: number
  item: number
  sku: string
  description: string
  text: string
  pack: number
  quantity: string
  price: string
  needed: string
  why: string
}

/** A purchase order as it is typed. */
export interface Purchase {
  supplier: Schemas['CatalogParty'] | null
  expected: string
  carrier: string
  terms: string
  freight: string
  freightBy: 'value' | 'weight'
  note: string
  begunAs: 'order' | 'request' | 'quote'
  quote: string
  quoteUntil: string
  lines: Line[]
}

export const blank = (begunAs: Purchase['begunAs']): Purchase => ({
  supplier: null,
  expected: today(3),
  carrier: '',
  terms: '',
  freight: '0',
  freightBy: 'value',
  note: '',
  begunAs,
  quote: '',
  quoteUntil: today(30),
  lines: [],
})

/** An order that stands, as its form shows it: quantities in the pack they were ordered in. */
export const ofOrder = (o: Schemas['PurchasingOrder']): Purchase => ({
  ...blank(o.began_as),
  expected: o.expected_on,
  carrier: o.carrier,
  terms: o.terms,
  freight: o.freight,
  freightBy: o.freight_by,
  supplier: {
    id: o.supplier_id,
    name: o.supplier,
    kind: 'supplier',
    code: '',
    address: '',
    contact: '',
    carrier: o.carrier,
    email: o.email,
    terms: o.terms,
  },
  quote: o.quote,
  quoteUntil: o.quote_until ?? today(30),
  lines: o.lines.map((l) => ({
    key: String(l.id),
    id: l.id,
    item: l.item_id,
    sku: l.sku,
    description: l.description,
    text: l.item_id ? '' : l.description,
    pack: l.pack_id,
    quantity: l.in_pack,
    price: l.price,
    needed: l.needed_on ?? '',
    why: '',
  })),
})

/** A line for an item that was found: as the supplier sells it, or else in its largest pack and at its cost. */
export const lineOf = (found: Schemas['CatalogItemStock'], more?: Partial<Line>): Line => ({
  key: newKey(),
  item: found.item.id,
  sku: found.item.sku,
  description: found.item.description,
  text: '',
  pack: found.offer?.pack_id || (found.item.packs.at(-1)?.id ?? 0),
  quantity: '',
  price: found.offer?.price ?? found.item.cost,
  needed: '',
  why: '',
  ...more,
})

/** A line for what is no stock, such as freight. */
export const textLine = (): Line => ({
  key: newKey(),
  item: 0,
  sku: '',
  description: '',
  text: '',
  pack: 0,
  quantity: '1',
  price: seesMoney() ? '0' : '',
  needed: '',
  why: '',
})

/** The lines as the server is told them. */
export const sent = (lines: Line[]) =>
  lines.map((l) => ({
    id: l.id,
    item_id: l.item || undefined,
    text: l.text || undefined,
    pack_id: l.pack || undefined,
    quantity: l.quantity,
    price: l.price,
    needed_on: l.needed || undefined,
  }))

/** Whether a carrier has asked for the freight of an order, in place of what was agreed. */
export const freightInvoiced = (o: Schemas['PurchasingOrder']) =>
  o.invoices.some((b) => b.carrier && !b.counter && !b.taken_back)
