<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { session } from '@/api/session'
import { useAddress } from '@/parts/address'
import type { Chart } from '@/parts/chart/chart'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import type { Column } from '@/parts/columns'
import DateEntry from '@/parts/DateEntry.vue'
import DayChart from '@/parts/DayChart.vue'
import FormField from '@/parts/FormField.vue'
import QueryView from '@/parts/QueryView.vue'
import WholeList from '@/parts/WholeList.vue'
import { stateWords, today } from '@/parts/words'

/** How right the books were found, part by part, with the bounds of a sample; and which moves made them wrong. */
type Asked = NonNullable<operations['read-accuracy']['parameters']['query']>
const kept = useAddress()
const by = kept<NonNullable<Asked['by']>>('by', 'week')
const where = kept<'here' | 'all'>('where', 'here')
const from = kept('from', today(-180))
const to = kept('to', today(0))
const measure = kept<'bins' | 'value'>('of', 'bins')
const asked = computed(() => ({
  site: where.value === 'here' ? session.site : 0,
  by: by.value,
  from: from.value,
  to: to.value,
}))
const report = useQuery({
  queryKey: ['audit', 'accuracy', asked],
  queryFn: () => ask(api.GET('/api/v1/counts/accuracy', { params: { query: asked.value } })),
})
const ways: { value: NonNullable<Asked['by']>; label: string }[] = [
  { value: 'week', label: 'Week' },
  { value: 'month', label: 'Month' },
  { value: 'zone', label: 'Zone' },
  { value: 'class', label: 'Class' },
  { value: 'person', label: 'Who put away' },
  { value: 'site', label: 'Site' },
]
type Part = Schemas['CountingAccuracy']
const percent = (share: number) => `${(100 * share).toFixed(1)} %`
const bounds = (b: Schemas['CountingBounded']) => `${(100 * b.low).toFixed(1)} and ${(100 * b.high).toFixed(1)}`
const columns = computed<Column<Part>[]>(() => [
  { name: 'group', label: ways.find((w) => w.value === by.value)!.label, of: (p) => p.group, width: 150 },
  { name: 'counted', label: 'Counted', of: (p) => p.counted, right: true, mono: true, width: 90 },
  { name: 'right', label: 'Right', of: (p) => p.right, right: true, mono: true, width: 80 },
  { name: 'bins', label: 'Bins right', of: (p) => percent(p.bins.share), right: true, mono: true, width: 100 },
  { name: 'binBounds', label: 'Lies between, %', of: (p) => bounds(p.bins), right: true, mono: true, width: 140 },
  { name: 'value', label: 'Value right', of: (p) => percent(p.value.share), right: true, mono: true, width: 100 },
  { name: 'valueBounds', label: 'Lies between, %', of: (p) => bounds(p.value), right: true, mono: true, width: 140 },
  { name: 'off', label: 'Off, worth', of: (p) => p.off.toFixed(2), right: true, mono: true, width: 110 },
])
type Cause = Schemas['CountingCause']
const causes: Column<Cause>[] = [
  { name: 'kind', label: 'Kind of move', of: (c) => stateWords(c.kind) },
  { name: 'moves', label: 'Moves before counts', of: (c) => c.moves, right: true, mono: true },
  { name: 'errors', label: 'Errors laid to it', of: (c) => c.errors.toFixed(1), right: true, mono: true },
  { name: 'rate', label: 'In 1000 moves', of: (c) => (1000 * c.rate).toFixed(1), right: true, mono: true },
]
const parts = computed(() => report.data.value?.groups ?? [])
const all = computed(() => report.data.value?.all[0])
const says = computed(() =>
  all.value
    ? `${percent(all.value[measure.value].share)} of ${measure.value === 'bins' ? 'bins were' : 'the value was'} right. Of all there is, counted or not, between ${bounds(all.value[measure.value])} % is, 19 times in 20`
    : 'nothing was counted',
)
const chart = computed<Chart>(() => ({
  along: parts.value.map((p) => p.group),
  unit: '% right, and between what it lies',
  series: [
    { name: 'least', values: parts.value.map((p) => 100 * p[measure.value].low), as: 'line', colour: 'edge' },
    { name: 'found right', values: parts.value.map((p) => 100 * p[measure.value].share), as: 'bar', colour: 'act' },
    { name: 'most', values: parts.value.map((p) => 100 * p[measure.value].high), as: 'line', colour: 'lamp' },
  ],
}))
const file = computed(
  () =>
    `/api/v1/counts/accuracy/export?${new URLSearchParams(Object.entries(asked.value).map(([k, v]) => [k, String(v)]))}`,
)
</script>

<template>
  <div class="page">
    <h1>Accuracy</h1>
    <p class="mute">
      How right the books were found when bins were counted, before anything was settled. What was counted is a sample:
      for all bins the share lies between the bounds 19 times in 20, if the sample is fair. Bins counted because an
      error was likely make it look worse than it is. <router-link to="/audit">To the list of today</router-link>
    </p>
    <div class="fields">
      <FormField label="By"><ChoiceEntry v-model="by" :options="ways" :width="140" /></FormField>
      <FormField label="Of"
        ><ChoiceEntry
          v-model="measure"
          :options="[
            { value: 'bins', label: 'bins' },
            { value: 'value', label: 'value' },
          ]"
          :width="100"
      /></FormField>
      <FormField label="Where"
        ><ChoiceEntry
          v-model="where"
          :options="[
            { value: 'here', label: 'this site' },
            { value: 'all', label: 'all sites' },
          ]"
          :width="120"
      /></FormField>
      <FormField label="From" field="from"><DateEntry v-model="from" /></FormField>
      <FormField label="To" field="to"><DateEntry v-model="to" /></FormField>
      <a class="btn" :href="file + '&format=xlsx'" download>XLSX</a>
    </div>
    <QueryView :query="report" :empty="() => !all">
      <p data-accuracy>
        Of <b class="mono">{{ all?.counted }}</b> counts <b class="mono">{{ all?.right }}</b> were right: {{ says }}.
        <template v-if="report.data.value?.allow.A"
          >A count may differ by {{ report.data.value.allow.A }} % of A, {{ report.data.value.allow.B }} % of B and
          {{ report.data.value.allow.C }} % of C before another person counts again.</template
        >
      </p>
      <DayChart title="Found right" :says="says" :chart="chart" :height="230" />
      <WholeList
        name="accuracy"
        label="Accuracy"
        :columns="columns"
        :rows="parts"
        :row-key="(p) => p.group"
        style="--list-height: 30vh"
      />
      <h2>What made them wrong</h2>
      <p class="mute small">
        A count tells that something went wrong since the one before, and not which move it was: errors are laid to the
        kinds of moves by how often each came before a wrong count.
      </p>
      <WholeList
        name="causes"
        label="Causes"
        :columns="causes"
        :rows="report.data.value?.causes ?? []"
        :row-key="(c) => c.kind"
      />
      <template #empty>Nothing was counted here between these days. Each count tells how right the books are.</template>
    </QueryView>
  </div>
</template>
