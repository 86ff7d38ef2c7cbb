import type { operations } from '@/api/schema'

type Asked = NonNullable<operations['read-history']['parameters']['query']>
export type Kind = NonNullable<Asked['kind']>

/** What history is narrowed by, as it stands in its fields. */
export const fields = [
  'item',
  'lot',
  'bin',
  'document',
  'person',
  'kind',
  'note',
  'from',
  'from_time',
  'to',
  'to_time',
] as const
export type Field = (typeof fields)[number]
export type HistoryFilter = Partial<Record<Field, string>>

/** The kinds of postings, in the order in which goods meet them. */
const order: Record<Exclude<Kind, ''>, number> = {
  receive: 1,
  reverse_receipt: 2,
  inspect: 3,
  release: 4,
  put_away_load: 5,
  put_away: 6,
  put_away_return: 7,
  move: 8,
  refill_load: 22,
  refill: 23,
  refill_return: 24,
  pick: 9,
  stage: 10,
  pack: 11,
  unpack: 12,
  restock: 13,
  load: 14,
  unload: 15,
  ship: 16,
  reverse_shipment: 17,
  decide_return: 19,
  dispose: 20,
  count: 18,
  settle_difference: 21,
  hold: 25,
}
export const kinds = Object.keys(order) as Exclude<Kind, ''>[]

/** A day, with its minute where one is given. */
const moment = (day?: string, time?: string) => (day ? (time ? `${day}T${time}` : day) : undefined)

/** What the server is asked for. */
export const askedOf = (f: HistoryFilter) => ({
  item: f.item || undefined,
  lot: f.lot || undefined,
  bin: f.bin || undefined,
  document: f.document || undefined,
  person: f.person || undefined,
  kind: (f.kind || undefined) as Kind | undefined,
  note: f.note || undefined,
  from: moment(f.from, f.from_time),
  to: moment(f.to, f.to_time),
})

/** The same as the query of an address. */
export function queryOf(f: HistoryFilter): string {
  const q = new URLSearchParams()
  for (const [name, value] of Object.entries(askedOf(f))) if (value) q.set(name, value)
  return q.toString()
}
