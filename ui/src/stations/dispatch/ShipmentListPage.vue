<script setup lang="ts">
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { session } from '@/api/session'
import type { Column } from '@/parts/columns'
import FormField from '@/parts/FormField.vue'
import { useListAddress } from '@/parts/listAddress'
import ListPage from '@/parts/ListPage.vue'
import { useSaved } from '@/parts/saved'
import { useServerList } from '@/parts/serverList'
import TextEntry from '@/parts/TextEntry.vue'
import { money, stateWords, when } from '@/parts/words'

/** All shipments of the site as a table. */
type Shipment = Schemas['ShippingShipment']
const to = (d: Shipment) => `/dispatch/${d.id}`
const columns: Column<Shipment>[] = [
  { name: 'number', sort: true, label: 'Shipment', of: (d) => d.number, to, mono: true, width: 104 },
  { name: 'shipped', label: 'Shipped', of: (d) => when(d.shipped_at), mono: true, width: 172 },
  {
    name: 'order',
    sort: true,
    label: 'Order',
    of: (d) => d.order,
    to: (d) => `/go/${d.order}`,
    mono: true,
    width: 92,
  },
  { name: 'customer', sort: true, label: 'Customer', of: (d) => d.customer, width: 210 },
  { name: 'carrier', sort: true, label: 'Carrier', of: (d) => d.carrier, width: 190 },
  {
    name: 'state',
    sort: true,
    label: 'State',
    of: (d) => stateWords(d.state),
    late: (d) => d.state === 'refused',
    width: 96,
  },
  { name: 'tracking', sort: true, label: 'Tracking', of: (d) => d.tracking, mono: true, width: 150 },
  {
    name: 'rate',
    money: true,
    sort: true,
    label: 'Rate',
    of: (d) => (d.rate ? money(d.rate) : ''),
    right: true,
    mono: true,
    width: 84,
  },
  { name: 'vehicle', sort: true, label: 'Vehicle', of: (d) => d.load, mono: true, width: 92 },
  { name: 'invoiced', sort: true, label: 'Invoiced', of: (d) => d.invoiced, mono: true, width: 110 },
  { name: 'by', label: 'Shipped by', of: (d) => d.shipped_by, width: 130 },
]
const usual = ['shipped', 'order', 'customer', 'carrier', 'state', 'tracking', 'invoiced']
const address = useListAddress(usual, { by: 'number', down: true })
const { sort, text, rested, settings, apply } = address
const site = computed(() => session.site)
type By = NonNullable<operations['page-shipments']['parameters']['query']>['sort']
const list = useServerList<Shipment>(['dispatch', 'list', site, rested], sort, async (at) => {
  const page = await ask(
    api.GET('/api/v1/shipments/list', {
      params: { query: { site: site.value, q: rested.value || undefined, ...at, sort: at.sort as By } },
    }),
  )
  return { ...page, rows: page.shipments }
})
const file = (format: string) =>
  `/api/v1/shipments/export?${new URLSearchParams({ site: String(site.value), q: rested.value, format })}`
const saved = useSaved('shipments', settings, apply)
</script>

<template>
  <ListPage
    title="Shipments"
    name="shipments"
    :columns="columns"
    :address="address"
    :saved="saved"
    :list="list"
    :to="to"
    :file="file"
  >
    <template #filters>
      <FormField label="Number, order, customer or tracking"><TextEntry v-model="text" :width="250" /></FormField>
    </template>
    <template #empty>No shipment has these letters. What is shipped at Dispatch stands here.</template>
  </ListPage>
</template>
