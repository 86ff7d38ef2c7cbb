<script setup lang="ts">
import type { Schemas } from '@/api/client'
import type { Column } from '@/parts/columns'
import WholeList from '@/parts/WholeList.vue'
import { when } from '@/parts/words'

/** What was done on schedule, the latest first. */
type Run = Schemas['SchedulesRun']
defineProps<{ runs: Run[] }>()
const outcomes: Record<Run['outcome'], string> = { did: 'done', nothing: 'nothing to do', stopped: 'stopped' }
/** Of many documents the first are named, and how many more there are. */
const most = 6
const columns: Column<Run>[] = [
  { name: 'when', label: 'When', of: (r) => when(r.ran_at), mono: true, width: 132 },
  { name: 'by', label: 'Begun', of: (r) => (r.due_at ? 'on schedule' : 'by hand'), width: 100 },
  {
    name: 'outcome',

    label: 'Outcome',
    of: (r) => outcomes[r.outcome],
    late: (r) => r.outcome === 'stopped',
    width: 104,
  },
  { name: 'what', label: 'What it did', of: (r) => `it ${r.words}`, width: 244 },
  { name: 'documents', label: 'Documents', of: (r) => r.documents.join(' '), width: 116 },
]
</script>

<template>
  <h2><span>What it did</span></h2>
  <WholeList
    v-if="runs.length"
    data-runs
    name="runs"
    label="What it did"
    style="--list-height: 40vh"
    :columns="columns"
    :rows="runs"
    :row-key="(r) => r.ran_at"
    :lines="2"
  >
    <template #documents="{ row: r }"
      ><router-link v-for="d in r.documents.slice(0, most)" :key="d" class="mono doc" :to="`/go/${d}`">{{
        d
      }}</router-link
      ><template v-if="r.documents.length > most">and {{ r.documents.length - most }} more</template></template
    >
  </WholeList>
  <div v-else class="empty">It has not run yet.</div>
</template>

<style scoped>
.doc {
  margin-right: 0.6em;
  display: inline-block;
  min-height: 24px;
}
</style>
