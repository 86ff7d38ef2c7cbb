<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { session } from '@/api/session'
import type { Column } from '@/parts/columns'
import { askedOf, fields, type HistoryFilter, queryOf } from '@/parts/history'
import HistoryFields from '@/parts/HistoryFields.vue'
import { useListAddress } from '@/parts/listAddress'
import ListPage from '@/parts/ListPage.vue'
import { useSaved } from '@/parts/saved'
import { useServerList } from '@/parts/serverList'
import { money, stateWords, when } from '@/parts/words'

/** The whole history of the site: every move, narrowed, sorted, saved, linked to and exported. */
type Line = Schemas['LedgerHistoryLine']
const place = (id: number) => `/stock/location/${id}`
const condition = (l: Line) =>
  l.from_condition === l.to_condition
    ? stateWords(l.to_condition)
    : `${stateWords(l.from_condition)}, then ${stateWords(l.to_condition)}`
const figure = { right: true, mono: true, width: 88 }
const columns: Column<Line>[] = [
  { name: 'at', sort: true, label: 'When', of: (l) => when(l.at), mono: true, width: 182 },
  { name: 'person', sort: true, label: 'Who', of: (l) => l.person, width: 120 },
  { name: 'kind', sort: true, label: 'What', of: (l) => stateWords(l.kind), width: 90 },
  {
    name: 'sku',
    sort: true,
    label: 'Item',
    of: (l) => l.sku,
    to: (l) => `/stock/item/${l.item_id}`,
    mono: true,
    width: 92,
  },
  { name: 'description', label: 'Description', of: (l) => l.description, width: 180 },
  { name: 'tracked', sort: true, label: 'Lot or serial', of: (l) => l.tracked, mono: true, width: 110 },
  { name: 'carton', label: 'Carton', of: (l) => (l.carton ? `…${l.carton.slice(-5)}` : ''), mono: true, width: 84 },
  { name: 'quantity', sort: true, label: 'Quantity', of: (l) => l.quantity, ...figure },
  { name: 'value', money: true, label: 'Value', of: (l) => money(l.value), ...figure },
  { name: 'from', sort: true, label: 'From', of: (l) => l.from, to: (l) => place(l.from_id), mono: true, width: 104 },
  { name: 'left', label: 'Left there', of: (l) => l.from_after, ...figure },
  { name: 'to', sort: true, label: 'To', of: (l) => l.to, to: (l) => place(l.to_id), mono: true, width: 104 },
  { name: 'then', label: 'There then', of: (l) => l.to_after, ...figure },
  { name: 'condition', label: 'Condition', of: condition, width: 130 },
  {
    name: 'document',
    sort: true,
    label: 'Document',
    of: (l) => l.document,
    to: (l) => (l.document ? `/go/${l.document}` : undefined),
    mono: true,
    width: 96,
  },
  {
    name: 'order',
    label: 'Order',
    of: (l) => l.orders?.join(' '),
    to: (l) => (l.orders?.length === 1 ? `/go/${l.orders[0]}` : undefined),
    mono: true,
    width: 90,
  },
  { name: 'note', sort: true, label: 'Note', of: (l) => l.note, width: 190 },
]
const usual = ['person', 'kind', 'sku', 'tracked', 'quantity', 'from', 'left', 'to', 'then', 'document', 'note']
const address = useListAddress(usual, { by: 'at', down: true })
const { at, narrow, sort, settings, apply } = address
const inAddress = () => Object.fromEntries(fields.map((f) => [f, at(f) ?? ''])) as HistoryFilter
const filter = ref<HistoryFilter>(inAddress())
/** What is typed goes into the address when it comes to rest; a link or a saved view comes from there. */
const rested = refDebounced(filter, 300)
watch(rested, (f) => narrow(Object.fromEntries(fields.map((name) => [name, f[name] || undefined]))))
const route = useRoute()
watch(
  () => route.query,
  () => {
    const now = inAddress()
    if (filter.value === rested.value && fields.some((f) => now[f] !== (filter.value[f] ?? ''))) filter.value = now
  },
)
const site = computed(() => session.site)
const asked = computed(() => askedOf(rested.value))
type By = NonNullable<operations['read-history']['parameters']['query']>['sort']
const list = useServerList<Line>(['stock', 'history', site, asked], sort, async (place) => {
  const page = await ask(
    api.GET('/api/v1/history', {
      params: { query: { site: site.value, ...asked.value, ...place, sort: place.sort as By } },
    }),
  )
  return { ...page, rows: page.lines }
})
const file = (format: string) => `/api/v1/history/export?site=${site.value}&format=${format}&${queryOf(rested.value)}`
const saved = useSaved('history', () => ({ ...(filter.value as Record<string, string>), ...settings() }), apply)
</script>

<template>
  <ListPage
    title="History"
    name="history"
    :columns="columns"
    :address="address"
    :saved="saved"
    :list="list"
    :to="(l) => (l.document ? `/go/${l.document}` : `/stock/item/${l.item_id}`)"
    :file="file"
  >
    <template #filters><HistoryFields v-model="filter" /></template>
    <template #empty>No move is like this. Fewer letters, or more days, may show more.</template>
  </ListPage>
</template>
