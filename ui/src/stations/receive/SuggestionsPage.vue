<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import CommandNotice from '@/parts/CommandNotice.vue'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import QueryView from '@/parts/QueryView.vue'
import SheetTable from '@/parts/SheetTable.vue'
import { money, plural, today } from '@/parts/words'

/** What is at its reorder point, of all suppliers, to be ordered of each in one step. */
type Suggested = Schemas['PurchasingSuggested']
const queries = useQueryClient()
const site = computed(() => session.site)
const suggestions = useQuery({
  queryKey: ['stock', 'suggestions', site, 0],
  queryFn: () => ask(api.GET('/api/v1/suggestions', { params: { query: { site: site.value } } })),
})
const suppliers = useQuery({
  queryKey: ['parties', 'supplier'],
  queryFn: () => ask(api.GET('/api/v1/parties', { params: { query: { kind: 'supplier' } } })),
})
const buys = computed(() => can('order-suggested'))

/** What is said of an item otherwise than it is suggested: how many packs, of whom, or not at all. */
type Said = Record<string, { packs?: string; supplier?: number; site?: number; left?: boolean }>
const draft = useDraft<Said>(
  () => `suggestions/${session.site}`,
  () => ({}),
)
const said = computed(() => draft.mine.value ?? {})
const of = (s: Suggested) => said.value[s.item.id] ?? {}
const say = (s: Suggested, change: Said[string]) => {
  if (draft.mine.value) draft.mine.value[s.item.id] = { ...of(s), ...change }
}
const supplierOf = (s: Suggested) => of(s).supplier ?? s.supplier_id
const packsOf = (s: Suggested): string => of(s).packs ?? (siteOf(s) ? base(s) : s.suggest.packs)
/** The other site of ours that it comes from, where it is not bought. */
const siteOf = (s: Suggested) => s.elsewhere.find((e) => e.site_id === of(s).site)
const base = (s: Suggested) => String(Math.min(Number(s.suggest.quantity), Number(siteOf(s)?.spare ?? 0)))
const packOf = (s: Suggested) => s.item.packs.find((p) => p.id === s.pack_id)?.name ?? s.item.base_unit

const rows = computed(() => suggestions.data.value ?? [])
const ticked = computed<(string | number)[]>({
  get: () => rows.value.filter((s) => !of(s).left && (supplierOf(s) || siteOf(s))).map((s) => s.item.id),
  set: (ids) => {
    for (const s of rows.value) if (ids.includes(s.item.id) === !!of(s).left) say(s, { left: !ids.includes(s.item.id) })
  },
})
const going = computed(() => rows.value.filter((s) => ticked.value.includes(s.item.id)))
const bought = computed(() => going.value.filter((s) => !siteOf(s)))
const moved = computed(() => going.value.filter((s) => siteOf(s)))
const orders = computed(() => new Set(bought.value.map(supplierOf)).size)
const from = computed(() => [...new Set(moved.value.map((s) => siteOf(s)!.site_id))])
const does = computed(() =>
  [
    bought.value.length ? `${plural(orders.value, 'draft')} for ${plural(bought.value.length, 'item')}` : '',
    moved.value.length ? `${plural(from.value.length, 'transfer')} of ${plural(moved.value.length, 'item')}` : '',
  ]
    .filter(Boolean)
    .join(' and '),
)
/** Suppliers, and before them other sites that have some to spare, by their id below nought. */
const options = (s: Suggested) => [
  ...s.elsewhere.map((e) => ({
    value: -e.site_id,
    label: `${e.site} has ${e.spare} to spare, here on ${e.arrives_on}${e.in_time ? '' : ', later than bought'}`,
  })),
  { value: 0, label: 'nobody yet' },
  ...(suppliers.data.value ?? []).map((p) => ({ value: p.id, label: p.name })),
]
const chooseSource = (s: Suggested, id: number) =>
  say(s, id < 0 ? { site: -id, packs: undefined } : { site: undefined, supplier: id, packs: undefined })

const command = useCommand()
const made = ref<Schemas['PurchasingOrder'][]>([])
const transferred = ref<Schemas['TransfersOrder'][]>([])
/** A transfer from each site that something comes from, on hold, to be looked over. */
async function transfer(site: number) {
  const of = moved.value.filter((s) => siteOf(s)!.site_id === site)
  const arrives = of.map((s) => siteOf(s)!.arrives_on).sort()
  const body = {
    from_site_id: site,
    to_site_id: session.site,
    wanted_on: today(),
    expected_on: arrives.at(-1)!,
    reason: 'instead of buying',
    lines: of.map((s) => ({ item_id: s.item.id, quantity: packsOf(s) })),
  }
  const made = await command.run(
    () => once((h) => ask(api.POST('/api/v1/transfer-orders', { headers: h, body }))),
    (t) => `${t.number} is written, on hold.`,
  )
  if (!made) return false
  transferred.value.push(made)
  for (const s of of) say(s, { left: true })
  return true
}
async function order() {
  made.value = []
  transferred.value = []
  for (const site of from.value) if (!(await transfer(site))) return
  if (bought.value.length && !(await buy())) return
  draft.discard()
  await queries.invalidateQueries({ queryKey: ['stock', 'suggestions'] })
}
async function buy() {
  const lines = bought.value.map((s) => ({
    item_id: s.item.id,
    supplier_id: supplierOf(s),
    pack_id: s.pack_id || undefined,
    quantity: packsOf(s),
  }))
  const list = await command.run(
    () => once((h) => ask(api.POST('/api/v1/suggestions/order', { headers: h, body: { site_id: site.value, lines } }))),
    (x) => `${plural(x.length, 'draft')} made.`,
  )
  if (list) made.value = list
  return !!list
}
const columns: Column<Suggested>[] = [
  { name: 'item', label: 'Item' },
  { name: 'supplier', label: 'Supplier', width: 210 },
  { name: 'free', label: 'Free', of: (s) => s.figures.free, right: true, mono: true },
  { name: 'onOrder', label: 'On order', of: (s) => s.figures.on_order, right: true, mono: true },
  { name: 'asked', label: 'Asked for', of: (s) => (Number(s.asked) ? s.asked : ''), right: true, mono: true },
  { name: 'point', label: 'Reorder point', of: (s) => s.levels.reorder_point, right: true, mono: true },
  { name: 'target', label: 'Target', of: (s) => s.levels.target, right: true, mono: true },
  { name: 'packs', label: 'Order', right: true, width: 180 },
  { name: 'price', money: true, label: 'Price', of: (s) => (siteOf(s) ? '' : money(s.price)), right: true, mono: true },
  { name: 'expected', label: 'Expected', of: (s) => siteOf(s)?.arrives_on ?? s.expected_on, mono: true },
]
</script>

<template>
  <div class="page">
    <h1>Suggested orders</h1>
    <p class="mute">
      What is at its reorder point here. Drafts, requests and quotes count as asked for, so that nothing is ordered
      twice. What another site has beyond its own target can come from there instead.
    </p>
    <DraftNotice :of="draft" :labels="() => 'what is to be ordered'" />
    <QueryView :query="suggestions" :empty="(list) => !list.length">
      <div v-if="buys" class="fields">
        <a-button type="primary" data-primary :disabled="!going.length || command.busy.value" @click="order">
          Make {{ does || 'nothing' }}
        </a-button>
      </div>
      <SheetTable
        v-model:ticked="ticked"
        data-suggestions
        label="Items at their reorder point"
        :columns="columns"
        :rows="rows"
        :row-key="(s) => s.item.id"
        :tick-label="buys ? (s) => `Order ${s.item.sku}` : undefined"
        :tickable="(s) => !!(supplierOf(s) || siteOf(s))"
      >
        <template #item="{ row: s }">
          <router-link :to="`/stock/item/${s.item.id}`" class="mono">{{ s.item.sku }}</router-link>
          {{ s.item.description }}
          <div class="mute small">{{ s.suggest.calculation }}</div>
        </template>
        <template #supplier="{ row: s }">
          <ChoiceEntry
            :model-value="siteOf(s) ? -siteOf(s)!.site_id : supplierOf(s)"
            :label="`Supplier of ${s.item.sku}`"
            :options="options(s)"
            :width="196"
            @update:model-value="(id) => chooseSource(s, id ?? 0)"
          />
          <div v-if="s.elsewhere.length && !siteOf(s)" class="small" data-elsewhere>
            {{ s.elsewhere.map((e) => `${e.site} has ${e.spare} to spare`).join(', ') }}
          </div>
          <div v-if="!siteOf(s) && s.offer?.code && supplierOf(s) === s.supplier_id" class="mute small">
            its no. <span class="mono">{{ s.offer.code }}</span>
          </div>
        </template>
        <template #packs="{ row: s }">
          <QuantityEntry
            :model-value="packsOf(s)"
            :label="`Packs of ${s.item.sku}`"
            :width="72"
            @update:model-value="(q) => say(s, { packs: q ?? '' })"
          />
          <div class="mute small">{{ siteOf(s) ? s.item.base_unit : packOf(s) }}</div>
        </template>
      </SheetTable>
      <template #empty>Nothing is at its reorder point here. Reorder points and targets stand in the catalog.</template>
    </QueryView>
    <CommandNotice :of="command" />
    <p v-if="transferred.length">
      Look over and release
      <router-link v-for="t in transferred" :key="t.id" :to="`/transfers/${t.id}`" class="made"
        ><span class="mono">{{ t.number }}</span> from {{ t.from }}</router-link
      >
    </p>
    <p v-if="made.length">
      Look over and send
      <router-link v-for="o in made" :key="o.id" :to="`/receive/order/${o.id}`" class="made"
        ><span class="mono">{{ o.number }}</span> {{ o.supplier }}</router-link
      >
    </p>
  </div>
</template>

<style scoped>
.made {
  margin-right: 12px;
}
</style>
