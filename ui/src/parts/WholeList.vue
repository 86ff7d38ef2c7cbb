<script setup lang="ts" generic="R extends object">
import { computed, ref } from 'vue'
import type { Column } from './columns'
import { csvOf, saveFile } from './csv'
import ListWithTools from './ListWithTools.vue'
import { useLocalSort } from './localSort'

/** A list within a page whose rows are nowhere but here, such as those of a file: sorted by any column that has text. */
const props = defineProps<{
  /** What its widths and columns are remembered under, and what its file is called. */
  name: string
  label: string
  columns: Column<R>[]
  rows: readonly R[]
  rowKey: (row: R) => string | number
}>()
defineOptions({ inheritAttrs: false })
const slots = defineSlots<{ [column: string]: (p: { row: R; index: number }) => unknown }>()

const sortable = computed(() => props.columns.map((c) => ({ ...c, sort: !!(c.of && c.label) })))
const { sort, sorted } = useLocalSort(
  computed(() => props.rows),
  sortable,
)
const table = ref<{ chosen: string[] }>()
const save = () =>
  saveFile(
    `${props.name}.csv`,
    csvOf(
      props.columns.filter((c) => table.value?.chosen.includes(c.name)),
      sorted.value,
    ),
  )
</script>

<template>
  <ListWithTools
    ref="table"
    v-model:sort="sort"
    v-bind="$attrs"
    :name="name"
    :label="label"
    :columns="sortable"
    :rows="sorted"
    :row-key="rowKey"
    :total="rows.length"
  >
    <template #files><a-button @click="save">CSV</a-button></template>
    <template v-for="(_, column) in slots" #[column]="p" :key="column">
      <slot :name="column" :row="p.row as R" :index="p.index" />
    </template>
  </ListWithTools>
</template>
