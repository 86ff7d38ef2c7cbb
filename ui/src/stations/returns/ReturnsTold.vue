<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { session } from '@/api/session'
import type { Chart } from '@/parts/chart/chart'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import type { Column } from '@/parts/columns'
import DayChart from '@/parts/DayChart.vue'
import FormField from '@/parts/FormField.vue'
import QueryView from '@/parts/QueryView.vue'
import SheetTable from '@/parts/SheetTable.vue'

/** What returns tell: how much came back of what was shipped, by what they have in common, and week by week. */
type By = NonNullable<NonNullable<operations['tell-returns']['parameters']['query']>['by']>
const by = ref<By>('item')
const days = ref(90)
const ways: { value: By; label: string }[] = [
  { value: 'item', label: 'item' },
  { value: 'reason', label: 'reason' },
  { value: 'lot', label: "supplier's lot" },
  { value: 'customer', label: 'customer' },
]
const times = [30, 90, 365].map((value) => ({ value, label: `${value} days` }))
const asked = computed(() => ({ site: session.site, by: by.value, days: days.value }))
const told = useQuery({
  queryKey: ['returns', 'told', asked],
  queryFn: () => ask(api.GET('/api/v1/returns-told', { params: { query: asked.value } })),
})
const columns = computed<Column<Schemas['ReturnsShare']>[]>(() => [
  {
    name: 'label',
    label: ways.find((w) => w.value === by.value)!.label.replace(/^./, (c) => c.toUpperCase()),
    of: (r) => r.label,
  },
  { name: 'returned', label: 'Came back', of: (r) => r.returned, right: true, mono: true },
  {
    name: 'shipped',
    label: by.value === 'reason' ? 'Of all shipped' : 'Of shipped',
    of: (r) => r.shipped,
    right: true,
    mono: true,
  },
  { name: 'pct', label: 'Share', of: (r) => `${r.pct} %`, right: true, mono: true },
])
const weeks = computed(() => told.data.value?.weeks ?? [])
const weekly: Column<Schemas['ReturnsWeek']>[] = [
  { name: 'monday', label: 'Week from', of: (w) => w.monday, mono: true },
  { name: 'returned', label: 'Came back', of: (w) => w.returned, right: true, mono: true },
  { name: 'shipped', label: 'Shipped', of: (w) => w.shipped, right: true, mono: true },
  { name: 'pct', label: 'Share', of: (w) => `${w.pct} %`, right: true, mono: true },
]
const chart = computed<Chart>(() => ({
  along: weeks.value.map((w) => w.monday.slice(5)),
  unit: '% of what was shipped',
  series: [{ name: 'Came back', values: weeks.value.map((w) => Number(w.pct)), as: 'bar', colour: 'lamp' }],
}))
const file = computed(
  () => `/api/v1/returns-told/export?site=${session.site}&by=${by.value}&days=${days.value}&format=csv`,
)
</script>

<template>
  <section data-told aria-label="What returns tell">
    <h2><span>What returns tell</span></h2>
    <div class="fields">
      <FormField label="By"><ChoiceEntry v-model="by" :options="ways" :width="150" /></FormField>
      <FormField label="Of the last"><ChoiceEntry v-model="days" :options="times" :width="120" /></FormField>
      <a class="btn" :href="file" download>CSV</a>
    </div>
    <QueryView :query="told">
      <p v-if="!told.data.value?.rows.length" class="empty">In this time nothing came back that has this in common.</p>
      <template v-else>
        <SheetTable label="What came back" :columns="columns" :rows="told.data.value.rows" :row-key="(r) => r.label" />
        <DayChart
          title="Week by week, in per cent of what was shipped"
          :says="weeks.map((w) => `week from ${w.monday}: ${w.pct} %`).join('; ')"
          :chart="chart"
          :columns="weekly"
          :rows="weeks"
          :row-key="(w) => w.monday"
          :height="180"
        />
      </template>
    </QueryView>
  </section>
</template>

<style scoped>
section {
  margin-top: 22px;
}
</style>
