<script setup lang="ts" generic="R extends object">
import { computed } from 'vue'
import type { Column, Sort } from './columns'
import ListWithTools from './ListWithTools.vue'
import type { useServerList } from './serverList'
import { money } from './words'

/** A list within a page that the server sorts and cuts into pages. */
const props = defineProps<{
  /** What its widths and columns are remembered under. */
  name: string
  label: string
  columns: Column<R>[]
  list: ReturnType<typeof useServerList<R>>
  rowKey: (row: R) => string | number
  to?: (row: R) => string | undefined
  tickLabel?: (row: R) => string
  /** What stands under it instead of what the server adds up. */
  sums?: Record<string, string>
  lines?: number
  /** Where it is read as a file, without how it is sorted and the format. */
  file: string
}>()
defineOptions({ inheritAttrs: false })
const sort = defineModel<Sort | undefined>('sort')
const ticked = defineModel<(string | number)[]>('ticked', { default: () => [] })
const slots = defineSlots<{ [column: string]: (p: { row: R; index: number }) => unknown }>()
const { query, rows, total, sums: added, more } = props.list
const under = computed(() => {
  if (props.sums) return Object.keys(props.sums).length ? props.sums : undefined
  const all = Object.entries(added.value)
  if (!all.length) return undefined
  return Object.fromEntries(
    all.map(([name, figure]) => [name, props.columns.find((c) => c.name === name)?.money ? money(figure) : figure]),
  ) as Record<string, string>
})
const link = (format: string) => {
  const [path, query = ''] = props.file.split('?')
  const asked = new URLSearchParams(query)
  if (sort.value) asked.set('sort', sort.value.by)
  if (sort.value?.down) asked.set('down', 'true')
  asked.set('format', format)
  return `${path}?${asked}`
}
</script>

<template>
  <ListWithTools
    v-model:sort="sort"
    v-model:ticked="ticked"
    v-bind="$attrs"
    :name="name"
    :label="label"
    :columns="columns"
    :rows="rows"
    :row-key="rowKey"
    :to="to"
    :tick-label="tickLabel"
    :sums="under"
    :lines="lines"
    :total="total"
    :more="query.hasNextPage.value"
    @more="more"
  >
    <template #files>
      <a class="btn" :href="link('xlsx')" download>XLSX</a>
      <a class="btn" :href="link('csv')" download>CSV</a>
    </template>
    <template v-for="(_, column) in slots" #[column]="p" :key="column">
      <slot :name="column" :row="p.row as R" :index="p.index" />
    </template>
  </ListWithTools>
</template>
