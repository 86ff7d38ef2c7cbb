import type { Schemas } from '@/api/client'

export type Source = Schemas['RecallTrace']['source']
type Goods = Schemas['RecallGoods']

/** A part of all that came in: where it is by now. */
export interface Part {
  name: 'here' | 'customers' | 'supplier' | 'scrapped' | 'lost'
  label: string
  quantity: number
}

const sum = (goods: Goods[], of: (g: Goods) => string) => goods.reduce((n, g) => n + Number(of(g)), 0)

/** What came in at all, and where it is by now: its parts add up to it, or the page says by how much not. */
export function partsOf(goods: Goods[]): { came: number; parts: Part[] } {
  const parts: Part[] = [
    { name: 'here', label: 'with us', quantity: sum(goods, (g) => g.stands) },
    { name: 'customers', label: 'with customers', quantity: sum(goods, (g) => g.with_customers) },
    { name: 'supplier', label: 'back at the supplier', quantity: sum(goods, (g) => g.sent_back) },
    { name: 'scrapped', label: 'scrapped', quantity: sum(goods, (g) => g.scrapped) },
    { name: 'lost', label: 'lost', quantity: sum(goods, (g) => g.lost) },
  ]
  return { came: sum(goods, (g) => g.came) + sum(goods, (g) => g.found), parts: parts.filter((p) => p.quantity !== 0) }
}

/** What goods are called: their lot, or their units. */
export const called = (g: { lot: string; serials: string | string[] }) =>
  g.lot || (Array.isArray(g.serials) ? g.serials.join(' ') : g.serials)

/** Where each thing that a recall may begin from is followed. */
export const tracePath = (source: Source, id: number) => `/audit/recall/${source}/${id}`
