<script setup lang="ts">
import { computed } from 'vue'
import type { Chart } from '@/parts/chart/chart'
import type { Column } from '@/parts/columns'
import DayChart from '@/parts/DayChart.vue'
import { plural } from '@/parts/words'

/** How long goods stand on the docks, and how many of them something keeps there. */
const props = defineProps<{ goods: { since: string; blocked: boolean }[] }>()
const hour = 60 * 60 * 1000
const bands = [
  { name: 'to 1 h', below: hour },
  { name: 'to 4 h', below: 4 * hour },
  { name: 'to 1 day', below: 24 * hour },
  { name: 'to 3 days', below: 72 * hour },
  { name: 'longer', below: Infinity },
]
interface Band {
  name: string
  lines: number
  blocked: number
}
const rows = computed<Band[]>(() => {
  const out = bands.map((b) => ({ name: b.name, lines: 0, blocked: 0 }))
  for (const g of props.goods) {
    const age = Date.now() - new Date(g.since).getTime()
    const band = out[bands.findIndex((b) => age < b.below)]!
    band.lines++
    if (g.blocked) band.blocked++
  }
  return out
})
const columns: Column<Band>[] = [
  { name: 'age', label: 'On the dock', of: (b) => b.name },
  { name: 'lines', label: 'Lines', of: (b) => b.lines, right: true, mono: true },
  { name: 'blocked', label: 'Blocked', of: (b) => b.blocked || '', right: true, mono: true },
]
const chart = computed<Chart>(() => ({
  along: rows.value.map((b) => b.name),
  unit: 'lines',
  series: [
    { name: 'Blocked', values: rows.value.map((b) => b.blocked), as: 'bar', colour: 'stop', stacked: true },
    {
      name: 'To put away',
      values: rows.value.map((b) => b.lines - b.blocked),
      as: 'bar',
      colour: 'lamp',
      stacked: true,
    },
  ],
}))
</script>

<template>
  <DayChart
    data-day="putaway"
    title="How long goods stand there"
    :says="rows.map((b) => `${plural(b.lines, 'line')} ${b.name}`).join(', ')"
    :chart="chart"
    :columns="columns"
    :rows="rows"
    :row-key="(b) => b.name"
    :height="180"
  />
</template>
