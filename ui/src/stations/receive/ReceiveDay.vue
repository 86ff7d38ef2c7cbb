<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import type { Column } from '@/parts/columns'
import DayChart from '@/parts/DayChart.vue'
import HoursChart from '@/parts/HoursChart.vue'
import QueryView from '@/parts/QueryView.vue'
import SheetTable from '@/parts/SheetTable.vue'
import { plural, today } from '@/parts/words'

/** The station when nothing is chosen: what stands at the docks, what is expected, how fast it is received. */
const site = computed(() => session.site)
const day = useQuery({
  queryKey: ['receive', 'day', site],
  queryFn: () => ask(api.GET('/api/v1/receive/day', { params: { query: { site: site.value } } })),
})
type Dock = Schemas['ReceiveDock']
const docks: Column<Dock>[] = [
  { name: 'dock', label: 'Dock', of: (d) => d.code, to: (d) => `/stock/location/${d.id}` },
  { name: 'arrivals', label: 'Open arrivals', of: (d) => d.arrivals || '', right: true, mono: true },
  { name: 'first', label: 'Longest open', of: (d) => (d.first ? `${d.first}, ${d.source}` : '') },
  { name: 'items', label: 'Items to put away', of: (d) => d.items || '', right: true, mono: true },
]
type Expected = Schemas['ReceiveExpected']
const dayName = (x: Expected) => (!x.day ? 'late' : x.day === today() ? 'today' : x.day.slice(5))
const expected: Column<Expected>[] = [
  { name: 'day', label: 'Day', of: dayName, late: (x) => !x.day && x.orders > 0 },
  { name: 'orders', label: 'Orders', of: (x) => x.orders, right: true, mono: true },
  { name: 'lines', label: 'Lines', of: (x) => x.lines, right: true, mono: true },
  { name: 'sources', label: 'From', of: (x) => x.sources },
]
const expectedChart = computed(() => {
  const all = day.data.value?.expected ?? []
  const lines = (late: boolean) => all.map((x) => (!x.day === late ? x.lines : 0))
  return {
    along: all.map(dayName),
    unit: 'lines',
    series: [
      { name: 'Late', values: lines(true), as: 'bar' as const, colour: 'stop' as const, stacked: true },
      { name: 'Expected', values: lines(false), as: 'bar' as const, colour: 'full3' as const, stacked: true },
    ],
  }
})
const late = computed(() => day.data.value?.expected.find((x) => !x.day))
const received = computed(() => (day.data.value?.hours ?? []).reduce((n, h) => n + h.today, 0))
</script>

<template>
  <h1>At the docks</h1>
  <QueryView :query="day">
    <SheetTable
      data-day="docks"
      :columns="docks"
      :rows="day.data.value?.docks ?? []"
      :row-key="(d) => d.id"
      label="Docks"
      ><template #empty>This site has no dock. A lead adds one in the catalog, under bins and locations.</template>
    </SheetTable>
    <DayChart
      title="Expected, by day"
      :says="`${plural(late?.orders ?? 0, 'order')} late; lines expected for each of eight days from today.`"
      :chart="expectedChart"
      :columns="expected"
      :rows="day.data.value?.expected ?? []"
      :row-key="(x) => x.day"
    />
    <HoursChart
      title="Lines received, by hour"
      :says="`${plural(received, 'line')} received today, beside what is usual at each hour.`"
      unit="lines an hour"
      :hours="day.data.value?.hours ?? []"
    />
  </QueryView>
</template>
