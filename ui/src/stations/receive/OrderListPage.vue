<script setup lang="ts">
import { useInfiniteQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import KeptViews from '@/parts/KeptViews.vue'
import { useKept } from '@/parts/kept'
import PartyFinder from '@/parts/PartyFinder.vue'
import { money } from '@/parts/words'
import { type List, lists } from './lists'

/** Purchase orders as a table: any list, narrowed, with the columns one wants, and kept under a name. */
const route = useRoute()
const router = useRouter()
type Order = Schemas['ReceiveOrder']
const columns: { name: string; label: string; of: (o: Order) => string; right?: boolean; mono?: boolean }[] = [
  { name: 'supplier', label: 'Supplier', of: (o) => o.supplier },
  { name: 'expected', label: 'Expected', of: (o) => o.expected_on, mono: true },
  { name: 'state', label: 'State', of: (o) => (o.late ? `${o.state}, late` : o.state) },
  { name: 'lines', label: 'Lines', of: (o) => String(o.line_count), right: true, mono: true },
  { name: 'value', label: 'Value', of: (o) => money(o.value), right: true, mono: true },
  { name: 'freight', label: 'Carriage', of: (o) => money(o.freight), right: true, mono: true },
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
const shown = computed(() => columns.filter((c) => asked.value.columns.includes(c.name)))
function toggle(name: string) {
  const now = asked.value.columns
  narrow({ columns: (now.includes(name) ? now.filter((c) => c !== name) : [...now, name]).join(',') })
}
const file = (format: string) => {
  const q = new URLSearchParams({ site: String(site.value), list: asked.value.list, format })
  if (asked.value.supplier) q.set('supplier', String(asked.value.supplier))
  if (rested.value) q.set('q', rested.value)
  return `/api/v1/purchase-orders/export?${q}`
}
const kept = useKept(
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
      <details class="cols">
        <summary class="btn">Columns</summary>
        <div class="menu">
          <label v-for="c in columns" :key="c.name"
            ><input type="checkbox" :checked="asked.columns.includes(c.name)" @change="toggle(c.name)" />
            {{ c.label }}</label
          >
        </div>
      </details>
      <a class="btn" :href="file('xlsx')" download>XLSX</a>
      <a class="btn" :href="file('csv')" download>CSV</a>
    </div>
    <KeptViews :kept="kept" />
    <div class="wide" tabindex="0" role="group" aria-label="The orders of the list">
      <table class="plain" data-orders>
        <thead>
          <tr>
            <th>Order</th>
            <th v-for="c in shown" :key="c.name" :class="{ r: c.right }">{{ c.label }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="o in listed" :key="o.id">
            <td class="mono">
              <router-link :to="`/receive/order/${o.id}`">{{ o.number }}</router-link>
            </td>
            <td
              v-for="c in shown"
              :key="c.name"
              :class="{ r: c.right, mono: c.mono, late: o.late && c.name === 'state' }"
            >
              {{ c.of(o) }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-if="orders.isSuccess.value && !listed.length" class="empty">No order is on this list.</div>
    <button v-if="orders.hasNextPage.value" class="btn" @click="orders.fetchNextPage()">Show more</button>
  </div>
</template>
