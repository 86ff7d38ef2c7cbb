<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { Asked } from '@/parts/asked'
import type { Chart } from '@/parts/chart/chart'
import type { Column } from '@/parts/columns'
import DayChart from '@/parts/DayChart.vue'
import QueryView from '@/parts/QueryView.vue'
import { plural, stateWords } from '@/parts/words'
import { keeps } from './holds'

/** How many open orders stand where, and what keeps them. */
const props = defineProps<{ counts: Asked<Schemas['OrdersCounts']> }>()
type Standing = Schemas['OrdersStanding']
const blocked: Record<Standing['blocked_by'], string> = { '': 'nothing in the way', ...keeps }
function name(s: Standing) {
  if (!s.blocked_by) return stateWords(s.state)
  return s.state === 'released' ? blocked[s.blocked_by] : `${stateWords(s.state)}, ${blocked[s.blocked_by]}`
}
const columns: Column<Standing>[] = [
  { name: 'state', label: 'State', of: (s) => stateWords(s.state) },
  { name: 'blocked', label: 'Blocked by', of: (s) => (s.blocked_by ? blocked[s.blocked_by] : '') },
  { name: 'orders', label: 'Orders', of: (s) => s.orders, right: true, mono: true },
  { name: 'late', label: 'Late', of: (s) => s.late || '', right: true, mono: true, late: (s) => s.late > 0 },
  { name: 'due', label: 'Wanted today', of: (s) => s.due || '', right: true, mono: true },
  { name: 'first', label: 'First of them', of: (s) => s.first.join(', '), mono: true },
]
const rows = computed(() => props.counts.data.value?.standing ?? [])
const chart = computed<Chart>(() => ({
  along: rows.value.map(name),
  lying: true,
  unit: 'orders',
  series: [
    { name: 'Late', values: rows.value.map((s) => s.late), as: 'bar', colour: 'stop', stacked: true },
    { name: 'Wanted today', values: rows.value.map((s) => s.due), as: 'bar', colour: 'lamp', stacked: true },
    {
      name: 'Later',
      values: rows.value.map((s) => s.orders - s.late - s.due),
      as: 'bar',
      colour: 'held',
      stacked: true,
    },
  ],
}))
const says = computed(() => rows.value.map((s) => `${plural(s.orders, 'order')} ${name(s)}`).join('; '))
</script>

<template>
  <QueryView :query="counts" :empty="(all) => !all.standing.length">
    <DayChart
      title="Open orders, by state and what keeps them"
      data-day="orders"
      :says="says"
      :chart="chart"
      :columns="columns"
      :rows="rows"
      :row-key="(s) => s.state + s.blocked_by"
      :height="60 + 34 * rows.length"
    />
    <p v-for="s in rows.filter((x) => x.blocked_by)" :key="s.state + s.blocked_by" class="small kept">
      {{ blocked[s.blocked_by] }}:
      <router-link v-for="n in s.first" :key="n" :to="`/go/${n}`" class="mono">{{ n }}</router-link>
      <router-link
        v-if="s.orders > s.first.length"
        :to="{ path: '/orders/list', query: { state: s.state, blocked_by: s.blocked_by } }"
        >and {{ s.orders - s.first.length }} more</router-link
      >
    </p>
    <template #empty>No order is open. Take one with New, or by an import.</template>
  </QueryView>
</template>

<style scoped>
.kept {
  margin: 4px 0;
}
.kept a {
  margin-left: 8px;
}
</style>
