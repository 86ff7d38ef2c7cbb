<script setup lang="ts">
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { session } from '@/api/session'
import { keeps } from './holds'
import { useSaved } from '@/parts/saved'
import { money, stateWords } from '@/parts/words'
import DateEntry from '@/parts/DateEntry.vue'
import FormField from '@/parts/FormField.vue'
import TextEntry from '@/parts/TextEntry.vue'
import CarrierEntry from '@/parts/CarrierEntry.vue'
import type { Column } from '@/parts/columns'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { useListAddress } from '@/parts/listAddress'
import ListPage from '@/parts/ListPage.vue'
import { useServerList } from '@/parts/serverList'

/** Sales orders as a table: narrowed, with the columns one wants, saved under a name. */
type Order = Schemas['OrdersOrder']
const to = (o: Order) => `/orders/${o.id}`
const columns: Column<Order>[] = [
  { name: 'number', sort: true, label: 'Order', of: (o) => o.number, to, mono: true, width: 100 },
  { name: 'customer', sort: true, label: 'Customer', of: (o) => o.customer, width: 200 },
  { name: 'wanted', sort: true, label: 'Wanted', of: (o) => o.wanted_on, mono: true, width: 120 },
  {
    name: 'state',
    sort: true,
    label: 'State',
    of: (o) => (o.late ? `${stateWords(o.state)}, late` : stateWords(o.state)),
    late: (o) => o.late,
    width: 140,
  },
  { name: 'carrier', sort: true, label: 'Carrier', of: (o) => o.carrier, width: 150 },
  { name: 'reference', sort: true, label: "Customer's reference", of: (o) => o.reference, width: 160 },
  { name: 'units', sort: true, label: 'Units', of: (o) => o.quantity, right: true, mono: true, width: 80 },
  { name: 'reserved', sort: true, label: 'Reserved', of: (o) => o.reserved, right: true, mono: true, width: 90 },
  { name: 'cartons', sort: true, label: 'In cartons', of: (o) => o.picked, right: true, mono: true, width: 96 },
  { name: 'shipped', sort: true, label: 'Shipped', of: (o) => o.shipped, right: true, mono: true, width: 90 },
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
  { name: 'blockers', label: 'Blocked by', of: (o) => o.blockers, late: () => true, width: 240 },
]
const usual = ['customer', 'wanted', 'state', 'carrier', 'units', 'cartons', 'shipped', 'blockers']
const states = [
  { value: 'open', label: 'open' },
  { value: 'blocked', label: 'late or blocked' },
  { value: 'quote', label: 'quotes' },
  { value: 'on_hold', label: 'on hold' },
  { value: 'released', label: 'released' },
  { value: 'shipped', label: 'shipped' },
  { value: 'cancelled', label: 'cancelled' },
  { value: '', label: 'all' },
]
const keepers = [
  { value: '' as const, label: 'anything' },
  ...Object.entries(keeps).map(([value, label]) => ({ value: value as keyof typeof keeps, label })),
]
const address = useListAddress(usual)
const { at, narrow, sort, text, rested, settings, apply } = address
const asked = computed(() => ({
  state: at('state') ?? 'open',
  keptBy: (at('blocked_by') ?? '') as keyof typeof keeps,
  carrier: at('carrier') || '',
  from: at('from') || '',
  until: at('until') || '',
}))
const params = computed(() => ({
  site: session.site,
  state: (asked.value.state === 'blocked' ? 'open' : asked.value.state) as 'open',
  blocked: asked.value.state === 'blocked' || undefined,
  blocked_by: asked.value.keptBy || undefined,
  carrier: asked.value.carrier || undefined,
  from: asked.value.from || undefined,
  until: asked.value.until || undefined,
  text: rested.value || undefined,
}))
type By = NonNullable<operations['page-sales-orders']['parameters']['query']>['sort']
const list = useServerList<Order>(['orders', 'table', params], sort, async (at) => {
  const page = await ask(
    api.GET('/api/v1/sales-orders/list', { params: { query: { ...params.value, ...at, sort: at.sort as By } } }),
  )
  return { ...page, rows: page.orders }
})
const file = (format: string) => {
  const q = new URLSearchParams({ format })
  for (const [k, v] of Object.entries(params.value)) if (v !== undefined && v !== '') q.set(k, String(v))
  return `/api/v1/sales-orders/export?${q}`
}
const saved = useSaved(
  'sales-orders',
  () => ({
    state: asked.value.state,
    blocked_by: asked.value.keptBy,
    carrier: asked.value.carrier,
    from: asked.value.from,
    until: asked.value.until,
    ...settings(),
  }),
  apply,
)
</script>

<template>
  <ListPage
    title="Sales orders"
    name="sales-orders"
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
          :model-value="asked.state"
          :options="states"
          :width="160"
          @update:model-value="(state) => narrow({ state })"
      /></FormField>
      <FormField label="Blocked by"
        ><ChoiceEntry
          :model-value="asked.keptBy"
          :options="keepers"
          :width="170"
          @update:model-value="(by) => narrow({ blocked_by: by || undefined })"
      /></FormField>
      <FormField label="Number, customer or reference"><TextEntry v-model="text" :width="200" /></FormField>
      <FormField label="Carrier"
        ><CarrierEntry
          :model-value="asked.carrier"
          none="any"
          :width="170"
          @update:model-value="(carrier) => narrow({ carrier: carrier || undefined })"
      /></FormField>
      <FormField label="Wanted from"
        ><DateEntry :model-value="asked.from" clear @update:model-value="(from) => narrow({ from: from || undefined })"
      /></FormField>
      <FormField label="Until"
        ><DateEntry
          :model-value="asked.until"
          clear
          @update:model-value="(until) => narrow({ until: until || undefined })"
      /></FormField>
    </template>
    <template #empty>No order is on this list. Another list, or fewer letters, may show more.</template>
  </ListPage>
</template>
