<script setup lang="ts" generic="R extends object">
import type { Asked } from './asked'
import ColumnMenu from './ColumnMenu.vue'
import type { Column, Sort } from './columns'
import type { useListAddress } from './listAddress'
import ListTable from './ListTable.vue'
import QueryView from './QueryView.vue'
import type { useSaved } from './saved'
import SavedViews from './SavedViews.vue'

/** A page that is one list: narrowed, with the columns one wants, saved under a name, exported. */
defineProps<{
  title: string
  /** What its widths are remembered under. */
  name: string
  /** The first column is always shown. */
  columns: Column<R>[]
  address: ReturnType<typeof useListAddress>
  saved: ReturnType<typeof useSaved>
  query: Asked & { hasNextPage: { value: boolean } }
  rows: readonly R[]
  rowKey: (row: R) => string | number
  to: (row: R) => string
  total: number
  /** Where it is read as a file. */
  file: (format: 'csv' | 'xlsx') => string
}>()
const sort = defineModel<Sort | undefined>('sort')
const emit = defineEmits<{ more: [] }>()
defineSlots<{ filters(): unknown; actions?(): unknown; empty(): unknown }>()
</script>

<template>
  <div class="page">
    <h1>{{ title }}</h1>
    <div class="fields">
      <slot name="filters" />
      <ColumnMenu
        :columns="columns.slice(1)"
        :chosen="address.columns.value"
        @choose="(c) => address.narrow({ columns: c })"
      />
      <a class="btn" :href="file('xlsx')" download>XLSX</a>
      <a class="btn" :href="file('csv')" download>CSV</a>
      <slot name="actions" />
    </div>
    <SavedViews :saved="saved" />
    <QueryView :query="query" :empty="() => !rows.length">
      <ListTable
        v-model:sort="sort"
        :data-list="name"
        :name="name"
        :label="title"
        style="--list-height: calc(100vh - 372px)"
        :columns="columns"
        :chosen="[columns[0]!.name, ...address.columns.value]"
        :rows="rows"
        :row-key="rowKey"
        :to="to"
        :total="total"
        :more="query.hasNextPage.value"
        @more="emit('more')"
      />
      <template #empty><slot name="empty" /></template>
    </QueryView>
  </div>
</template>
