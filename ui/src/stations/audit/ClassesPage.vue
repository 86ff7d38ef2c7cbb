<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import type { Chart } from '@/parts/chart/chart'
import type { Column } from '@/parts/columns'
import DayChart from '@/parts/DayChart.vue'
import QueryView from '@/parts/QueryView.vue'
import WholeList from '@/parts/WholeList.vue'
import { money } from '@/parts/words'

/** The items of the site, ranked by the value that left it in a year: the few that most of it moves in are counted most. */
const site = computed(() => session.site)
const ranking = useQuery({
  queryKey: ['audit', 'classes', site],
  queryFn: () => ask(api.GET('/api/v1/counts/classes', { params: { query: { site: site.value } } })),
})
type Row = Schemas['AuditClassed']
const rows = computed(() => ranking.data.value ?? [])
const columns: Column<Row>[] = [
  { name: 'class', label: 'Class', of: (r) => r.class, width: 80 },
  { name: 'sku', label: 'Item', of: (r) => r.sku, to: (r) => `/stock/item/${r.item_id}`, mono: true, width: 130 },
  { name: 'description', label: 'Description', of: (r) => r.description },
  {
    name: 'value',
    money: true,
    label: 'Left in a year',
    of: (r) => money(r.value),
    right: true,
    mono: true,
    width: 140,
  },
  { name: 'share', label: 'With all before it', of: (r) => `${r.share} %`, right: true, mono: true, width: 150 },
]
const counts = computed(() =>
  (['A', 'B', 'C'] as const).map((c) => `${rows.value.filter((r) => r.class === c).length} are ${c}`).join(', '),
)
const moving = computed(() => rows.value.filter((r) => Number(r.value) > 0))
const chart = computed<Chart>(() => ({
  along: moving.value.map((r) => r.sku),
  unit: '% of what left in a year, with all before it',
  series: (['A', 'B', 'C'] as const).map((c, i) => ({
    name: c,
    values: moving.value.map((r) => (r.class === c ? Number(r.share) : 0)),
    as: 'bar',
    colour: (['act', 'lamp', 'edge'] as const)[i]!,
    stacked: i > 0,
  })),
}))
</script>

<template>
  <div class="page">
    <h1>Classes</h1>
    <p class="mute">
      Ranked by the value that left the site in a year: {{ counts }}. Where one class ends and how often each is counted
      is set with the site in the catalog.
      <router-link to="/audit">To the list of today</router-link>
    </p>
    <QueryView :query="ranking">
      <DayChart title="The ranking" :says="counts" :chart="chart" :height="220" />
      <WholeList
        data-classes
        name="classes"
        label="The ranking"
        :columns="columns"
        :rows="rows"
        :row-key="(r) => r.item_id"
      />
    </QueryView>
  </div>
</template>
