import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import type { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import { usePreview } from '@/parts/preview'
import type { Chosen } from './OpenOrders.vue'

/** A stop that is proposed, with what is typed for it, told apart by a key of its own. */
export type Stop = Schemas['PickProposedStop'] & { key: number; text: string }
/** A stop as it is asked for. */
export const asked = (s: Schemas['PickProposedStop'], quantity: string): Schemas['PickStop'] => ({
  line_id: s.line_id,
  location_id: s.location_id,
  lot_id: s.lot_id ?? undefined,
  carton_id: s.carton_id ?? undefined,
  serial_ids: s.serial_ids.length ? s.serial_ids : undefined,
  quantity,
})

/** What a round is proposed for. */
interface Wish extends Chosen {
  /** The bin that is emptied first, or "". */
  first: string
  /** A dock that the round takes from, instead of bins, or 0. */
  dock: number
}
interface Typed {
  wish: Wish | null
  proposal: Schemas['PickProposed'] | null
  stops: Stop[]
}
const none = (): Typed => ({ wish: null, proposal: null, stops: [] })

/** A round as it is proposed, and then as it is changed by whoever plans it, until it is released or given up. */
export function useProposedRound(command: ReturnType<typeof useCommand>) {
  const { run } = command
  const begun = ref<Typed>(none())
  const draft = useDraft<Typed>(
    () => `round/${session.site}`,
    () => begun.value as Typed,
  )
  const mine = computed(() => draft.mine.value ?? none())
  const proposal = computed(() => mine.value.proposal ?? undefined)
  const stops = computed<Stop[]>({
    get: () => mine.value.stops,
    set: (list) => draft.mine.value && (draft.mine.value.stops = list),
  })
  let made = stops.value.reduce((most, s) => Math.max(most, s.key), 0)

  /** What is to be planned next, while a round that somebody changed is not released yet. */
  const next = ref<Wish>()
  function leave() {
    next.value = undefined
    begun.value = none()
    draft.discard()
  }
  async function propose(wish: Wish) {
    next.value = undefined
    const p = await run(() =>
      ask(
        api.POST('/api/v1/pick/plan', {
          body: {
            site_id: session.site,
            order_ids: wish.orders,
            without: wish.left.length ? wish.left : undefined,
            empty_first: wish.first || undefined,
            from_id: wish.dock || undefined,
          },
        }),
      ),
    )
    const stops = p?.stops.map((s) => ({ ...s, key: ++made, text: s.quantity })) ?? []
    begun.value = { wish, proposal: p ?? null, stops }
    draft.discard()
  }
  /** Changes a round of a wave, that goes back into it. */
  function take(p: Schemas['PickProposed']) {
    next.value = undefined
    const stops = p.stops.map((s) => ({ ...s, key: ++made, text: s.quantity }))
    begun.value = { wish: null, proposal: p, stops }
    draft.discard()
  }
  /** Plans orders that somebody came here with, unless what was typed for a round would be lost. */
  function open(wish: Wish) {
    const now = mine.value.wish
    if (!draft.changed.value) return void propose(wish)
    if (now?.dock !== wish.dock || now.orders.join() !== wish.orders.join()) next.value = wish
  }

  /** Takes a stop from another bin, or a part of it from there as well. */
  function useBin(i: number, h: Schemas['StockHolding'], split: boolean) {
    const s = stops.value[i]
    if (!s) return
    const to = {
      ...s,
      location_id: h.location_id,
      bin: h.location,
      lot_id: h.lot_id,
      lot: h.lot ?? '',
      carton_id: h.carton_id,
      carton: h.carton ?? '',
      serial_ids: [],
      serials: [],
      available: String(Number(h.quantity) - Number(h.reserved)),
      why: 'chosen by you',
    }
    if (split) stops.value.splice(i + 1, 0, { ...to, key: ++made, text: '1' })
    else stops.value[i] = to
  }

  const body = computed<Schemas['PickDraft'] | null>(() =>
    stops.value.length
      ? {
          site_id: session.site,
          stops: stops.value.map((s) => asked(s, s.text)),
        }
      : null,
  )
  const preview = usePreview('round', body, (b) => ask(api.POST('/api/v1/pick/preview', { body: b })))
  async function release() {
    const b = body.value
    if (!b) return undefined
    const r = await run(
      () => once((h) => ask(api.POST('/api/v1/rounds', { headers: h, body: b }))),
      (x) => `${x.number} is released.`,
    )
    if (r) leave()
    return r
  }
  return { draft, proposal, stops, next, propose, take, open, leave, useBin, preview, release }
}
