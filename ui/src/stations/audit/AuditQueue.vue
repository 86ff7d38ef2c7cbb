<script setup lang="ts">
import QueueCard from '@/parts/QueueCard.vue'
import { barredHere, countStates, type useAuditQueue, whyWords } from './queue'

/** What waits at Audit: bins to be counted, open count sheets, and counts that differ. */
type Queue = ReturnType<typeof useAuditQueue>
defineProps<{
  queue: Queue
  at: { location?: number; item?: number; count?: number; sheet?: number }
}>()
</script>

<template>
  <template v-if="queue.differing.data.value?.length">
    <h2>
      <span>Counts that differ</span><span>{{ queue.differing.data.value.length }}</span>
    </h2>
    <QueueCard
      v-for="c in queue.differing.data.value"
      :key="c.id"
      :to="`/audit/count/${c.id}`"
      :selected="at.count === c.id"
      data-differs
    >
      <span class="mono">{{ c.bin }}</span><span class="mono">{{ c.sku }}</span>
      <template #more
        ><span class="late">{{ c.found }} of {{ c.expected }}</span
        ><span>{{ c.state === 'recount' ? countStates.recount : c.counted_by }}</span></template
      >
    </QueueCard>
  </template>
  <h2>
    <span>Count sheets</span
    ><span
      >{{ queue.sheets.data.value?.filter((s) => s.state === 'open').length ?? 0 }} open ·
      <router-link to="/audit/sheets">all</router-link></span
    >
  </h2>
  <QueueCard
    v-for="s in queue.sheets.data.value?.filter((x) => x.state === 'open')"
    :key="s.id"
    :to="`/audit/sheets/${s.id}`"
    :selected="at.sheet === s.id"
    data-sheet
  >
    <span class="mono">{{ s.number }}</span><span class="mono">{{ s.counted }} of {{ s.lines }}</span>
    <template #more
      ><span>{{ s.described }}</span
      ><span v-if="s.differ" class="late">{{ s.differ }} differ</span></template
    >
  </QueueCard>
  <h2>
    <span>To be counted</span
    ><span>{{ queue.due.data.value?.rows.length ?? 0 }} · <router-link to="/audit/classes">classes</router-link></span>
  </h2>
  <QueueCard
    v-for="d in queue.due.data.value?.rows"
    :key="`${d.location_id}/${d.item_id}`"
    :to="`/audit/${d.location_id}/${d.item_id}`"
    :selected="at.location === d.location_id && at.item === d.item_id"
  >
    <span class="mono">{{ d.bin }}</span><span class="mono">{{ d.sku }}</span>
    <template #more
      ><span>{{ barredHere(d) ? 'by somebody else' : whyWords(d) }}</span
      ><span class="nb">{{ d.class }}</span></template
    >
  </QueueCard>
  <div v-if="queue.due.data.value?.rows.length === 0" class="empty">
    No bin is to be counted today. One where a round finds too few, or that is emptied, comes up here.
  </div>
  <p class="more">
    <router-link v-if="queue.leads.value" to="/audit/counts">Past counts</router-link>
    <router-link v-if="queue.leads.value" to="/audit/accuracy">Accuracy</router-link>
    <router-link to="/audit/recall">Recalls</router-link>
  </p>
</template>

<style scoped>
.more {
  display: flex;
  gap: 16px;
  margin-top: 14px;
}
</style>
