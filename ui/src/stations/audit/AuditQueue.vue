<script setup lang="ts">
import QueueCard from '@/parts/QueueCard.vue'
import { when } from '@/parts/words'
import type { useAuditQueue } from './queue'

/** What waits at Audit: bins to be counted, and counts that differ. */
type Queue = ReturnType<typeof useAuditQueue>
defineProps<{
  due: Queue['due']
  differing: Queue['differing']
  at: { location?: number; item?: number; count?: number }
}>()
</script>

<template>
  <h2>
    <span>To be counted</span
    ><span>{{ due.data.value?.length ?? 0 }} · <router-link to="/audit/recall">recalls</router-link></span>
  </h2>
  <QueueCard
    v-for="d in due.data.value"
    :key="`${d.location_id}/${d.item_id}`"
    :to="`/audit/${d.location_id}/${d.item_id}`"
    :selected="at.location === d.location_id && at.item === d.item_id"
  >
    <span class="mono">{{ d.bin }}</span><span class="mono">{{ d.sku }}</span>
    <template #more
      ><span>{{ d.round ? `short on ${d.round}` : 'to be counted again' }}, {{ d.raised_by }}</span
      ><span class="nb">{{ d.times > 1 ? `${d.times} times` : when(d.raised_at) }}</span></template
    >
  </QueueCard>
  <div v-if="due.data.value?.length === 0" class="empty">
    No bin is to be counted. One where a round finds too few comes up here.
  </div>
  <template v-if="differing.data.value?.length">
    <h2>
      <span>Counts that differ</span><span>{{ differing.data.value.length }}</span>
    </h2>
    <QueueCard
      v-for="c in differing.data.value"
      :key="c.id"
      :to="`/audit/differs/${c.id}`"
      :selected="at.count === c.id"
      data-differs
    >
      <span class="mono">{{ c.bin }}</span><span class="mono">{{ c.sku }}</span>
      <template #more
        ><span class="late">{{ c.found }} of {{ c.expected }}</span
        ><span>{{ c.counted_by }}</span></template
      >
    </QueueCard>
  </template>
</template>
