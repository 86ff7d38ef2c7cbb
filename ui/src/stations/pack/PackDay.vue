<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import type { Chart } from '@/parts/chart/chart'
import type { Column } from '@/parts/columns'
import DayChart from '@/parts/DayChart.vue'
import { plural, when } from '@/parts/words'

/** What stands at the bench, by when it is collected. */
const props = defineProps<{ bench: Schemas['CartonsCarton'][] }>()
const site = computed(() => session.site)
const carriers = useQuery({
  queryKey: ['dispatch', 'carriers', site],
  queryFn: () => ask(api.GET('/api/v1/carriers', { params: { query: { site: site.value } } })),
})
interface Collected {
  carrier: string
  at: string
  cartons: number
  late: number
  held: number
}
const rows = computed(() => {
  const by = new Map<string, Collected>()
  for (const c of props.bench) {
    const at = carriers.data.value?.find((x) => x.name === c.carrier)?.next ?? ''
    const row = by.get(c.carrier) ?? { carrier: c.carrier, at, cartons: 0, late: 0, held: 0 }
    row.cartons++
    if (c.late) row.late++
    else if (c.restocks || c.variance_kg) row.held++
    by.set(c.carrier, row)
  }
  return [...by.values()].sort((a, b) => (a.at || '9').localeCompare(b.at || '9'))
})
const name = (r: Collected) => `${r.at ? when(r.at) : 'no time'} ${r.carrier}`
const columns: Column<Collected>[] = [
  { name: 'at', label: 'Collected', of: (r) => (r.at ? when(r.at) : 'no time'), mono: true },
  { name: 'carrier', label: 'Carrier', of: (r) => r.carrier },
  { name: 'cartons', label: 'Cartons', of: (r) => r.cartons, right: true, mono: true },
  { name: 'late', label: 'Late', of: (r) => r.late || '', right: true, mono: true, late: (r) => r.late > 0 },
  { name: 'held', label: 'Held up', of: (r) => r.held || '', right: true, mono: true },
]
const chart = computed<Chart>(() => ({
  along: rows.value.map(name),
  lying: true,
  unit: 'cartons',
  series: [
    { name: 'Late', values: rows.value.map((r) => r.late), as: 'bar', colour: 'stop', stacked: true },
    { name: 'Held up', values: rows.value.map((r) => r.held), as: 'bar', colour: 'warn', stacked: true },
    {
      name: 'To be packed',
      values: rows.value.map((r) => r.cartons - r.late - r.held),
      as: 'bar',
      colour: 'lamp',
      stacked: true,
    },
  ],
}))
</script>

<template>
  <DayChart
    v-if="rows.length"
    data-day="pack"
    title="At the bench, by collection"
    :says="rows.map((r) => `${name(r)}: ${plural(r.cartons, 'carton')}`).join('; ')"
    :chart="chart"
    :columns="columns"
    :rows="rows"
    :row-key="(r) => r.carrier"
    :height="60 + 38 * rows.length"
  />
</template>
