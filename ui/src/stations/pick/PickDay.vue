<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import type { Chart } from '@/parts/chart/chart'
import type { Column } from '@/parts/columns'
import DayChart from '@/parts/DayChart.vue'
import HoursChart from '@/parts/HoursChart.vue'
import QueryView from '@/parts/QueryView.vue'
import TodayForecast from '@/parts/TodayForecast.vue'
import { plural, when } from '@/parts/words'

/** The work that is left of today against the collections to come, and picks by the hour. */
const site = computed(() => session.site)
const day = useQuery({
  queryKey: ['pick', 'day', site],
  queryFn: () => ask(api.GET('/api/v1/pick/day', { params: { query: { site: site.value } } })),
})
type Left = Schemas['PickLeftAt']
const left: Column<Left>[] = [
  { name: 'at', label: 'At', of: (x) => when(x.at), mono: true },
  { name: 'minutes', label: 'Minutes of work left', of: (x) => x.minutes, right: true, mono: true },
]
const leftChart = computed<Chart>(() => ({
  along: 'time',
  unit: 'minutes of work',
  series: [
    {
      name: 'Left, if those who walk now go on',
      values: [
        ...(day.data.value?.left ?? []).map((x) => [x.at, Number(x.minutes)] as [string, number]),
        ...(day.data.value?.collections ?? []).slice(-1).map((c) => [c.at, 0] as [string, number]),
      ],
      as: 'line',
      colour: 'act',
    },
  ],
  marks: (day.data.value?.collections ?? []).map((c) => ({
    at: c.at,
    words: `${when(c.at)} ${c.carrier.split(' ')[0]}`,
  })),
}))
const words = computed(() => {
  const d = day.data.value
  if (!d) return ''
  const work = `${d.minutes} minutes of work for ${plural(d.orders, 'order')} and ${plural(d.rounds, 'round')}`
  const walking =
    d.walkers === 1 ? '1 person walks' : d.walkers ? `${d.walkers} people walk` : 'nobody walks, so one is counted on'
  return `${work}; ${walking}; picked about ${when(d.ends_at)}.`
})
const picked = computed(() => (day.data.value?.hours ?? []).reduce((n, h) => n + h.today, 0))
</script>

<template>
  <QueryView :query="day">
    <TodayForecast />
    <p class="mute" data-day="pick">{{ words }}</p>
    <DayChart
      v-if="Number(day.data.value?.minutes) || day.data.value?.collections.length"
      title="Work left today, against the collections"
      :says="words"
      :chart="leftChart"
      :columns="left"
      :rows="day.data.value?.left ?? []"
      :row-key="(x) => x.at"
      :height="190"
    />
    <HoursChart
      title="Picks, by hour"
      :says="`${plural(picked, 'pick')} made today, beside what is usual at each hour.`"
      unit="picks an hour"
      :hours="day.data.value?.hours ?? []"
    />
  </QueryView>
</template>
