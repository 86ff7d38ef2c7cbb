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
import { money, stateWords } from '@/parts/words'

/** Sales orders as a table: narrowed, with the columns one wants, saved under a name. */
const route = useRoute()
const router = useRouter()
type Order = Schemas['OrdersOrder']
const columns: Column<Order>[] = [
  { name: 'customer', label: 'Customer', of: (o) => o.customer },
  { name: 'wanted', label: 'Wanted', of: (o) => o.wanted_on, mono: true },
  { name: 'state', label: 'State', of: (o) => (o.late ? `${stateWords(o.state)}, late` : stateWords(o.state)) },
  { name: 'carrier', label: 'Carrier', of: (o) => o.carrier },
  { name: 'reference', label: "Customer's reference", of: (o) => o.reference },
  { name: 'units', label: 'Units', of: (o) => o.quantity, right: true, mono: true },
  { name: 'reserved', label: 'Reserved', of: (o) => o.reserved, right: true, mono: true },
  { name: 'cartons', label: 'In cartons', of: (o) => o.picked, right: true, mono: true },
  { name: 'shipped', label: 'Shipped', of: (o) => o.shipped, right: true, mono: true },
  { name: 'value', label: 'Value', of: (o) => money(o.value), right: true, mono: true },
  { name: 'blockers', label: 'Blocked by', of: (o) => o.blockers },
]
const usual = ['customer', 'wanted', 'state', 'carrier', 'units', 'cartons', 'shipped', 'blockers']
const states = {
  open: 'open',
  blocked: 'late or blocked',
  quote: 'quotes',
  on_hold: 'on hold',
  released: 'released',
  shipped: 'shipped',
  cancelled: 'cancelled',
  '': 'all',
}
const asked = computed(() => ({
  state: (route.query.state as keyof typeof states) ?? 'open',
  carrier: (route.query.carrier as string) || '',
  from: (route.query.from as string) || '',
  until: (route.query.until as string) || '',
  text: (route.query.q as string) || '',
  columns: route.query.columns === undefined ? usual : String(route.query.columns).split(',').filter(Boolean),
}))
function narrow(change: Record<string, string | undefined>) {
  void router.replace({ query: { ...route.query, ...change } })
}
const text = ref(asked.value.text)
const rested = refDebounced(text, 250)
const params = computed(() => ({
  site: session.site,
  state: (asked.value.state === 'blocked' ? 'open' : asked.value.state) as 'open',
  blocked: asked.value.state === 'blocked' || undefined,
  carrier: asked.value.carrier || undefined,
  from: asked.value.from || undefined,
  until: asked.value.until || undefined,
  text: rested.value || undefined,
}))
const orders = useInfiniteQuery({
  queryKey: ['orders', 'table', params],
  queryFn: ({ pageParam }) =>
    ask(api.GET('/api/v1/sales-orders/list', { params: { query: { ...params.value, after: pageParam, limit: 100 } } })),
  initialPageParam: '',
  getNextPageParam: (page) => page.next || undefined,
  retry: false,
})
const listed = computed(() => orders.data.value?.pages.flatMap((p) => p.orders) ?? [])
const file = (format: string) => {
  const q = new URLSearchParams({ format })
  for (const [k, v] of Object.entries(params.value)) if (v !== undefined && v !== '') q.set(k, String(v))
  return `/api/v1/sales-orders/export?${q}`
}
const saved = useSaved(
  'sales-orders',
  () => ({
    state: asked.value.state,
    carrier: asked.value.carrier,
    from: asked.value.from,
    until: asked.value.until,
    q: text.value,
    columns: asked.value.columns.join(','),
  }),
  (settings) => {
    text.value = settings.q ?? ''
    narrow(settings)
  },
)
const typed = (field: string) => (e: Event) => narrow({ [field]: (e.target as HTMLInputElement).value || undefined })
</script>

<template>
  <div class="page">
    <h1>Sales orders</h1>
    <div class="fields">
      <label class="field"
        >List<select :value="asked.state" aria-label="Which list" @change="typed('state')($event)">
          <option v-for="(words, key) in states" :key="key" :value="key">{{ words }}</option>
        </select></label
      >
      <label class="field">Number, customer or reference<input v-model="text" size="18" /></label>
      <label class="field">Carrier<input :value="asked.carrier" size="14" @change="typed('carrier')($event)" /></label>
      <label class="field"
        >Wanted from<input :value="asked.from" class="mono" size="11" @change="typed('from')($event)"
      /></label>
      <label class="field"
        >until<input :value="asked.until" class="mono" size="11" @change="typed('until')($event)"
      /></label>
      <ColumnMenu :columns="columns" :chosen="asked.columns" @choose="(c) => narrow({ columns: c })" />
      <a class="btn" :href="file('xlsx')" download>XLSX</a>
      <a class="btn" :href="file('csv')" download>CSV</a>
    </div>
    <SavedViews :saved="saved" />
    <div v-if="orders.error.value" class="note s" role="alert">{{ orders.error.value.message }}</div>
    <ChosenTable
      :columns="columns"
      :chosen="asked.columns"
      :rows="listed"
      :to="(o) => `/orders/${o.id}`"
      :late="(o, c) => (o.late && c === 'state') || c === 'blocked'"
      label="The orders of the list"
    />
    <div v-if="orders.isSuccess.value && !listed.length" class="empty">No order is on this list.</div>
    <button v-if="orders.hasNextPage.value" class="btn" @click="orders.fetchNextPage()">Show more</button>
  </div>
</template>
