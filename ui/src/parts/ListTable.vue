<script setup lang="ts" generic="R extends object">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { useStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { printing } from '@/theme/theme'
import { classesOf, type Column, seen, type Sort } from './columns'
import { useRows } from './useRows'

/**
 * A long list: only the rows in sight are drawn, so that ten thousand cost as little as forty. Cells are text and
 * links; a slot of a column's name may draw more. docs/decisions says why this is no table of the component library.
 */
const props = defineProps<{
  /** What its widths are remembered under. */
  name: string
  label: string
  columns: Column<R>[]
  /** The names of the columns that are shown. */
  chosen?: string[]
  rows: readonly R[]
  rowKey: (row: R) => string | number
  to?: (row: R) => string | undefined
  tickLabel?: (row: R) => string
  /** What stands under a column, as its sum. */
  sums?: Record<string, string>
  /** How many rows there are in all, where not all of them are here. */
  total?: number
  /** Rows of so many lines of text, for sentences; one without. */
  lines?: number
  /** There is more to be read when the end comes into sight. */
  more?: boolean
}>()
defineOptions({ inheritAttrs: false })
const emit = defineEmits<{ more: [] }>()
const sort = defineModel<Sort | undefined>('sort')
const ticked = defineModel<(string | number)[]>('ticked', { default: () => [] })
defineSlots<{ [column: string]: (p: { row: R; index: number }) => unknown }>()

const router = useRouter()
const rowHeight = computed(() => 15 + 21 * (props.lines ?? 1))
const root = ref<HTMLElement>()
const shown = computed(() => seen(props.columns).filter((c) => !props.chosen || props.chosen.includes(c.name)))
const widths = useStorage<Record<string, number>>(`widths.${props.name}`, {})
const widthOf = (c: Column<R>) => widths.value[c.name] ?? c.width ?? 120
const whole = computed(() => shown.value.reduce((sum, c) => sum + widthOf(c), props.tickLabel ? 44 : 0))

const windowed = useVirtualizer(
  computed(() => ({
    count: props.rows.length,
    getScrollElement: () => root.value ?? null,
    estimateSize: () => rowHeight.value,
    overscan: 8,
    initialRect: { width: 900, height: 600 },
  })),
)
/** On paper all rows are drawn that are here. */
const drawn = computed(() =>
  printing.value
    ? props.rows.map((_, index) => ({ index, start: index * rowHeight.value, end: (index + 1) * rowHeight.value }))
    : windowed.value.getVirtualItems(),
)
const above = computed(() => drawn.value[0]?.start ?? 0)
const below = computed(() => windowed.value.getTotalSize() - (drawn.value.at(-1)?.end ?? 0))
watch(
  () => drawn.value.at(-1)?.index ?? 0,
  (last) => {
    if (props.more && last >= props.rows.length - 20) emit('more')
  },
)

function open(i: number) {
  const row = props.rows[i]
  const to = row && props.to?.(row)
  if (to) void router.push(to)
}
function tick(i: number) {
  const row = props.rows[i]
  if (!row || !props.tickLabel) return
  const key = props.rowKey(row)
  ticked.value = ticked.value.includes(key) ? ticked.value.filter((k) => k !== key) : [...ticked.value, key]
}
const allTicked = computed(() => props.rows.length > 0 && ticked.value.length === props.rows.length)
const tickAll = () => (ticked.value = allTicked.value ? [] : props.rows.map(props.rowKey))
const { at, onKey } = useRows(
  computed(() => props.rows.length),
  { show: (i) => windowed.value.scrollToIndex(i), open, tick: props.tickLabel ? tick : undefined },
  root,
)

function sortBy(c: Column<R>) {
  const now = sort.value
  sort.value = now?.by !== c.name ? { by: c.name, down: false } : now.down ? undefined : { by: c.name, down: true }
}
const direction = (c: Column<R>) =>
  sort.value?.by === c.name ? (sort.value.down ? 'descending' : 'ascending') : c.sort ? 'none' : undefined

/** A column is made wider or narrower by its edge, with a pointer or the arrows. */
function resize(c: Column<R>, to: number) {
  widths.value = { ...widths.value, [c.name]: Math.max(56, Math.min(640, Math.round(to))) }
}
function drag(c: Column<R>, e: PointerEvent) {
  const [from, width] = [e.clientX, widthOf(c)]
  const edge = e.currentTarget as HTMLElement
  edge.setPointerCapture(e.pointerId)
  const move = (m: PointerEvent) => resize(c, width + m.clientX - from)
  edge.addEventListener('pointermove', move)
  edge.addEventListener('pointerup', () => edge.removeEventListener('pointermove', move), { once: true })
}
function nudge(c: Column<R>, e: KeyboardEvent) {
  const by = { ArrowLeft: -16, ArrowRight: 16 }[e.key]
  if (!by) return
  resize(c, widthOf(c) + by)
  e.preventDefault()
}
</script>

<template>
  <div ref="root" v-bind="$attrs" class="list-table" tabindex="-1" role="region" :aria-label="label">
    <table :style="{ width: `${whole}px` }" :aria-rowcount="(total ?? rows.length) + 1" :aria-label="label">
      <colgroup>
        <col v-if="tickLabel" style="width: 44px" />
        <col v-for="c in shown" :key="c.name" :style="{ width: `${widthOf(c)}px` }" />
      </colgroup>
      <thead>
        <tr aria-rowindex="1">
          <th v-if="tickLabel" class="tick">
            <a-checkbox
              :checked="allTicked"
              :indeterminate="ticked.length > 0 && !allTicked"
              :aria-label="allTicked ? 'Untick all' : 'Tick all'"
              @change="tickAll"
            />
          </th>
          <th v-for="c in shown" :key="c.name" :class="{ r: c.right }" :aria-sort="direction(c)" scope="col">
            <button v-if="c.sort" type="button" class="by" @click="sortBy(c)">
              {{ c.label }}<i aria-hidden="true">{{ { ascending: '▲', descending: '▼', none: '' }[direction(c)!] }}</i>
            </button>
            <template v-else>{{ c.label }}</template>
            <span
              class="edge"
              role="separator"
              tabindex="0"
              aria-orientation="vertical"
              :aria-label="`Width of ${c.label}`"
              :aria-valuenow="widthOf(c)"
              aria-valuemin="56"
              aria-valuemax="640"
              @pointerdown.prevent="drag(c, $event)"
              @keydown="nudge(c, $event)"
            />
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-if="above > 0" aria-hidden="true" :style="{ height: `${above}px` }">
          <td />
        </tr>
        <tr
          v-for="v in drawn"
          :key="rowKey(rows[v.index]!)"
          class="row"
          :class="{ ticked: tickLabel && ticked.includes(rowKey(rows[v.index]!)), tall: lines }"
          :style="{ height: `${rowHeight}px` }"
          :tabindex="v.index === at ? 0 : -1"
          :data-row="v.index"
          :aria-rowindex="v.index + 2"
          @focus="at = v.index"
          @keydown="onKey($event, v.index)"
        >
          <td v-if="tickLabel" class="tick">
            <input
              type="checkbox"
              tabindex="-1"
              :checked="ticked.includes(rowKey(rows[v.index]!))"
              :aria-label="tickLabel(rows[v.index]!)"
              @change="tick(v.index)"
            />
          </td>
          <td v-for="c in shown" :key="c.name" :class="classesOf(c, rows[v.index]!)">
            <slot :name="c.name" :row="rows[v.index]!" :index="v.index"
              ><router-link v-if="c.to?.(rows[v.index]!)" :to="c.to(rows[v.index]!)!" tabindex="-1">{{
                c.of?.(rows[v.index]!)
              }}</router-link
              ><template v-else>{{ c.of?.(rows[v.index]!) }}</template></slot
            >
          </td>
        </tr>
        <tr v-if="below > 0" aria-hidden="true" :style="{ height: `${below}px` }">
          <td />
        </tr>
      </tbody>
      <tfoot v-if="sums">
        <tr>
          <td v-if="tickLabel" />
          <td v-for="c in shown" :key="c.name" :class="{ r: c.right, mono: c.mono }">{{ sums[c.name] }}</td>
        </tr>
      </tfoot>
    </table>
  </div>
  <p v-if="total !== undefined" class="mute small count" role="status">
    {{ total === 1 ? '1 row' : `${total} rows`
    }}<template v-if="rows.length < total">, {{ rows.length }} read</template>
  </p>
</template>

<style scoped>
.list-table {
  overflow: auto;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 8px;
  max-height: var(--list-height, 100%);
}
table {
  table-layout: fixed;
  border-collapse: separate;
  border-spacing: 0;
  min-width: 100%;
}
th {
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--shade);
  color: var(--mute);
  font-weight: 400;
  font-size: 13px;
  text-align: left;
  padding: 7px 10px;
  border-bottom: 1px solid var(--line);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
th.r {
  text-align: right;
}
.by {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  padding: 0;
  min-height: 24px;
  cursor: pointer;
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.by i {
  font-style: normal;
  font-size: 10px;
  margin-left: 5px;
}
.edge {
  position: absolute;
  right: 0;
  top: 0;
  bottom: 0;
  width: 9px;
  cursor: col-resize;
  border-right: 1px solid var(--line);
  touch-action: none;
}
.edge:hover {
  border-right: 3px solid var(--edge);
}
td {
  padding: 0 10px;
  border-bottom: 1px solid var(--hair);
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
td.r {
  text-align: right;
}
.row.tall td {
  white-space: normal;
  line-height: 21px;
}
.row:hover td {
  background: var(--hover);
}
.row.ticked td {
  background: var(--act2);
}
.row:focus-visible {
  outline: 3px solid var(--lamp);
  outline-offset: -3px;
  box-shadow: inset 0 0 0 4px var(--ink);
}
.tick {
  text-align: center;
}
.tick input {
  width: 18px;
  height: 18px;
  accent-color: var(--act);
  vertical-align: middle;
}
.count {
  margin: 6px 0 0;
}
tfoot td {
  position: sticky;
  bottom: 0;
  background: var(--shade);
  border-top: 1px solid var(--line);
  padding: 6px 10px;
  font-weight: 700;
}
</style>
