<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { Chart } from '@/parts/chart/chart'
import type { Column } from '@/parts/columns'
import DayChart from '@/parts/DayChart.vue'
import { stateWords, when } from '@/parts/words'

/** A lot's life: how much of it we had, from its arrival until it is gone or expires. */
const props = defineProps<{ lot: Schemas['StockLotPage'] }>()
type Point = Schemas['StockLifePoint']
const columns: Column<Point>[] = [
  { name: 'at', label: 'From', of: (p) => when(p.at), mono: true },
  { name: 'kind', label: 'By', of: (p) => stateWords(p.kind) },
  { name: 'on_hand', label: 'On hand after', of: (p) => p.on_hand, right: true, mono: true },
]
const expires = computed(() => (props.lot.expires_on ? `${props.lot.expires_on}T12:00:00Z` : ''))
const day = 24 * 60 * 60 * 1000
const chart = computed<Chart>(() => {
  const now = new Date().toISOString()
  const last = props.lot.life.at(-1)
  const values = props.lot.life.map((p) => [p.at, Number(p.on_hand)] as [string, number])
  if (last) values.push([now, Number(last.on_hand)])
  // An expiry far ahead would press the life so far into a corner.
  const soon = expires.value && new Date(expires.value).getTime() - Date.now() < 120 * day
  if (soon) values.push([expires.value, Number(last?.on_hand ?? 0)])
  return {
    along: 'time',
    unit: 'on hand, all sites',
    series: [{ name: 'On hand', values, as: 'step', colour: 'act' }],
    marks: [
      { at: now, words: 'now' },
      ...(soon ? [{ at: expires.value, words: `expires ${props.lot.expires_on}` }] : []),
    ],
  }
})
const says = computed(
  () =>
    `${props.lot.life.length} changes, ${props.lot.life.at(-1)?.on_hand ?? 0} on hand now${
      props.lot.expires_on ? `, expires ${props.lot.expires_on}` : ''
    }.`,
)
</script>

<template>
  <DayChart
    v-if="lot.life.length"
    data-life
    title="Life of the lot"
    :says="says"
    :chart="chart"
    :columns="columns"
    :rows="lot.life"
    :row-key="(p) => p.at"
    :height="180"
  />
</template>
