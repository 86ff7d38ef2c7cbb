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
import { money, plural } from '@/parts/words'

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
type Said = Record<string, { packs?: string; supplier?: number; left?: boolean }>
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
const packsOf = (s: Suggested) => of(s).packs ?? s.suggest.packs
const packOf = (s: Suggested) => s.item.packs.find((p) => p.id === s.pack_id)?.name ?? s.item.base_unit

const rows = computed(() => suggestions.data.value ?? [])
const ticked = computed<(string | number)[]>({
  get: () => rows.value.filter((s) => !of(s).left && supplierOf(s)).map((s) => s.item.id),
  set: (ids) => {
    for (const s of rows.value) if (ids.includes(s.item.id) === !!of(s).left) say(s, { left: !ids.includes(s.item.id) })
  },
})
const going = computed(() => rows.value.filter((s) => ticked.value.includes(s.item.id)))
const orders = computed(() => new Set(going.value.map(supplierOf)).size)
const options = computed(() => [
  { value: 0, label: 'nobody yet' },
  ...(suppliers.data.value ?? []).map((p) => ({ value: p.id, label: p.name })),
])

const command = useCommand()
const made = ref<Schemas['PurchasingOrder'][]>([])
async function order() {
  const lines = going.value.map((s) => ({
    item_id: s.item.id,
    supplier_id: supplierOf(s),
    pack_id: s.pack_id || undefined,
    quantity: packsOf(s),
  }))
  const list = await command.run(
    () => once((h) => ask(api.POST('/api/v1/suggestions/order', { headers: h, body: { site_id: site.value, lines } }))),
    (x) => `${plural(x.length, 'draft')} made.`,
  )
  if (!list) return
  made.value = list
  draft.discard()
  await queries.invalidateQueries({ queryKey: ['stock', 'suggestions'] })
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
  { name: 'price', label: 'Price', of: (s) => money(s.price), right: true, mono: true },
  { name: 'expected', label: 'Expected', of: (s) => s.expected_on, mono: true },
]
</script>

<template>
  <div class="page">
    <h1>Suggested orders</h1>
    <p class="mute">
      What is at its reorder point here. Drafts, requests and quotes count as asked for, so that nothing is ordered
      twice.
    </p>
    <DraftNotice :of="draft" :labels="() => 'what is to be ordered'" />
    <QueryView :query="suggestions" :empty="(list) => !list.length">
      <div v-if="buys" class="fields">
        <a-button type="primary" data-primary :disabled="!going.length || command.busy.value" @click="order">
          Make {{ plural(orders, 'draft') }} for {{ plural(going.length, 'item') }}
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
        :tickable="(s) => !!supplierOf(s)"
      >
        <template #item="{ row: s }">
          <router-link :to="`/stock/item/${s.item.id}`" class="mono">{{ s.item.sku }}</router-link>
          {{ s.item.description }}
          <div class="mute small">{{ s.suggest.calculation }}</div>
        </template>
        <template #supplier="{ row: s }">
          <ChoiceEntry
            :model-value="supplierOf(s)"
            :label="`Supplier of ${s.item.sku}`"
            :options="options"
            :width="196"
            @update:model-value="(id) => say(s, { supplier: id ?? 0 })"
          />
          <div v-if="s.offer?.code && supplierOf(s) === s.supplier_id" class="mute small">
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
          <div class="mute small">{{ packOf(s) }}</div>
        </template>
      </SheetTable>
      <template #empty>Nothing is at its reorder point here. Reorder points and targets stand in the catalog.</template>
    </QueryView>
    <CommandNotice :of="command" />
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
