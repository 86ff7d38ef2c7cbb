<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { Column } from './columns'
import SheetTable from './SheetTable.vue'
import { money, when } from './words'

/** What goods cost more or less than when they came, and how much of that was still in stock, by each way of valuing. */
const props = defineProps<{
  entries: Schemas['ValueEntry'][]
  label: string
  /** They are not entered yet: nobody did, and there is no time. */
  foreseen?: boolean
}>()
type Entry = Schemas['ValueEntry']
const figure = (name: keyof Entry, label: string): Column<Entry> => ({
  name,
  label,
  of: (e) => money(String(e[name])),
  right: true,
  mono: true,
})
const columns = computed<Column<Entry>[]>(() => [
  ...(props.foreseen
    ? []
    : [
        { name: 'at', label: 'Entered', of: (e: Entry) => when(e.at), mono: true },
        { name: 'person', label: 'By', of: (e: Entry) => e.person },
        {
          name: 'document',
          label: 'Order',
          of: (e: Entry) => e.document,
          to: (e: Entry) => `/go/${e.document}`,
          mono: true,
        },
        { name: 'note', label: 'For', of: (e: Entry) => e.note },
      ]),
  { name: 'item', label: 'Item', of: (e) => e.sku, mono: true, to: (e) => `/stock/item/${e.item_id}` },
  { name: 'quantity', label: 'Received', of: (e) => e.quantity, right: true, mono: true },
  figure('amount', 'Costs more by'),
  figure('left_average', 'In stock, average'),
  figure('gone_average', 'Gone, average'),
  figure('left_fifo', 'In stock, FIFO'),
  figure('gone_fifo', 'Gone, FIFO'),
])
</script>

<template>
  <SheetTable :label="label" :columns="columns" :rows="entries" :row-key="(e) => e.id">
    <template #empty>What came keeps its cost.</template>
  </SheetTable>
</template>
