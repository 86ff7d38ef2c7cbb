<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { session } from '@/api/session'
import type { Column, Sort } from '@/parts/columns'
import PagedList from '@/parts/PagedList.vue'
import QueryView from '@/parts/QueryView.vue'
import { useServerList } from '@/parts/serverList'
import { stateWords } from '@/parts/words'

/** What lay where at an instant: of a location, an item or a lot, or at all of the site. */
type Stood = Schemas['StockStood']
type Asked = operations['list-past-holdings']['parameters']['query']
const props = defineProps<{ of: Asked['of']; id: number; at: string }>()
const asked = computed(() => ({ of: props.of, id: props.id, site: session.site, at: props.at }))
const sort = ref<Sort | undefined>({ by: 'location', down: false })
const list = useServerList<Stood>(['stock', 'stood', asked], sort, (page) =>
  ask(
    api.GET('/api/v1/holdings/past', {
      params: { query: { ...asked.value, ...page, sort: page.sort as Asked['sort'] } },
    }),
  ),
)
const { query, rows } = list
const file = computed(
  () =>
    `/api/v1/holdings/past/export?${new URLSearchParams({ of: props.of, id: String(props.id), site: String(session.site), at: props.at })}`,
)
/** Another thing at the same instant. */
const then = (path: string) => `${path}?at=${encodeURIComponent(props.at)}`
const figure = { right: true, mono: true, sort: true, width: 92 }
const columns = computed<Column<Stood>[]>(() =>
  (
    [
      {
        name: 'location',
        sort: true,
        label: 'Location',
        of: (s) => s.location,
        to: (s) => then(`/stock/location/${s.location_id}`),
        mono: true,
        width: 110,
      },
      {
        name: 'sku',
        sort: true,
        label: 'Item',
        of: (s) => s.sku,
        to: (s) => then(`/stock/item/${s.item_id}`),
        mono: true,
        width: 100,
      },
      { name: 'description', sort: true, label: 'Description', of: (s) => s.description, width: 220 },
      {
        name: 'lot',
        sort: true,
        label: 'Lot',
        of: (s) => s.lot,
        to: (s) => (s.lot_id ? then(`/stock/lot/${s.lot_id}`) : undefined),
        mono: true,
        width: 130,
      },
      { name: 'expires', sort: true, label: 'Expires', of: (s) => s.expires_on, mono: true, width: 110 },
      { name: 'condition', sort: true, label: 'Condition', of: (s) => stateWords(s.condition), width: 100 },
      { name: 'quantity', label: 'Quantity', of: (s) => s.quantity, ...figure },
      { name: 'on_rounds', label: 'On rounds', of: (s) => (Number(s.on_rounds) ? s.on_rounds : ''), ...figure },
    ] satisfies Column<Stood>[]
  ).filter((c) => (props.of === 'item' ? !['sku', 'description'].includes(c.name) : c.name !== props.of)),
)
/** Figures of one item alone can be added up. */
const one = computed(() => ['item', 'lot'].includes(props.of) || new Set(rows.value.map((s) => s.item_id)).size === 1)
</script>

<template>
  <QueryView :query="query" :empty="() => !rows.length">
    <PagedList
      :key="of"
      v-model:sort="sort"
      data-stood
      :name="`stood-${of}`"
      label="What lay here then"
      style="--list-height: 60vh"
      :sums="one ? undefined : {}"
      :columns="columns"
      :list="list"
      :file="file"
      :row-key="(s) => `${s.location_id}/${s.item_id}/${s.lot_id}/${s.condition}`"
    />
    <template #empty>Nothing lay here then.</template>
  </QueryView>
  <p class="mute small">
    Over all cartons and units. What rounds still had to pick of it is known; what was reserved beside that is not kept.
  </p>
</template>
