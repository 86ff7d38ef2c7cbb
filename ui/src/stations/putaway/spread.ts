import { computed, type Ref, ref, watch } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import type { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import { usePreview } from '@/parts/preview'

type Waiting = Schemas['PutawayWaiting']
type Part = Schemas['PutawaySpreadPart']
interface Typed {
  quantity: string
  locations: Part[]
}

/** What goods on the dock are known by on this page. */
export const keyOf = (w: Waiting) => `${w.location_id}/${w.item_id}/${w.lot_id ?? ''}`

const thousandths = (n: number) => Math.round(n * 1000) / 1000
/** A quantity, or the whole where it is more. */
const lesser = (quantity: string, whole: number) => (Number(quantity) > whole ? String(whole) : quantity)

/** Where goods go that are chosen: the bins proposed, until somebody says otherwise, and then what was said. */
export function useSpread(goods: Ref<Waiting | undefined>, command: ReturnType<typeof useCommand>) {
  const { run } = command
  /** Of the whole of the goods; what is typed is held against it. */
  const first = ref<Typed>()
  const proposal = ref<Schemas['PutawayProposal']>()
  const key = computed(() => (goods.value ? keyOf(goods.value) : ''))
  const draft = useDraft<Typed>(
    () => `put-away/${key.value}`,
    () => (key.value ? first.value : { quantity: '', locations: [] }),
  )
  const part = <K extends keyof Typed>(name: K, none: Typed[K]) =>
    computed<Typed[K]>({
      get: () => draft.mine.value?.[name] ?? none,
      set: (v) => draft.mine.value && (draft.mine.value[name] = v),
    })
  const [quantity, locations] = [part('quantity', ''), part('locations', [])]

  async function bins(g: Waiting, amount: string): Promise<Part[] | undefined> {
    const p = await run(() =>
      ask(
        api.POST('/api/v1/put-away/propose', {
          body: {
            location_id: g.location_id,
            item_id: g.item_id,
            lot_id: g.lot_id ?? undefined,
            quantity: amount,
          },
        }),
      ),
    )
    // Another was chosen meanwhile: its own proposal is on its way.
    if (!p || key.value !== keyOf(g)) return undefined
    proposal.value = p
    return p.locations.map((o) => ({
      bin: o.bin,
      quantity: o.quantity,
      serials: o.serials.length ? o.serials : undefined,
    }))
  }
  watch(
    key,
    async () => {
      first.value = proposal.value = undefined
      const g = goods.value
      if (!g) return
      const found = await bins(g, g.quantity)
      if (key.value === keyOf(g)) first.value = { quantity: g.quantity, locations: found ?? [] }
    },
    { immediate: true },
  )
  /** Asks anew for the quantity that is typed. */
  async function propose() {
    fit()
    const found = goods.value && (await bins(goods.value, quantity.value))
    if (found) locations.value = found
  }

  /** What is placed is never more than there is: what one bin has more, the others have less, the last first. */
  function fit(kept?: Part) {
    const whole = Number(quantity.value)
    if (!(whole > 0)) return
    if (kept) kept.quantity = lesser(kept.quantity, whole)
    let over = thousandths(placed.value - whole)
    for (const p of [...locations.value].reverse()) {
      if (over <= 0 || p === kept) continue
      const less = Math.min(over, Number(p.quantity) || 0)
      over = thousandths(over - less)
      if (less > 0) p.quantity = String(thousandths(Number(p.quantity) - less))
      p.serials = p.serials?.slice(0, Number(p.quantity))
    }
    locations.value = locations.value.filter((p) => p === kept || Number(p.quantity) !== 0)
  }

  const placed = computed(() => locations.value.reduce((sum, p) => sum + (Number(p.quantity) || 0), 0))
  function addBin(code: string) {
    const bin = code.trim().toUpperCase()
    if (!bin || locations.value.some((p) => p.bin.toUpperCase() === bin)) return
    const left = thousandths(Number(quantity.value) - placed.value)
    const last = locations.value.at(-1)
    // Where all of it has a bin, the one that is named takes the place of the last.
    if (left > 0 || !last) locations.value.push({ bin, quantity: String(Math.max(0, left)) })
    else locations.value.splice(-1, 1, { ...last, bin })
  }
  /** Everything into one bin that was named instead. */
  function onlyBin(bin: string) {
    const all = locations.value.flatMap((p) => p.serials ?? [])
    locations.value = [{ bin, quantity: quantity.value, serials: all.length ? all : undefined }]
  }
  /** The units that go to a bin, as they are typed: parted by spaces. */
  function nameUnits(p: Part, text: string) {
    const codes = text.split(/[\s,]+/).filter(Boolean)
    p.serials = codes.length ? codes : undefined
    if (codes.length) p.quantity = String(codes.length)
    fit(p)
  }

  const body = computed<Schemas['PutawaySpread'] | null>(() =>
    goods.value && locations.value.length
      ? {
          location_id: goods.value.location_id,
          item_id: goods.value.item_id,
          lot_id: goods.value.lot_id ?? undefined,
          quantity: quantity.value,
          locations: locations.value,
        }
      : null,
  )
  const preview = usePreview('put away', body, (b) => ask(api.POST('/api/v1/put-away/preview', { body: b })))

  /** Puts the goods away; what was typed for them is nobody's any more. */
  async function putAway() {
    const b = body.value
    if (!b) return undefined
    const p = await run(
      () => once((h) => ask(api.POST('/api/v1/put-away', { headers: h, body: b }))),
      (x) => `Put away: ${x.moves.map((m) => `${m.quantity} in ${m.to}`).join(', ')}.`,
    )
    if (p) draft.discard()
    return p
  }
  return { draft, quantity, locations, proposal, placed, preview, propose, fit, addBin, onlyBin, nameUnits, putAway }
}
