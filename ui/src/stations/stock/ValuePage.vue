<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { session } from '@/api/session'
import { useAddress } from '@/parts/address'
import type { Chart } from '@/parts/chart/chart'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import CostEntries from '@/parts/CostEntries.vue'
import type { Column } from '@/parts/columns'
import DateEntry from '@/parts/DateEntry.vue'
import DayChart from '@/parts/DayChart.vue'
import FormField from '@/parts/FormField.vue'
import QueryView from '@/parts/QueryView.vue'
import SheetTable from '@/parts/SheetTable.vue'
import WholeList from '@/parts/WholeList.vue'
import { money, stateWords, today } from '@/parts/words'

/** What stock was worth on any date, cut into parts that add up, and what changed since another. */
type Asked = NonNullable<operations['read-value']['parameters']['query']>
const kept = useAddress()
const day = kept('on', today(0))
const since = kept('since', today(-7))
const method = kept<NonNullable<Asked['method']>>('method', 'average')
const by = kept<NonNullable<Asked['by']>>('by', 'zone')
const where = kept<'here' | 'all'>('where', 'here')
const methods = [
  { value: 'average' as const, label: 'moving average' },
  { value: 'fifo' as const, label: 'first in, first out' },
]
const ways: { value: NonNullable<Asked['by']>; label: string }[] = [
  { value: 'site', label: 'site' },
  { value: 'zone', label: 'zone' },
  { value: 'bin', label: 'bin' },
  { value: 'item', label: 'item' },
  { value: 'lot', label: 'lot' },
  { value: 'condition', label: 'condition' },
]
/** The end of a day, or now where it is today's. */
const endOf = (d: string) => (d >= today(0) ? undefined : new Date(`${d}T23:59:59.999`).toISOString())
const site = computed(() => (where.value === 'here' ? session.site : 0))
const asked = computed(() => ({ at: endOf(day.value), method: method.value, by: by.value, site: site.value }))
const sum = useQuery({
  queryKey: ['stock', 'value', asked],
  queryFn: () => ask(api.GET('/api/v1/value', { params: { query: asked.value } })),
})
const between = computed(() => ({
  from: endOf(since.value) ?? '',
  to: endOf(day.value),
  method: method.value,
  site: site.value,
}))
const changes = useQuery({
  queryKey: ['stock', 'value-changes', between],
  queryFn: () => ask(api.GET('/api/v1/value/changes', { params: { query: between.value } })),
  enabled: computed(() => !!between.value.from && since.value < day.value),
})
const recosts = useQuery({
  queryKey: ['stock', 'value-recosts', between],
  queryFn: () =>
    ask(
      api.GET('/api/v1/value/recosts', {
        params: { query: { from: between.value.from, to: between.value.to, limit: 500 } },
      }),
    ),
  enabled: computed(() => !!between.value.from && since.value < day.value),
})
type Row = Schemas['ValueRow']
const columns = computed<Column<Row>[]>(() => [
  {
    name: 'label',
    label: ways.find((w) => w.value === by.value)!.label.replace(/^./, (c) => c.toUpperCase()),
    of: (r) => (by.value === 'condition' ? stateWords(r.label) : r.label),
    to: (r) =>
      by.value === 'bin' && r.location_id
        ? `/stock/location/${r.location_id}`
        : r.item_id
          ? `/stock/item/${r.item_id}`
          : undefined,
  },
  { name: 'quantity', label: 'Quantity', of: (r) => r.quantity, right: true, mono: true, width: 120 },
  { name: 'cost', label: 'Cost each', of: (r) => r.unit_cost, right: true, mono: true, width: 120 },
  { name: 'value', label: 'Value', of: (r) => money(r.value), right: true, mono: true, width: 140 },
])
const did: Column<Schemas['ValueChange']>[] = [
  {
    name: 'kind',
    label: 'By',
    of: (c) => (c.kind === 'rounding' ? 'whole cents' : c.kind === 'recosted' ? 're-costed' : stateWords(c.kind)),
  },
  { name: 'moves', label: 'Moves', of: (c) => (c.moves ? String(c.moves) : ''), right: true, mono: true },
  { name: 'quantity', label: 'Quantity', of: (c) => (c.moves ? c.quantity : ''), right: true, mono: true },
  { name: 'value', label: 'Changed it by', of: (c) => money(c.value), right: true, mono: true },
]
const days = computed(() => changes.data.value?.days ?? [])
const chart = computed<Chart>(() => ({
  along: days.value.map((d) => d.day.slice(5)),
  unit: 'value at the end of the day',
  series: [{ name: 'Value', values: days.value.map((d) => Number(d.value)), as: 'bar', colour: 'act' }],
}))
const daily: Column<Schemas['ValueDay']>[] = [
  { name: 'day', label: 'Day', of: (d) => d.day, mono: true },
  { name: 'value', label: 'Value', of: (d) => money(d.value), right: true, mono: true },
]
const file = computed(() => {
  const q = new URLSearchParams({ method: method.value, by: by.value, site: String(site.value) })
  if (asked.value.at) q.set('at', asked.value.at)
  return `/api/v1/value/export?${q.toString()}`
})
</script>

<template>
  <div class="page">
    <h1>What stock is worth</h1>
    <div class="fields asked">
      <FormField label="At the end of"><DateEntry v-model="day" :width="156" /></FormField>
      <FormField label="Valued by" tip="IAS 2 permits both. What goes on to another site takes its cost along."
        ><ChoiceEntry v-model="method" :options="methods" :width="170"
      /></FormField>
      <FormField label="Cut by"><ChoiceEntry v-model="by" :options="ways" :width="130" /></FormField>
      <FormField label="Of"
        ><ChoiceEntry
          v-model="where"
          :options="[
            { value: 'here', label: 'this site' },
            { value: 'all', label: 'all sites and transit' },
          ]"
          :width="180"
      /></FormField>
      <a class="btn" :href="`${file}&format=xlsx`">XLSX</a>
    </div>
    <QueryView :query="sum">
      <template #default="{ data }">
        <p class="total" data-total>
          <b class="mono">{{ money(data.value) }}</b>
        </p>
        <WholeList
          :key="by"
          data-value
          :name="`value-${by}`"
          label="What stock is worth"
          :columns="columns"
          :rows="data.rows"
          :row-key="(r) => r.label"
          style="--list-height: 40vh"
        />
      </template>
    </QueryView>
    <h2>
      <span>What changed, by {{ methods.find((m) => m.value === method)!.label }}</span>
    </h2>
    <div class="fields asked">
      <FormField label="Since the end of"><DateEntry v-model="since" :width="156" /></FormField>
    </div>
    <p v-if="since >= day" class="note w">Choose a day before {{ day }}.</p>
    <QueryView v-else :query="changes">
      <template #default="{ data }">
        <p data-changed>
          <b class="mono">{{ money(data.before) }}</b> then, <b class="mono">{{ money(data.after) }}</b> at the end of
          {{ day }}.
        </p>
        <SheetTable label="What changed" :columns="did" :rows="data.rows" :row-key="(c) => c.kind"
          ><template #empty>Nothing came and nothing went.</template></SheetTable
        >
        <DayChart
          title="Day by day"
          :says="days.map((d) => `${d.day}: ${d.value}`).join('; ')"
          :chart="chart"
          :columns="daily"
          :rows="days"
          :row-key="(d) => d.day"
          :height="180"
        />
        <template v-if="recosts.data.value?.length">
          <h2><span>Costs that invoices changed, at all sites</span></h2>
          <CostEntries :entries="recosts.data.value" label="Costs that invoices changed" data-recosts />
        </template>
      </template>
    </QueryView>
  </div>
</template>

<style scoped>
.asked {
  margin: 12px 0;
  align-items: end;
}
.total {
  font-size: 18px;
  margin: 8px 0 12px;
}
</style>
