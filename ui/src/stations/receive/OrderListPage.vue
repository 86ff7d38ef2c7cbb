<script setup lang="ts">
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { session } from '@/api/session'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import type { Column } from '@/parts/columns'
import FormField from '@/parts/FormField.vue'
import { useListAddress } from '@/parts/listAddress'
import ListPage from '@/parts/ListPage.vue'
import PartyFinder from '@/parts/PartyFinder.vue'
import { useServerList } from '@/parts/serverList'
import { useSaved } from '@/parts/saved'
import TextEntry from '@/parts/TextEntry.vue'
import { money, stateWords } from '@/parts/words'
import { type List, listOptions } from './lists'

/** Purchase orders as a table: any list, narrowed, with the columns one wants, and saved under a name. */
type Order = Schemas['PurchasingOrder']
const to = (o: Order) => `/receive/order/${o.id}`
const columns: Column<Order>[] = [
  { name: 'number', sort: true, label: 'Order', of: (o) => o.number, to, mono: true, width: 100 },
  { name: 'supplier', sort: true, label: 'Supplier', of: (o) => o.supplier, width: 210 },
  { name: 'expected', sort: true, label: 'Expected', of: (o) => o.expected_on, mono: true, width: 120 },
  {
    name: 'state',
    sort: true,
    label: 'State',
    of: (o) => (o.late ? `${stateWords(o.state)}, late` : stateWords(o.state)),
    late: (o) => o.late,
    width: 170,
  },
  { name: 'lines', sort: true, label: 'Lines', of: (o) => o.line_count, right: true, mono: true, width: 80 },
  {
    name: 'value',
    sort: true,
    label: 'Value',
    of: (o) => money(o.value),
    money: true,
    right: true,
    mono: true,
    width: 110,
  },
  {
    name: 'freight',
    sort: true,
    label: 'Freight',
    of: (o) => money(o.freight),
    money: true,
    right: true,
    mono: true,
    width: 100,
  },
  { name: 'carrier', sort: true, label: 'Carrier', of: (o) => o.carrier, width: 150 },
  { name: 'terms', sort: true, label: 'Terms', of: (o) => o.terms, width: 130 },
  { name: 'began', label: 'Started as', of: (o) => (o.quote ? `quote ${o.quote}` : o.began_as), width: 130 },
  { name: 'approved', sort: true, label: 'Approved by', of: (o) => o.approved_by, width: 130 },
  { name: 'note', label: 'Note', of: (o) => o.note, width: 240 },
]
const usual = ['supplier', 'expected', 'state', 'lines', 'value', 'note']

const address = useListAddress(usual)
const { at, narrow, sort, text, rested, settings, apply } = address
const asked = computed(() => ({
  list: (at('list') as List) || 'open',
  supplier: Number(at('supplier')) || 0,
  supplierName: at('name') || '',
}))
const site = computed(() => session.site)
const params = computed(() => ({
  site: site.value,
  list: asked.value.list,
  supplier: asked.value.supplier || undefined,
  q: rested.value || undefined,
}))
type By = NonNullable<operations['list-purchase-orders']['parameters']['query']>['sort']
const list = useServerList<Order>(['receive', 'orders', 'table', params], sort, async (at) => {
  const page = await ask(
    api.GET('/api/v1/purchase-orders', { params: { query: { ...params.value, ...at, sort: at.sort as By } } }),
  )
  return { ...page, rows: page.orders }
})
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
    ...settings(),
  }),
  apply,
)
</script>

<template>
  <ListPage
    title="Purchase orders"
    name="purchase-orders"
    :columns="columns"
    :address="address"
    :saved="saved"
    :list="list"
    :to="to"
    :file="file"
  >
    <template #filters>
      <FormField label="Which list"
        ><ChoiceEntry
          :model-value="asked.list"
          :options="listOptions"
          :width="190"
          @update:model-value="(l) => narrow({ list: l })"
      /></FormField>
      <FormField v-if="!asked.supplier" label="Supplier"
        ><PartyFinder
          :model-value="undefined"
          kind="supplier"
          @update:model-value="(p) => narrow({ supplier: p ? String(p.id) : undefined, name: p?.name })"
      /></FormField>
      <a-button v-else @click="narrow({ supplier: undefined, name: undefined })">{{ asked.supplierName }} ×</a-button>
      <FormField label="Number or SKU"><TextEntry v-model="text" mono :width="152" /></FormField>
    </template>
    <template #actions><router-link class="btn" to="/receive/new">New purchase order</router-link></template>
    <template #empty>No order is on this list. Another list, or fewer letters, may show more.</template>
  </ListPage>
</template>
