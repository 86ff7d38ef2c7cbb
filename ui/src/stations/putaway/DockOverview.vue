<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { since } from '@/parts/words'
import DockAges from './DockAges.vue'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'

/** All that stands on the docks, the longest first: since when, and what blocks it. */
const props = defineProps<{ stuck: Schemas['PutawayStuck'][] }>()
const site = computed(() => session.site)
const all = useQuery({
  queryKey: ['putaway', 'all', site],
  queryFn: () => ask(api.GET('/api/v1/put-away/waiting', { params: { query: { site: site.value, all: true } } })),
})
const stuckOf = (w: Schemas['PutawayWaiting']) =>
  props.stuck.find((x) => x.location_id === w.location_id && x.item_id === w.item_id && x.lot_id === w.lot_id)
function keeps(w: Schemas['PutawayWaiting']) {
  if (w.condition === 'waiting') return 'waits for the rest of its order'
  if (w.carton) return `on …${w.carton.slice(-4)}, put away as one`
  const s = stuckOf(w)
  return s ? `no bin for ${s.left}. ${s.why}` : ''
}
const day = 24 * 60 * 60 * 1000
const long = (w: Schemas['PutawayWaiting']) => Date.now() - new Date(w.since).getTime() > day
const columns: Column<Schemas['PutawayWaiting']>[] = [
  { name: 'dock', label: 'Dock', of: (w) => w.location },
  { name: 'item', label: 'Item' },
  { name: 'lot', label: 'Lot', of: (w) => w.lot, mono: true },
  { name: 'quantity', label: 'Quantity', of: (w) => w.quantity, right: true, mono: true },
  { name: 'since', label: 'Since', of: (w) => since(w.since), late: (w) => !!long(w) },
  { name: 'blockedBy', label: 'Blocked by', of: (w) => keeps(w) },
]
</script>

<template>
  <template v-if="all.data.value?.length">
    <h1>On the docks</h1>
    <DockAges :goods="all.data.value.map((w) => ({ since: w.since, blocked: !!stuckOf(w) }))" />
    <SheetTable
      data-docks
      :columns="columns"
      :rows="all.data.value ?? []"
      :row-key="(w) => `${w.location_id}/${w.item_id}/${w.lot_id}/${w.condition}/${w.carton}`"
      ><template #item="{ row: w }"
        >{{ w.description }} <span class="mono mute small">{{ w.sku }}</span></template
      ></SheetTable
    >
  </template>
</template>

<style scoped>
.docks {
  margin-bottom: 14px;
}
</style>
