<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { session } from '@/api/session'
import type { Chart } from '@/parts/chart/chart'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import ColumnMenu from '@/parts/ColumnMenu.vue'
import type { Column } from '@/parts/columns'
import DayChart from '@/parts/DayChart.vue'
import FormField from '@/parts/FormField.vue'
import { useListAddress } from '@/parts/listAddress'
import ListTable from '@/parts/ListTable.vue'
import QueryView from '@/parts/QueryView.vue'
import { useSaved } from '@/parts/saved'
import SavedViews from '@/parts/SavedViews.vue'
import { useServerList } from '@/parts/serverList'
import TextEntry from '@/parts/TextEntry.vue'
import { plural } from '@/parts/words'

/** All items of the site with their figures, and how full its zones are. */
type Row = Schemas['StockItemRow']
const site = computed(() => session.site)
const fullness = useQuery({
  queryKey: ['stock', 'zones', site],
  queryFn: () => ask(api.GET('/api/v1/stock/zones', { params: { query: { site: site.value } } })),
})
const full = computed(() => fullness.data.value ?? [])
const figure = (name: string, label: string, of: (r: Row) => string, more: Partial<Column<Row>> = {}): Column<Row> => ({
  name,
  label,
  sort: true,
  of,
  right: true,
  mono: true,
  width: 104,
  ...more,
})
const trackings: Record<string, string> = {
  lot_expiry: 'lot and expiry',
  lot_out: 'lot at dispatch',
  serial_out: 'serial at dispatch',
}
const columns: Column<Row>[] = [
  { name: 'sku', sort: true, label: 'Item', of: (r) => r.sku, to: (r) => `/stock/item/${r.id}`, mono: true, width: 92 },
  { name: 'description', sort: true, label: 'Description', of: (r) => r.description, width: 216 },
  figure('on_hand', 'On hand', (r) => r.figures.on_hand, { width: 88 }),
  figure('reserved', 'Reserved', (r) => r.figures.reserved, { width: 92 }),
  figure('free', 'Free', (r) => r.figures.free, { width: 84, late: (r) => r.figures.free.startsWith('-') }),
  figure('on_order', 'On order', (r) => r.figures.on_order, { width: 92 }),
  figure('reorder_point', 'Reorder point', (r) => (Number(r.reorder_point) ? r.reorder_point : ''), {
    width: 112,
    late: (r) => r.low,
  }),
  figure('on_hold', 'On hold', (r) => (Number(r.figures.on_hold) ? r.figures.on_hold : '')),
  figure('in_cartons', 'In cartons', (r) => r.figures.in_cartons),
  figure('promised', 'Promised', (r) => r.figures.promised),
  { name: 'unit', sort: true, label: 'Unit', of: (r) => r.unit, width: 80 },
  { name: 'tracking', sort: true, label: 'Tracking', of: (r) => trackings[r.tracking] ?? r.tracking, width: 140 },
  { name: 'home', sort: true, label: 'Home bin', of: (r) => r.home, mono: true, width: 104 },
  figure('bins', 'Bins', (r) => String(r.bins), { width: 72 }),
]
const usual = ['description', 'on_hand', 'reserved', 'free', 'on_order', 'reorder_point']
const {
  at,
  narrow,
  columns: shown,
  sort,
  text,
  rested,
  settings,
  apply,
} = useListAddress(usual, { by: 'sku', down: false })
const options = [
  { value: 'all', label: 'All items' },
  { value: 'low', label: 'At their reorder point' },
  { value: 'here', label: 'On hand' },
  { value: 'none', label: 'Nothing on hand' },
]
const which = computed(() => at('which') ?? 'all')
type By = NonNullable<operations['list-stock']['parameters']['query']>['sort']
const asked = computed(() => ({ site: site.value, which: which.value as 'all', q: rested.value }))
const list = useServerList<Row>(['stock', 'all', asked], sort, (at) =>
  ask(api.GET('/api/v1/stock/items', { params: { query: { ...asked.value, ...at, sort: at.sort as By } } })),
)
const { query, rows: listed, total, more } = list
const file = (format: string) =>
  `/api/v1/stock/items/export?${new URLSearchParams({ site: String(site.value), which: which.value, q: rested.value, sort: sort.value?.by ?? 'sku', down: String(sort.value?.down ?? false), format })}`
const saved = useSaved('stock-items', () => ({ which: which.value, ...settings() }), apply)

type Zone = Schemas['StockZoneFullness']
const percent = (z: Zone) => `${Math.round(z.share * 100)} %`
const zones: Column<Zone>[] = [
  { name: 'zone', label: 'Zone', of: (z) => `${z.zone} ${z.name}` },
  { name: 'bins', label: 'Bins', of: (z) => z.bins, right: true, mono: true },
  { name: 'empty', label: 'Empty', of: (z) => z.empty, right: true, mono: true },
  { name: 'part', label: 'To half', of: (z) => z.part, right: true, mono: true },
  { name: 'most', label: 'To nine tenths', of: (z) => z.most, right: true, mono: true },
  { name: 'full', label: 'Fuller', of: (z) => z.full, right: true, mono: true },
  { name: 'share', label: 'Full on average', of: percent, right: true, mono: true },
]
const zoneChart = computed<Chart>(() => {
  const all = full.value
  const band = (name: string, of: (z: Zone) => number, colour: 'full0' | 'full2' | 'full4' | 'full5') =>
    ({ name, values: all.map(of), as: 'bar', colour, stacked: true }) as const
  return {
    along: all.map((z) => `${z.name} ${percent(z)}`),
    lying: true,
    unit: 'bins',
    series: [
      band('Fuller', (z) => z.full, 'full5'),
      band('To nine tenths', (z) => z.most, 'full4'),
      band('To half', (z) => z.part, 'full2'),
      band('Empty', (z) => z.empty, 'full0'),
    ],
  }
})
const says = computed(() => full.value.map((z) => `${z.name} ${percent(z)} full`).join(', '))
</script>

<template>
  <h1>Stock of the site</h1>
  <div class="fields">
    <FormField label="Which items"
      ><ChoiceEntry
        :model-value="which"
        :options="options"
        :width="190"
        @update:model-value="(w) => narrow({ which: w })"
    /></FormField>
    <FormField label="Letters or words"><TextEntry v-model="text" :width="150" /></FormField>
    <ColumnMenu :columns="columns.slice(1)" :chosen="shown" @choose="(c) => narrow({ columns: c })" />
    <a class="btn" :href="file('xlsx')" download>XLSX</a>
    <a class="btn" :href="file('csv')" download>CSV</a>
  </div>
  <SavedViews :saved="saved" />
  <QueryView :query="query" :empty="() => !listed.length">
    <ListTable
      v-model:sort="sort"
      data-items
      name="stock-items"
      label="Items"
      style="--list-height: 46vh"
      :columns="columns"
      :chosen="['sku', ...shown]"
      :rows="listed"
      :row-key="(r) => r.id"
      :to="(r) => `/stock/item/${r.id}`"
      :total="total"
      :more="query.hasNextPage.value"
      @more="more"
    />
    <template #empty>No item is on this list. Other letters, or another list, may show some.</template>
  </QueryView>
  <DayChart
    v-if="full.length"
    title="Fullness, by zone"
    :says="`${plural(full.length, 'zone')}: ${says}.`"
    :chart="zoneChart"
    :columns="zones"
    :rows="full"
    :row-key="(z) => z.zone"
    :height="60 + 36 * full.length"
  />
</template>
