<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { Chart } from '@/parts/chart/chart'
import type { Column } from '@/parts/columns'
import DayChart from '@/parts/DayChart.vue'
import SheetTable from '@/parts/SheetTable.vue'

/** What will be free of an item, and when: as a line over time, and each thing that comes or goes. */
const props = defineProps<{ course: Schemas['AvailabilityCourse'] }>()
interface CourseRow {
  key: string
  on: string
  document: string
  what: string
  moves: string
  after: string
}
/** The start of what will be free, and each thing that comes or goes after it. */
const courseRows = computed<CourseRow[]>(() => {
  const c = props.course
  const less = c.reserved === '0' ? '' : `, less ${c.reserved} reserved`
  const now: CourseRow = {
    key: 'now',
    on: 'now',
    document: '',
    what: `${c.good} fit to go${less}`,
    moves: '',
    after: c.start,
  }
  return [
    now,
    ...c.lines.map((l, i) => ({
      key: String(i),
      on: l.on,
      document: l.document ?? '',
      what: l.reserved === '0' ? (l.party ?? '') : `${l.party}, ${l.reserved} reserved`,
      moves: l.moves.startsWith('-') || l.moves === '0' ? l.moves : `+${l.moves}`,
      after: l.after,
    })),
  ]
})
const courseColumns: Column<CourseRow>[] = [
  { name: 'on', label: 'On', of: (l) => l.on, mono: true },
  {
    name: 'document',
    label: 'Document',
    of: (l) => l.document,
    to: (l) => (l.document ? `/go/${l.document.split(',')[0]}` : undefined),
    mono: true,
  },
  { name: 'what', label: 'For', of: (l) => l.what },
  { name: 'moves', label: 'In or out', of: (l) => l.moves, right: true, mono: true },
  {
    name: 'after',
    label: 'Free after',
    of: (l) => l.after,
    right: true,
    mono: true,
    late: (l) => l.after.startsWith('-'),
  },
]
/** What has no day is at the end of what has one. */
const chart = computed<Chart>(() => {
  const points: [string, number][] = [[new Date().toISOString(), Number(props.course.start)]]
  for (const l of props.course.lines) {
    const at = /^\d{4}-/.test(l.on) ? new Date(`${l.on}T12:00:00Z`) : new Date()
    const last = points.at(-1)![0]
    points.push([at.toISOString() < last ? last : at.toISOString(), Number(l.after)])
  }
  const end = new Date(new Date(points.at(-1)![0]).getTime() + 2 * 24 * 60 * 60 * 1000).toISOString()
  points.push([end, points.at(-1)![1]])
  return { along: 'time', unit: 'free', series: [{ name: 'Free', values: points, as: 'step', colour: 'act' }] }
})
const lowest = computed(() => Math.min(...chart.value.series[0]!.values.map((v) => Number((v as [string, number])[1]))))
</script>

<template>
  <DayChart
    v-if="course.lines.length"
    title="Free stock to come"
    :says="`${course.start} free now, ${lowest} at the lowest of what is known.`"
    :chart="chart"
    :height="170"
  />
  <h2 v-else style="margin-top: 18px"><span>Free stock to come</span></h2>
  <SheetTable
    data-course
    label="Free stock to come"
    :columns="courseColumns"
    :rows="courseRows"
    :row-key="(l) => l.key"
  />
</template>
