<script setup lang="ts" generic="R extends object">
import { useStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import ColumnMenu from './ColumnMenu.vue'
import type { Column, Sort } from './columns'
import ListTable from './ListTable.vue'
import { useSaved } from './saved'
import SavedViews from './SavedViews.vue'

/** A list within a page: its columns chosen, the view of it saved under a name, and itself as a file. */
const props = defineProps<{
  /** What its widths and columns are remembered under. */
  name: string
  label: string
  /** The first is always shown. */
  columns: Column<R>[]
  rows: readonly R[]
  rowKey: (row: R) => string | number
  to?: (row: R) => string | undefined
  tickLabel?: (row: R) => string
  sums?: Record<string, string>
  lines?: number
  /** How many rows there are in all, where that is known. */
  total?: number
  more?: boolean
}>()
defineOptions({ inheritAttrs: false })
defineEmits<{ more: [] }>()
const sort = defineModel<Sort | undefined>('sort')
const ticked = defineModel<(string | number)[]>('ticked', { default: () => [] })
const slots = defineSlots<{
  files?(): unknown
  [column: string]: ((p: { row: R; index: number }) => unknown) | undefined
}>()
const cells = computed(() => Object.keys(slots).filter((name) => name !== 'files'))

/** Those that are not to be seen: a column that comes with a new version is shown. */
const hidden = useStorage<string[]>(`hidden.${props.name}`, [])
const chosen = computed(() => props.columns.map((c) => c.name).filter((n) => !hidden.value.includes(n)))
const choose = (names: string) =>
  (hidden.value = props.columns.map((c) => c.name).filter((n) => !names.split(',').includes(n)))
/** Few look at the views of such a list: they are read when somebody opens them. */
const opened = ref(false)
const saved = useSaved(
  props.name,
  () => ({ sort: sort.value?.by ?? '', down: sort.value?.down ? 'yes' : '', columns: chosen.value.join(',') }),
  (to) => {
    sort.value = to.sort ? { by: to.sort, down: to.down === 'yes' } : undefined
    choose(to.columns ?? '')
  },
  opened,
)
defineExpose({ chosen })
</script>

<template>
  <div class="tools">
    <details class="views" @toggle="opened = true">
      <summary class="btn">Views</summary>
      <SavedViews class="menu" :saved="saved" />
    </details>
    <ColumnMenu :columns="columns.slice(1).filter((c) => c.label)" :chosen="chosen" @choose="choose" />
    <slot name="files" />
  </div>
  <ListTable
    v-model:sort="sort"
    v-model:ticked="ticked"
    v-bind="$attrs"
    :name="name"
    :label="label"
    :columns="columns"
    :chosen="chosen"
    :rows="rows"
    :row-key="rowKey"
    :to="to"
    :tick-label="tickLabel"
    :sums="sums"
    :lines="lines"
    :total="total"
    :more="more"
    @more="$emit('more')"
  >
    <template v-for="column in cells" #[column]="p" :key="column">
      <slot :name="column" :row="p.row as R" :index="p.index" />
    </template>
  </ListTable>
</template>

<style scoped>
.tools {
  display: flex;
  gap: 8px;
  justify-content: flex-end;
  margin-bottom: 6px;
}
.views {
  position: relative;
}
.views summary {
  list-style: none;
}
.views .menu {
  position: absolute;
  z-index: 12;
  top: 100%;
  right: 0;
  width: 340px;
  margin: 0;
  background: var(--sheet);
  border: 1px solid var(--edge);
  border-radius: 8px;
  padding: 8px 14px;
}
</style>
