<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { since } from '@/parts/words'

/** All that stands on the docks, the longest first: since when, and what blocks it. */
const props = defineProps<{ stuck: Schemas['PutawayStuck'][] }>()
const site = computed(() => session.site)
const all = useQuery({
  queryKey: ['putaway', 'all', site],
  queryFn: () => ask(api.GET('/api/v1/put-away/waiting', { params: { query: { site: site.value, all: true } } })),
})
function keeps(w: Schemas['PutawayWaiting']) {
  if (w.condition === 'waiting') return 'waits for the rest of its order'
  if (w.carton) return `on …${w.carton.slice(-4)}, put away as one`
  const s = props.stuck.find((x) => x.location_id === w.location_id && x.item_id === w.item_id && x.lot_id === w.lot_id)
  return s ? `no bin for ${s.left}. ${s.why}` : ''
}
const day = 24 * 60 * 60 * 1000
const long = (w: Schemas['PutawayWaiting']) => Date.now() - new Date(w.since).getTime() > day
</script>

<template>
  <template v-if="all.data.value?.length">
    <h1>On the docks</h1>
    <table class="plain docks" data-docks>
      <thead>
        <tr>
          <th>Dock</th>
          <th>Item</th>
          <th>Lot</th>
          <th class="r">Quantity</th>
          <th>Since</th>
          <th>Blocked by</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="w in all.data.value" :key="`${w.location_id}/${w.item_id}/${w.lot_id}/${w.condition}/${w.carton}`">
          <td class="nb">{{ w.location }}</td>
          <td>
            {{ w.description }} <span class="mono mute small">{{ w.sku }}</span>
          </td>
          <td class="mono">{{ w.lot }}</td>
          <td class="r mono">{{ w.quantity }}</td>
          <td :class="{ late: long(w) }">{{ since(w.since) }}</td>
          <td class="small">{{ keeps(w) }}</td>
        </tr>
      </tbody>
    </table>
  </template>
</template>

<style scoped>
.docks {
  margin-bottom: 14px;
}
</style>
