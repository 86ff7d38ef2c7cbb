import { useQuery } from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import type { Found } from '@/parts/found'
import { usePreview } from '@/parts/preview'
import { byLots, byUnits } from '@/parts/tracking'

export interface LotEntry {
  code: string
  /** What its supplier calls it, where the code is one of the house's own. */
  supplier?: string
  expires_on: string
  quantity: string
}

/** What is entered for a line of an arrival: a quantity in some pack, its lots, or its units. */
export interface Entry {
  quantity: string
  pack: number
  reason: string
  lots: LotEntry[]
  serials: string[]
  /** The rest comes later, though the line is short within its allowance. */
  follows: boolean
  /** In what condition it came, where a customer sent it back. */
  found?: Found | ''
  /** The bin it goes straight into, where it does; its home bin while nothing is typed. */
  bin?: string
}

/** What is entered on an arrival, and what all of it stands on. */
interface Typed {
  entries: Record<string, Entry>
  pallet: { kind: '' | 'carton' | 'pallet'; sscc: string }
  /** Into bins at once, instead of stopping at the dock. */
  straight?: boolean
  /** The carton in transit that all of it is taken out of. */
  off?: string
}

const blank = (l: Schemas['InboundLine']): Entry => ({
  quantity: '',
  pack: 0,
  reason: '',
  lots: byLots(l) ? [{ code: '', expires_on: '', quantity: '' }] : [],
  serials: [],
  follows: false,
})
const unfilled = (a: Schemas['ReceiveArrival']): Typed => ({
  entries: Object.fromEntries(a.lines.map((l) => [l.id, blank(l)])),
  pallet: { kind: '', sscc: '' },
})
const add = (a: string, b: string) => String(Number(a || 0) + Number(b))

/** An arrival while it is checked off: what is entered, what it will do, and the step that does it. */
export function useArrival(id: Ref<number>, active: Ref<boolean>) {
  const query = useQuery({
    queryKey: ['receive', 'arrival', id],
    queryFn: () => ask(api.GET('/api/v1/arrivals/{id}', { params: { path: { id: id.value } } })),
    enabled: active,
  })
  const arrival = computed(() => (active.value ? query.data.value : undefined))
  const draft = useDraft<Typed>(
    () => `arrival/${id.value}`,
    () => (arrival.value?.id === id.value ? unfilled(arrival.value) : undefined),
  )
  const entries = computed(() => draft.mine.value?.entries ?? {})
  /** What all that is entered stands on. */
  const pallet = computed(() => draft.mine.value?.pallet ?? { kind: '' as const, sscc: '' })
  /** Whether what is entered goes straight into bins. */
  const straight = computed<boolean>({
    get: () => draft.mine.value?.straight ?? false,
    set: (s) => draft.mine.value && (draft.mine.value.straight = s),
  })
  /** Cartons that another site of ours shipped, and what is in each. */
  const coming = useQuery({
    queryKey: ['receive', 'coming', id],
    queryFn: () => ask(api.GET('/api/v1/arrivals/{id}/coming', { params: { path: { id: id.value } } })),
    enabled: computed(() => !!arrival.value?.from_site_id && arrival.value.state === 'open'),
  })
  /** The carton in transit that all that is entered is taken out of. */
  const off = computed(() => draft.mine.value?.off ?? '')
  /** What is wrong with the last scan of a line's goods. */
  const said = ref<{ line: number; text: string }>()
  const openLines = computed(() => (arrival.value?.lines ?? []).filter((l) => l.item_id && !l.closed))
  const body = computed<Schemas['ReceiveNewReceipt'] | null>(() => {
    const a = arrival.value
    if (!a || a.state !== 'open') return null
    const lines = openLines.value
      .map((l) => ({ line: l, e: entries.value[l.id] }))
      .filter((x) => x.e?.quantity)
      .map(({ line, e }) => ({
        line_id: line.id,
        quantity: e!.quantity,
        pack_id: e!.pack || undefined,
        reason: e!.reason || undefined,
        bin: (straight.value && e!.bin) || undefined,
        follows: (left(line) > 0 && e!.follows) || undefined,
        serials: e!.serials.length ? e!.serials : undefined,
        found: e!.found || undefined,
        lots: e!.lots
          .filter((x) => x.code || x.expires_on || x.quantity)
          .map((x) => ({
            code: x.code,
            supplier_lot: x.supplier?.trim() || undefined,
            expires_on: x.expires_on || undefined,
            quantity: x.quantity || e!.quantity,
          })),
      }))
    if (!lines.length) return null
    const { kind, sscc } = pallet.value
    const carton = kind ? { kind, sscc: sscc || undefined } : undefined
    return { version: a.version, carton, straight: straight.value || undefined, off: off.value || undefined, lines }
  })
  const preview = usePreview('receive', body, (b) =>
    ask(api.POST('/api/v1/arrivals/{id}/receive/preview', { params: { path: { id: id.value } }, body: b })),
  )
  const command = useCommand()

  async function receive() {
    const b = body.value
    if (!b) return
    const received = await command.run(
      () =>
        once((h) =>
          ask(api.POST('/api/v1/arrivals/{id}/receive', { headers: h, params: { path: { id: id.value } }, body: b })),
        ),
      (x) => (b.straight ? `Received on ${x.number}, into bins.` : `Received on ${x.number}, at ${x.dock}.`),
    )
    if (!received) return
    draft.discard()
    await Promise.all([query.refetch(), coming.refetch()])
  }

  /** Fills in what is in a carton in transit, to be received as it is. False when none of that number comes. */
  function takeCarton(sscc: string): boolean {
    const carton = coming.data.value?.find((c) => c.sscc === sscc)
    if (!carton || !draft.mine.value) return false
    said.value = undefined
    if (openLines.value.some((l) => entries.value[l.id]?.quantity)) {
      const words = off.value ? `what is off …${off.value.slice(-4)}` : 'what is entered'
      said.value = { line: 0, text: `Receive ${words} first, then scan …${sscc.slice(-4)}.` }
      return true
    }
    for (const g of carton.goods) {
      const line = openLines.value.find((l) => l.item_id === g.item_id && left(l) > 0)
      if (!line) continue
      const e = entries.value[line.id]!
      e.quantity = add(e.quantity, g.quantity)
      e.serials.push(...(byUnits(line) ? g.serials : []))
      if (byLots(line))
        e.lots = [...e.lots.filter((x) => x.code), { code: g.lot, expires_on: g.expires_on, quantity: g.quantity }]
    }
    draft.mine.value.off = sscc
    return true
  }

  /** What was filled in of a carton in transit is taken out again. */
  function leaveCarton() {
    draft.discard()
    said.value = undefined
  }

  /** Takes a unit's serial down; a second scan of the same unit is said and changes nothing. */
  function addSerial(line: Schemas['InboundLine'], code: string) {
    const e = entries.value[line.id]!
    said.value = e.serials.includes(code)
      ? { line: line.id, text: `Serial ${code} is scanned already. Scan the next unit.` }
      : undefined
    if (said.value || !code) return
    e.serials.push(code)
    e.pack = 0
    e.quantity = String(e.serials.length)
  }

  function dropSerial(line: Schemas['InboundLine'], code: string) {
    const e = entries.value[line.id]!
    e.serials = e.serials.filter((s) => s !== code)
    e.quantity = e.serials.length ? String(e.serials.length) : ''
  }

  /** What a scan of goods fills in; false when it is for no open line. */
  function take(reading: Schemas['ResolvingReading'] | null): boolean {
    const carton = reading?.elements.find((x) => x.ai === '00')
    if (carton && takeCarton(carton.value)) return true
    if (carton && arrival.value?.state === 'open') {
      Object.assign(pallet.value, { kind: pallet.value.kind || 'pallet', sscc: carton.value })
      return true
    }
    const g = reading?.goods
    const lines = g ? openLines.value.filter((l) => l.item_id === g.item.id) : []
    const line = lines.find((l) => left(l) > 0) ?? lines[0]
    if (!g || !line) return false
    said.value = undefined
    if (byUnits(line)) {
      if (g.serial) addSerial(line, g.serial)
      else said.value = { line: line.id, text: `${line.sku} is known unit by unit: scan the serial on each.` }
      return true
    }
    let here = Number(g.quantity)
    for (const [i, l] of lines.entries()) {
      // The last line takes what is over: the server says whether it may.
      const part = i === lines.length - 1 ? here : Math.min(here, Math.max(0, left(l)))
      if (part > 0) fill(l, String(part), g)
      here -= part
    }
    return true
  }

  /** What of a line has not come and is not entered yet. */
  function left(l: Schemas['InboundLine']): number {
    return Number(l.quantity) - Number(l.received) - Number(inUnits(l, entries.value[l.id]?.quantity ?? ''))
  }

  /** What is entered of a line in its pack, in base units. */
  function inUnits(l: Schemas['InboundLine'], quantity: string): string {
    const holds = l.packs.find((p) => p.id === entries.value[l.id]?.pack)?.holds ?? '1'
    return quantity && String(Number(quantity) * Number(holds))
  }

  /** Adds goods that were scanned to what is entered of a line, and of their lot. */
  function fill(line: Schemas['InboundLine'], quantity: string, g: Schemas['ResolvingGoods']) {
    const e = entries.value[line.id]!
    for (const at of [e, ...e.lots]) at.quantity = inUnits(line, at.quantity)
    e.pack = 0
    e.quantity = add(e.quantity, quantity)
    if (!byLots(line)) return
    let lot = e.lots.find((x) => x.code === g.lot) ?? e.lots.find((x) => !x.code)
    if (!lot) e.lots.push((lot = { code: '', expires_on: '', quantity: '' }))
    lot.code = g.lot
    lot.expires_on = g.expires || lot.expires_on
    lot.quantity = add(lot.quantity, quantity)
  }

  return {
    query,
    arrival,
    left,
    draft,
    entries,
    pallet,
    straight,
    said,
    coming,
    off,
    takeCarton,
    leaveCarton,
    openLines,
    body,
    preview,
    command,
    receive,
    addSerial,
    dropSerial,
    take,
  }
}
