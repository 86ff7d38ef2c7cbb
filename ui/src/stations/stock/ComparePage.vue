<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { useAddress } from '@/parts/address'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { instantOf } from '@/parts/clock'
import type { Column } from '@/parts/columns'
import DateEntry from '@/parts/DateEntry.vue'
import FormField from '@/parts/FormField.vue'
import QueryView from '@/parts/QueryView.vue'
import TimeEntry from '@/parts/TimeEntry.vue'
import WholeList from '@/parts/WholeList.vue'
import { plural, stateWords, today } from '@/parts/words'

/** Two instants of the site, a location or an item beside each other: what differs, and which moves made it so. */
const route = useRoute()
const router = useRouter()
const kept = useAddress()
const fromDay = kept<string>('from', today(-7))
const fromTime = kept<string>('at', '08:00')
const toDay = kept<string>('to', today(0))
const toTime = kept<string>('until', 'now')
const by = kept<'item' | 'bin' | 'goods'>('by', 'item')
const location = computed(() => Number(route.query.location) || 0)
const item = computed(() => Number(route.query.item) || 0)
const named = useQuery({
  queryKey: ['stock', 'compare', 'name', location, item],
  queryFn: async () => {
    if (location.value) {
      const path = { id: location.value }
      return (await ask(api.GET('/api/v1/locations/{id}', { params: { path } }))).location.code
    }
    const to = { path: { id: item.value }, query: { site: session.site } }
    return (await ask(api.GET('/api/v1/items/{id}', { params: to }))).item.sku
  },
  enabled: computed(() => location.value > 0 || item.value > 0),
})
const asked = computed(() => ({
  site: location.value ? 0 : session.site,
  location: location.value,
  item: item.value,
  by: by.value,
  from: instantOf(fromDay.value, fromTime.value) ?? '',
  to:
    toTime.value === 'now' && toDay.value === today(0)
      ? undefined
      : instantOf(toDay.value, toTime.value === 'now' ? '23:59' : toTime.value),
}))
const compared = useQuery({
  queryKey: ['stock', 'compare', asked],
  queryFn: () => ask(api.GET('/api/v1/stock/compare', { params: { query: asked.value } })),
  enabled: computed(() => !!asked.value.from),
})
const file = computed(() => {
  const query = Object.entries(asked.value).flatMap(([k, v]) => (v ? [[k, String(v)] as [string, string]] : []))
  return `/api/v1/stock/compare/export?${new URLSearchParams(query)}`
})
type Row = Schemas['StockDiffered']
const rows = computed(() => compared.data.value?.rows ?? [])
const signed = (q: string) => (q.startsWith('-') || q === '0' ? q : `+${q}`)
const moves = (r: Row) =>
  r.by
    .filter((k) => Number(k.quantity))
    .map((k) => `${stateWords(k.kind)} ${signed(k.quantity)} (${k.moves})`)
    .join(', ')
/** The very moves, in the history. */
const history = (r: Row) =>
  `/stock/history?${new URLSearchParams({
    ...(r.sku ? { item: r.sku } : {}),
    ...(r.location ? { bin: r.location } : {}),
    from: fromDay.value,
    from_time: fromTime.value,
    to: toDay.value,
    ...(toTime.value === 'now' ? {} : { to_time: toTime.value }),
  })}`
const figure = { right: true, mono: true, width: 100 }
const columns = computed<Column<Row>[]>(() => [
  ...(by.value === 'bin'
    ? []
    : [
        {
          name: 'sku',
          label: 'Item',
          of: (r: Row) => r.sku,
          to: (r: Row) => `/stock/item/${r.item_id}`,
          mono: true,
          width: 110,
        },
      ]),
  ...(by.value === 'item'
    ? []
    : [
        {
          name: 'bin',
          label: 'Bin',
          of: (r: Row) => r.location,
          to: (r: Row) => `/stock/location/${r.location_id}`,
          mono: true,
          width: 120,
        },
      ]),
  ...(by.value === 'goods'
    ? [
        { name: 'lot', label: 'Lot', of: (r: Row) => r.lot, mono: true, width: 120 },
        { name: 'condition', label: 'Condition', of: (r: Row) => stateWords(r.condition), width: 100 },
      ]
    : []),
  { name: 'before', label: 'Then', of: (r) => r.before, ...figure },
  { name: 'after', label: 'Later', of: (r) => r.after, ...figure },
  { name: 'changed', label: 'Changed', of: (r) => signed(r.changed), ...figure },
  { name: 'by', label: 'By which moves, and how many', of: moves, width: 560 },
  { name: 'why', label: '', of: () => 'the moves', to: history, width: 100 },
])
const nothing = computed(() => router.resolve('/stock/compare').href)
</script>

<template>
  <div class="page">
    <h1>
      Two instants of
      {{ location || item ? (named.data.value ?? '') : 'the site' }}
    </h1>
    <p class="mute">
      What stood there at each, what differs, and which moves made it so. What did not move is not listed.
      <a v-if="location || item" :href="nothing">Compare the whole site</a>
    </p>
    <div class="fields">
      <FormField label="Then, on"><DateEntry v-model="fromDay" /></FormField>
      <FormField label="at"><TimeEntry v-model="fromTime" /></FormField>
      <FormField label="Later, on"><DateEntry v-model="toDay" /></FormField>
      <FormField label="until" tip="Now, where it is empty."
        ><TimeEntry :model-value="toTime === 'now' ? '' : toTime" @update:model-value="(t) => (toTime = t || 'now')"
      /></FormField>
      <FormField label="Told by"
        ><ChoiceEntry
          v-model="by"
          :options="[
            { value: 'item', label: 'item' },
            { value: 'bin', label: 'bin' },
            { value: 'goods', label: 'goods in a bin' },
          ]"
          :width="150"
      /></FormField>
      <a class="btn" :href="`${file}&format=xlsx`" download>XLSX</a>
    </div>
    <QueryView :query="compared" :empty="() => !rows.length">
      <p data-compared>{{ plural(rows.length, 'row') }} moved between the two.</p>
      <WholeList
        name="compared"
        label="What differs"
        style="--list-height: 60vh"
        :columns="columns"
        :rows="rows"
        :row-key="(r) => `${r.item_id}/${r.location_id}/${r.lot}/${r.condition}`"
      />
      <template #empty>Nothing moved there between the two instants.</template>
    </QueryView>
  </div>
</template>
