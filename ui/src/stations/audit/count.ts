import type { Schemas } from '@/api/client'

type Counted = Pick<Schemas['AuditCount']['kinds'][number], 'quantity' | 'serials'>

/** What is sent of a count: of each kind on its sheet what was found, as it was typed or scanned. */
export const countOf = (s: Schemas['AuditSheet'], found: (kind: number) => Counted): Schemas['AuditCount'] => ({
  location_id: s.location_id,
  item_id: s.item_id,
  since: s.since,
  kinds: s.kinds.map((k, i) => ({ lot_id: k.lot_id ?? undefined, carton_id: k.carton_id ?? undefined, ...found(i) })),
})
