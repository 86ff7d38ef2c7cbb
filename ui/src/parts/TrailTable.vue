<script setup lang="ts">
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask } from '@/api/client'
import { session } from '@/api/session'
import WholeWords from './WholeWords.vue'
import { when } from './words'

/** One look for history everywhere, newest first. */
const props = defineProps<{ of: 'location' | 'item' | 'lot' | 'serial' | 'carton'; id: number }>()

const trail = useInfiniteQuery({
  queryKey: ['stock', 'trail', computed(() => props.of), computed(() => props.id), computed(() => session.site)],
  queryFn: ({ pageParam }) => {
    const params = { path: { id: props.id }, query: { site: session.site, before: pageParam, limit: 40 } }
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
</script>

<template>
  <div class="wide">
    <table class="plain small" data-trail>
      <thead>
        <tr>
          <th>When</th>
          <th>Who</th>
          <th>What</th>
          <th v-if="of !== 'item' && of !== 'serial'">Item</th>
          <th v-if="of !== 'lot' && of !== 'serial'">Lot or serial</th>
          <th>Location</th>
          <th>From or to</th>
          <th class="r">Move</th>
          <th class="r">In location</th>
          <th v-if="of === 'item'" class="r">At site</th>
          <th>Document</th>
          <th>Note</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in lines" :key="l.id">
          <td class="mono">{{ when(l.at) }}</td>
          <td class="nb">{{ l.person }}</td>
          <td class="nb">{{ l.kind.replaceAll('_', ' ') }}</td>
          <td v-if="of !== 'item' && of !== 'serial'" class="mono">{{ l.sku }}</td>
          <td v-if="of !== 'lot' && of !== 'serial'" class="mono">{{ l.lot ?? l.serial ?? '' }}</td>
          <td class="mono">
            <router-link :to="`/stock/location/${l.location_id}`">{{ l.location }}</router-link>
          </td>
          <td><WholeWords :text="l.other" /></td>
          <td class="r mono">
            <b>{{ l.delta.startsWith('-') ? l.delta : `+${l.delta}` }}</b>
          </td>
          <td class="r mono">{{ l.location_after }}</td>
          <td v-if="of === 'item'" class="r mono">{{ l.site_after }}</td>
          <td class="mono">
            <router-link v-if="l.document" :to="`/go/${l.document}`">{{ l.document }}</router-link>
          </td>
          <td class="note-cell">{{ l.note }}</td>
        </tr>
      </tbody>
    </table>
  </div>
  <div v-if="!lines.length && !trail.isLoading.value" class="empty">
    Nothing has moved here yet. Every move will stand here with who made it.
  </div>
  <button v-if="trail.hasNextPage.value" class="btn" :disabled="trail.isFetching.value" @click="trail.fetchNextPage()">
    Show older
  </button>
</template>

<style scoped>
.btn {
  margin-top: 8px;
}
.plain td {
  padding: 5px 8px;
}
.note-cell {
  max-width: 160px;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
