<script setup lang="ts">
import { useInfiniteQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import ChosenTable, { type Column } from '@/parts/ChosenTable.vue'
import ColumnMenu from '@/parts/ColumnMenu.vue'
import SavedViews from '@/parts/SavedViews.vue'
import { useSaved } from '@/parts/saved'
import PartyFinder from '@/parts/PartyFinder.vue'
import { money, stateWords } from '@/parts/words'
import { type List, lists } from './lists'

/** Purchase orders as a table: any list, narrowed, with the columns one wants, and saved under a name. */
const route = useRoute()
const router = useRouter()
type Order = Schemas['PurchasingOrder']
const columns: Column<Order>[] = [
  { name: 'supplier', label: 'Supplier', of: (o) => o.supplier },
  { name: 'expected', label: 'Expected', of: (o) => o.expected_on, mono: true },
  { name: 'state', label: 'State', of: (o) => (o.late ? `${stateWords(o.state)}, late` : stateWords(o.state)) },
  { name: 'lines', label: 'Lines', of: (o) => String(o.line_count), right: true, mono: true },
  { name: 'value', label: 'Value', of: (o) => money(o.value), right: true, mono: true },
  { name: 'freight', label: 'Freight', of: (o) => money(o.freight), right: true, mono: true },
  { name: 'carrier', label: 'Carrier', of: (o) => o.carrier },
  { name: 'terms', label: 'Terms', of: (o) => o.terms },
  { name: 'began', label: 'Began as', of: (o) => (o.quote ? `quote ${o.quote}` : o.began_as) },
  { name: 'approved', label: 'Approved by', of: (o) => o.approved_by },
  { name: 'note', label: 'Note', of: (o) => o.note },
]
const usual = ['supplier', 'expected', 'state', 'lines', 'value', 'note']

/** What is asked for stands in the address, so that a list can be linked to. */
const asked = computed(() => ({
  list: (route.query.list as List) || 'open',
  supplier: Number(route.query.supplier) || 0,
  supplierName: (route.query.name as string) || '',
  text: (route.query.q as string) || '',
  columns: route.query.columns === undefined ? usual : String(route.query.columns).split(',').filter(Boolean),
}))
function narrow(change: Record<string, string | undefined>) {
  void router.replace({ query: { ...route.query, ...change } })
}
const text = ref(asked.value.text)
const rested = refDebounced(text, 250)
const site = computed(() => session.site)
const params = computed(() => ({
  site: site.value,
  list: asked.value.list,
  supplier: asked.value.supplier || undefined,
  q: rested.value || undefined,
}))
const orders = useInfiniteQuery({
  queryKey: ['receive', 'orders', 'table', params],
  queryFn: ({ pageParam }) =>
    ask(api.GET('/api/v1/purchase-orders', { params: { query: { ...params.value, after: pageParam, limit: 100 } } })),
  initialPageParam: '',
  getNextPageParam: (page) => page.next || undefined,
})
const listed = computed(() => orders.data.value?.pages.flatMap((p) => p.orders) ?? [])
const file = (format: string) => {
  const q = new URLSearchParams({ site: String(site.value), list: asked.value.list, format })
  if (asked.value.supplier) q.set('supplier', String(asked.value.supplier))
  if (rested.value) q.set('q', rested.value)
  return `/api/v1/purchase-orders/export?${q}`
}
const saved = useSaved(
  'purchase-orders',
  () => ({
    list: asked.value.list,
    supplier: asked.value.supplier ? String(asked.value.supplier) : '',
    name: asked.value.supplierName,
    q: text.value,
    columns: asked.value.columns.join(','),
  }),
  (settings) => {
    text.value = settings.q ?? ''
    narrow(settings)
  },
)
</script>

<template>
  <div class="page">
    <h1>Purchase orders</h1>
    <div class="fields">
      <label class="field"
        >List<select
          :value="asked.list"
          aria-label="Which list"
          @change="narrow({ list: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="(words, key) in lists" :key="key" :value="key">{{ words }}</option>
        </select></label
      >
      <label v-if="!asked.supplier" class="field"
        >Supplier<PartyFinder
          :model-value="undefined"
          kind="supplier"
          label="Supplier"
          @update:model-value="(p) => narrow({ supplier: p ? String(p.id) : undefined, name: p?.name })"
      /></label>
      <span v-else class="field"
        >Supplier<button class="btn" @click="narrow({ supplier: undefined, name: undefined })">
          {{ asked.supplierName }} ×
        </button></span
      >
      <label class="field"
        >Number or SKU<input v-model="text" class="mono" size="14" aria-label="Number or SKU"
      /></label>
      <ColumnMenu :columns="columns" :chosen="asked.columns" @choose="(c) => narrow({ columns: c })" />
      <a class="btn" :href="file('xlsx')" download>XLSX</a>
      <a class="btn" :href="file('csv')" download>CSV</a>
    </div>
    <SavedViews :saved="saved" />
    <ChosenTable
      :columns="columns"
      :chosen="asked.columns"
      :rows="listed"
      :to="(o) => `/receive/order/${o.id}`"
      :late="(o, c) => o.late && c === 'state'"
      label="The orders of the list"
    />
    <div v-if="orders.isSuccess.value && !listed.length" class="empty">No order is on this list.</div>
    <button v-if="orders.hasNextPage.value" class="btn" @click="orders.fetchNextPage()">Show more</button>
  </div>
</template>
