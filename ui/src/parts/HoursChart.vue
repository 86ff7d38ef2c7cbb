<script setup lang="ts">
import { computed } from 'vue'
import type { Chart } from './chart/chart'
import type { Column } from './columns'
import DayChart from './DayChart.vue'

/** What was done by the hour of the day, beside what is usual at each. */
interface Hour {
  hour: number
  today: number
  usual: string
}
const props = defineProps<{ title: string; says: string; unit: string; hours: Hour[] }>()
const name = (h: Hour) => `${String(h.hour).padStart(2, '0')}:00`
const columns: Column<Hour>[] = [
  { name: 'hour', label: 'Hour from', of: name, mono: true },
  { name: 'today', label: 'Today', of: (h) => h.today, right: true, mono: true },
  { name: 'usual', label: 'Usual', of: (h) => h.usual, right: true, mono: true },
]
const chart = computed<Chart>(() => ({
  along: props.hours.map(name),
  unit: props.unit,
  series: [
    { name: 'Today', values: props.hours.map((h) => h.today), as: 'bar', colour: 'act' },
    { name: 'Usual, mean of 14 days', values: props.hours.map((h) => Number(h.usual)), as: 'line', colour: 'lamp' },
  ],
}))
</script>

<template>
  <DayChart
    v-if="hours.length"
    :title="title"
    :says="says"
    :chart="chart"
    :columns="columns"
    :rows="hours"
    :row-key="(h) => h.hour"
    :height="190"
  />
</template>
