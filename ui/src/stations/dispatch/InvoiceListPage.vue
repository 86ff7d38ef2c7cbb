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
import { money } from '@/parts/words'

/** All invoices to customers of the site as a table. */
type Invoice = Schemas['InvoicingInvoice']
const to = (b: Invoice) => `/dispatch/invoices/${b.id}`
/** Where a number leads; several lead nowhere. */
const one = (number: string) => (number.includes(' ') ? undefined : `/go/${number}`)
const columns: Column<Invoice>[] = [
  { name: 'number', sort: true, label: 'Invoice', of: (b) => b.number, to, mono: true, width: 104 },
  { name: 'made', sort: true, label: 'Made', of: (b) => b.invoiced_on, mono: true, width: 120 },
  { name: 'customer', sort: true, label: 'Customer', of: (b) => b.customer, width: 230 },
  {
    name: 'order',
    sort: true,
    label: 'Order',
    of: (b) => b.order,
    to: (b) => one(b.order),
    mono: true,
    width: 100,
  },
  {
    name: 'shipment',
    sort: true,
    label: 'Shipment',
    of: (b) => b.shipment,
    to: (b) => one(b.shipment),
    mono: true,
    width: 110,
  },
  { name: 'terms', sort: true, label: 'Terms', of: (b) => b.terms, width: 160 },
  { name: 'due', sort: true, label: 'Due', of: (b) => (b.credits ? '' : b.due_on), mono: true, width: 120 },
  {
    name: 'credit',
    label: 'Credit',
    of: (b) => (b.credits ? `of ${b.credits_number}` : b.credited_number),
    to: (b) => (b.credits || b.credited_by ? `/dispatch/invoices/${b.credits || b.credited_by}` : undefined),
    mono: true,
    width: 110,
  },
  {
    name: 'net',
    sort: true,
    label: 'Before tax',
    of: (b) => money(b.net),
    money: true,
    right: true,
    mono: true,
    width: 120,
  },
  { name: 'by', label: 'Made by', of: (b) => b.made_by, width: 140 },
  {
    name: 'total',
    sort: true,
    label: 'Total',
    of: (b) => money(b.total),
    money: true,
    right: true,
    mono: true,
    width: 120,
  },
]
const usual = ['made', 'customer', 'order', 'shipment', 'due', 'credit', 'net', 'total']
const address = useListAddress(usual, { by: 'number', down: true })
const { sort, text, rested, settings, apply } = address
const site = computed(() => session.site)
type By = NonNullable<operations['page-invoices']['parameters']['query']>['sort']
const list = useServerList<Invoice>(['invoicing', 'list', site, rested], sort, async (at) => {
  const page = await ask(
    api.GET('/api/v1/invoices/list', {
      params: { query: { site: site.value, q: rested.value || undefined, ...at, sort: at.sort as By } },
    }),
  )
  return { ...page, rows: page.invoices }
})
const file = (format: string) =>
  `/api/v1/invoices/export?${new URLSearchParams({ site: String(site.value), q: rested.value, format })}`
const saved = useSaved('invoices', settings, apply)
</script>

<template>
  <ListPage
    title="Invoices"
    name="invoices"
    :columns="columns"
    :address="address"
    :saved="saved"
    :list="list"
    :to="to"
    :file="file"
  >
    <template #filters>
      <FormField label="Number, order, shipment or customer"><TextEntry v-model="text" :width="250" /></FormField>
    </template>
    <template #empty>No invoice has these letters. What is shipped and not invoiced is invoiced at Invoices.</template>
  </ListPage>
</template>
