<script setup lang="ts" generic="R extends { id: number }">
import { computed } from 'vue'
import ColumnMenu from './ColumnMenu.vue'
import type { Column } from './columns'
import type { useListAddress } from './listAddress'
import ListTable from './ListTable.vue'
import QueryView from './QueryView.vue'
import type { useSaved } from './saved'
import SavedViews from './SavedViews.vue'
import { money } from './words'
import type { useServerList } from './serverList'

/** A page that is one list: narrowed, with the columns one wants, saved under a name, exported. */
const props = defineProps<{
  title: string
  /** What its widths are remembered under. */
  name: string
  /** The first column is always shown. */
  columns: Column<R>[]
  address: ReturnType<typeof useListAddress>
  saved: ReturnType<typeof useSaved>
  list: ReturnType<typeof useServerList<R>>
  to: (row: R) => string
  /** Where it is read as a file. */
  file: (format: 'csv' | 'xlsx') => string
}>()
defineSlots<{ filters(): unknown; actions?(): unknown; empty(): unknown }>()
const { columns: chosen, sort, narrow } = props.address
const { query, rows, total, sums, more } = props.list
const under = computed(() => {
  const all = Object.entries(sums.value).map(([name, figure]) => {
    const column = props.columns.find((c) => c.name === name)
    return [name, column?.money ? money(figure) : figure]
  })
  return all.length ? (Object.fromEntries(all) as Record<string, string>) : undefined
})
</script>

<template>
  <div class="page whole">
    <h1>{{ title }}</h1>
    <div class="fields">
      <slot name="filters" />
      <ColumnMenu :columns="columns.slice(1)" :chosen="chosen" @choose="(c) => narrow({ columns: c })" />
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
        class="rest"
        :columns="columns"
        :chosen="[columns[0]!.name, ...chosen]"
        :rows="rows"
        :row-key="(r) => r.id"
        :to="to"
        :total="total"
        :sums="under"
        :more="query.hasNextPage.value"
        @more="more"
      />
      <template #empty><slot name="empty" /></template>
    </QueryView>
  </div>
</template>

<style scoped>
/* The list takes what its filters leave of the page, and scrolls in itself. */
.whole {
  display: flex;
  flex-direction: column;
}
.rest {
  flex: 0 1 auto;
  min-height: 260px;
}
@media print {
  .whole {
    display: block;
  }
}
</style>
