<script setup lang="ts">
import { useInfiniteQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import type { Column, Sort } from './columns'
import { askedOf, type Field, type HistoryFilter, queryOf } from './history'
import HistoryFields from './HistoryFields.vue'
import ListWithTools from './ListWithTools.vue'
import QueryView from './QueryView.vue'
import { stateWords, when } from './words'

/**
 * One look for history everywhere, newest first or from the oldest on: in the order of its running balances. By other
 * columns the history is sorted.
 */
const filter = ref<HistoryFilter>({})
const rested = refDebounced(filter, 300)
const asked = computed(() => askedOf(rested.value))
const narrowed = computed(() => queryOf(rested.value) !== '')
const props = defineProps<{ of: 'location' | 'item' | 'lot' | 'serial' | 'carton'; id: number }>()

const sort = ref<Sort | undefined>({ by: 'at', down: true })
const oldest = computed(() => sort.value?.down === false || undefined)
const trail = useInfiniteQuery({
  queryKey: [
    'stock',
    'trail',
    computed(() => props.of),
    computed(() => props.id),
    computed(() => session.site),
    asked,
    oldest,
  ],
  queryFn: ({ pageParam }) => {
    const params = {
      path: { id: props.id },
      query: { site: session.site, ...asked.value, oldest: oldest.value, after: pageParam, limit: 40 },
    }
    switch (props.of) {
      case 'location':
        return ask(api.GET('/api/v1/locations/{id}/trail', { params }))
      case 'item':
        return ask(api.GET('/api/v1/items/{id}/trail', { params }))
      case 'lot':
        return ask(api.GET('/api/v1/lots/{id}/trail', { params }))
      case 'serial':
        return ask(api.GET('/api/v1/serials/{id}/trail', { params }))
      default:
        return ask(api.GET('/api/v1/cartons/{id}/trail', { params }))
    }
  },
  initialPageParam: '',
  getNextPageParam: (page) => page.next || undefined,
})
const lines = computed(() => trail.data.value?.pages.flatMap((p) => p.lines) ?? [])
type Line = Schemas['LedgerTrailLine']
const columns = computed<Column<Line>[]>(() => {
  const all: (Column<Line> & { skip?: boolean })[] = [
    { name: 'at', sort: true, label: 'When', of: (l) => when(l.at), mono: true, width: 182 },
    { name: 'person', label: 'Who', of: (l) => l.person, width: 120 },
    { name: 'kind', label: 'What', of: (l) => stateWords(l.kind), width: 90 },
    { name: 'sku', label: 'Item', of: (l) => l.sku, mono: true, width: 100, skip: isOf('item', 'serial') },
    {
      name: 'lot',
      label: 'Lot or serial',
      of: (l) => l.lot ?? l.serial ?? '',
      mono: true,
      width: 110,
      skip: isOf('lot', 'serial'),
    },
    {
      name: 'location',
      label: 'Location',
      of: (l) => l.location,
      to: (l) => `/stock/location/${l.location_id}`,
      mono: true,
      width: 110,
    },
    { name: 'other', label: 'From or to', of: (l) => l.other, width: 150 },
    {
      name: 'delta',
      label: 'Move',
      of: (l) => (l.delta.startsWith('-') ? l.delta : `+${l.delta}`),
      right: true,
      mono: true,
      width: 80,
    },
    { name: 'after', label: 'In location', of: (l) => l.location_after, right: true, mono: true, width: 95 },
    {
      name: 'site',
      label: 'At site',
      of: (l) => l.site_after ?? '',
      right: true,
      mono: true,
      width: 85,
      skip: !isOf('item') || narrowed.value,
    },
    {
      name: 'document',
      label: 'Document',
      of: (l) => l.document,
      to: (l) => (l.document ? `/go/${l.document}` : undefined),
      mono: true,
      width: 100,
    },
    {
      name: 'order',
      label: 'Order',
      of: (l) => l.orders?.join(' '),
      to: (l) => (l.orders?.length === 1 ? `/go/${l.orders[0]}` : undefined),
      mono: true,
      width: 90,
    },
    { name: 'note', label: 'Note', of: (l) => l.note, width: 200 },
  ]
  return all.filter((c) => !c.skip)
})
const file = (format: string) =>
  `/api/v1/${props.of}s/${props.id}/trail/export?site=${session.site}&oldest=${!!oldest.value}&format=${format}&${queryOf(rested.value)}`
/** What it is of already is not asked for. */
const own: Partial<Record<typeof props.of, Field>> = { location: 'bin', item: 'item', lot: 'lot', serial: 'lot' }
const isOf = (...kinds: (typeof props.of)[]) => kinds.includes(props.of)
</script>

<template>
  <details class="narrow">
    <summary class="small">Narrow the trail</summary>
    <div class="fields"><HistoryFields v-model="filter" :without="own[of]" /></div>
  </details>
  <QueryView :query="trail" :empty="() => !lines.length">
    <ListWithTools
      v-model:sort="sort"
      data-trail
      :name="`trail-${of}`"
      label="Trail"
      style="--list-height: 420px"
      :columns="columns"
      :rows="lines"
      :row-key="(l) => l.id"
      :to="(l) => `/stock/location/${l.location_id}`"
      :more="trail.hasNextPage.value"
      @more="trail.isFetching.value || trail.fetchNextPage()"
    >
      <template #files>
        <a class="btn" :href="file('xlsx')" download>XLSX</a>
        <a class="btn" :href="file('csv')" download>CSV</a>
      </template>
    </ListWithTools>
    <template #empty>{{
      narrowed
        ? 'No move here is like this.'
        : 'Nothing has moved here yet. Every move will stand here with who made it.'
    }}</template>
  </QueryView>
</template>

<style scoped>
.narrow {
  margin-bottom: 8px;
}
summary {
  cursor: pointer;
  min-height: 24px;
}
</style>
