<script setup lang="ts" generic="R extends object">
import { computed } from 'vue'
import { classesOf, type Column, seen } from './columns'

/** The lines of a sheet: a short table whose cells are text, links or, by a slot of the column's name, anything. */
const props = defineProps<{
  columns: Column<R>[]
  rows: readonly R[]
  rowKey: (row: R) => string | number
  /** A row that is being worked on. */
  now?: (row: R) => boolean
  /** Rows that show more of themselves under them, by the slot "more". */
  opened?: (string | number)[]
  /** What the table is, for those who hear the page. */
  label?: string
  /** Rows that are ticked, where they can be. */
  tickLabel?: (row: R) => string
  tickable?: (row: R) => boolean
}>()
const ticked = defineModel<(string | number)[]>('ticked')
// A slot of a column's name draws its cells; "more" draws what a row shows under it, "foot" and "empty" take nothing.
defineSlots<{ [name: string]: (p: { row: R; index: number }) => unknown }>()
const nothing = {} as { row: R; index: number }
const compare = (c: Column<R>) => (a: R, b: R) =>
  String(c.of?.(a) ?? '').localeCompare(String(c.of?.(b) ?? ''), 'en', { numeric: true })
const antColumns = computed(() =>
  seen(props.columns).map((c) => ({
    key: c.name,
    title: c.label,
    width: c.width,
    align: c.right ? ('right' as const) : undefined,
    sorter: c.sort ? compare(c) : undefined,
    customCell: (row: R) => ({ class: classesOf(c, row) }),
  })),
)
const columnOf = (name: unknown) => props.columns.find((c) => c.name === name)
const linkOf = (name: unknown, row: R) => columnOf(name)?.to?.(row)
const textOf = (name: unknown, row: R) => columnOf(name)?.of?.(row)
const selection = computed(() =>
  props.tickLabel
    ? {
        selectedRowKeys: ticked.value ?? [],
        preserveSelectedRowKeys: false,
        onChange: (keys: (string | number)[]) => (ticked.value = keys),
        getCheckboxProps: (row: R) => ({
          'aria-label': props.tickLabel!(row),
          disabled: props.tickable ? !props.tickable(row) : false,
        }),
      }
    : undefined,
)
</script>

<template>
  <div class="wide sheet-table">
    <a-table
      :columns="antColumns as never"
      :data-source="rows as never"
      :row-key="rowKey as never"
      size="small"
      :pagination="false"
      :show-sorter-tooltip="false"
      :row-class-name="(r: R) => (now?.(r) ? 'now' : '')"
      :row-selection="selection as never"
      :expanded-row-keys="opened ?? []"
      :show-expand-column="false"
      :aria-label="label"
    >
      <template #bodyCell="{ column, record, index }">
        <slot :name="column.key as string" :row="record as R" :index="index">
          <router-link v-if="linkOf(column.key, record as R)" :to="linkOf(column.key, record as R)!">{{
            textOf(column.key, record as R)
          }}</router-link>
          <template v-else>{{ textOf(column.key, record as R) }}</template>
        </slot>
      </template>
      <template v-if="$slots.more" #expandedRowRender="{ record, index }">
        <slot name="more" :row="record as R" :index="index" />
      </template>
      <template v-if="$slots.foot" #footer><slot name="foot" v-bind="nothing" /></template>
      <template #emptyText><slot name="empty" v-bind="nothing">No lines.</slot></template>
    </a-table>
  </div>
</template>
