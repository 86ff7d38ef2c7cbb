<script setup lang="ts">
import QueueCard from '@/parts/QueueCard.vue'
import { type useAuditQueue, whyWords } from './queue'

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
    ><span
      >{{ due.data.value?.rows.length ?? 0 }} · <router-link to="/audit/classes">classes</router-link> ·
      <router-link to="/audit/recall">recalls</router-link></span
    >
  </h2>
  <QueueCard
    v-for="d in due.data.value?.rows"
    :key="`${d.location_id}/${d.item_id}`"
    :to="`/audit/${d.location_id}/${d.item_id}`"
    :selected="at.location === d.location_id && at.item === d.item_id"
  >
    <span class="mono">{{ d.bin }}</span><span class="mono">{{ d.sku }}</span>
    <template #more
      ><span>{{ whyWords(d) }}</span
      ><span class="nb">{{ d.class }}</span></template
    >
  </QueueCard>
  <div v-if="due.data.value?.rows.length === 0" class="empty">
    No bin is to be counted today. One where a round finds too few, or that is emptied, comes up here.
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
