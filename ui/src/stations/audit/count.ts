import { computed, ref, watch } from 'vue'
import type { Problem, Schemas } from '@/api/client'
import { byLots } from '@/parts/tracking'
import { stateWords } from '@/parts/words'

/** What is written down of one kind: how many, or the serials; or that its carton was seen closed. */
export type Found = Pick<Schemas['AuditCounted'], 'quantity' | 'serials' | 'closed'>
/** A kind of the entry, or a lot that it does not name. */
export type KindRow = Pick<Schemas['AuditKind'], 'lot_id' | 'lot' | 'carton_id' | 'carton' | 'condition'>

/** The kinds that are counted: those of the entry, and lots that were found besides. */
export const rowsOf = (e: Schemas['AuditEntry'] | undefined, lots: string[]): KindRow[] => [
  ...(e?.kinds ?? []).filter((k) => k.lot_id || k.carton_id || !lots.length || !(e && byLots(e))),
  ...lots.map((lot) => ({ lot_id: null, lot, carton_id: null, carton: '', condition: '' as const })),
]

/** What is sent of a count: of each kind what was found, as it was typed or scanned. */
export const countOf = (
  e: Schemas['AuditEntry'],
  rows: KindRow[],
  found: (kind: number) => Found,
): Schemas['AuditCount'] => ({
  location_id: e.location_id,
  item_id: e.item_id,
  since: e.since,
  kinds: rows.map((k, i) => ({
    lot_id: k.lot_id ?? undefined,
    lot: k.lot_id || !k.lot ? undefined : k.lot,
    carton_id: k.carton_id ?? undefined,
    condition: k.condition || undefined,
    ...found(i),
  })),
})

/** A kind in words. */
export const kindWords = (k: KindRow) =>
  [
    k.lot ? `lot ${k.lot}` : '',
    k.carton ? `on pallet or in carton …${k.carton.slice(-4)}` : '',
    k.condition === 'good' ? '' : stateWords(k.condition),
  ]
    .filter(Boolean)
    .join(', ')

/**
 * Goods may move while they are counted: whoever counts says whether that was before or after, for as long as the entry
 * is the same.
 */
export function useMoved(entry: () => Schemas['AuditEntry'] | undefined) {
  const before = ref(false)
  const since = ref<number>()
  watch(entry, () => {
    before.value = false
    since.value = undefined
  })
  const said = computed(() => ({
    ...(before.value ? { before: true } : {}),
    ...(since.value !== undefined ? { since: since.value } : {}),
  }))
  /** Whether a refusal asks for it: that of a count that was settled since asks for a new one. */
  const asks = (p?: Pick<Problem, 'code' | 'facts'>) => p?.code === 'moved_since' && p.facts.latest !== undefined
  return {
    said,
    asks,
    countedBefore: () => (before.value = true),
    countedAfter: (p: Pick<Problem, 'facts'>) => (since.value = Number(p.facts.latest)),
  }
}
