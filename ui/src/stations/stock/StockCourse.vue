<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { Chart } from '@/parts/chart/chart'
import type { Column } from '@/parts/columns'
import DayChart from '@/parts/DayChart.vue'
import WholeList from '@/parts/WholeList.vue'

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
  { name: 'on', label: 'On', of: (l) => l.on, mono: true, width: 110 },
  {
    name: 'document',
    label: 'Document',
    of: (l) => l.document,
    to: (l) => (l.document ? `/go/${l.document.split(',')[0]}` : undefined),
    mono: true,
  },
  { name: 'what', label: 'For', of: (l) => l.what, width: 260 },
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
/** What is free at the end of each day; what has no day is at the end of what has one. */
const chart = computed<Chart>(() => {
  const now = new Date().toISOString()
  const ends = new Map<string, number>()
  let last = now
  for (const l of props.course.lines) {
    const noon = /^\d{4}-/.test(l.on) ? `${l.on}T12:00:00.000Z` : last
    last = noon > last ? noon : last
    ends.set(last, Number(l.after))
  }
  const points: [string, number][] = [[now, Number(props.course.start)], ...ends]
  const end = new Date(new Date(last).getTime() + 2 * 24 * 60 * 60 * 1000).toISOString()
  points.push([end, points.at(-1)![1]])
  return { along: 'time', unit: 'free', series: [{ name: 'Free', values: points, as: 'step', colour: 'act' }] }
})
const lowest = computed(() =>
  props.course.lines.reduce((low, l) => Math.min(low, Number(l.after)), Number(props.course.start)),
)
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
  <WholeList
    data-course
    name="course"
    label="Free stock to come"
    :columns="courseColumns"
    :rows="courseRows"
    :row-key="(l) => l.key"
  />
</template>
