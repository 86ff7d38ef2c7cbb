<script setup lang="ts">
import type { Schemas } from '@/api/client'
import WholeWords from '@/parts/WholeWords.vue'
import { when } from '@/parts/words'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'

/** What was done on schedule, the latest first. */
defineProps<{ runs: Schemas['SchedulesRun'][] }>()
/** Of many documents the first are named, and how many more there are. */
const most = 6
const columns: Column<Schemas['SchedulesRun']>[] = [
  { name: 'when', label: 'When', mono: true, width: 150 },
  { name: 'what', label: 'What', late: (r) => r.outcome === 'stopped' },
]
</script>

<template>
  <h2><span>What it did</span></h2>
  <SheetTable v-if="runs.length" data-runs :columns="columns" :rows="runs" :row-key="(r) => r.ran_at"
    ><template #when="{ row: r }"
      >{{ when(r.ran_at) }}<span v-if="!r.due_at" class="mute small"> by hand</span></template
    ><template #what="{ row: r }"
      ><WholeWords :text="`${r.outcome === 'stopped' ? 'stopped:' : 'it'} ${r.words}`" />
      <span v-if="r.documents.length" class="small">
        <router-link v-for="d in r.documents.slice(0, most)" :key="d" class="mono doc" :to="`/go/${d}`">{{
          d
        }}</router-link>
        <template v-if="r.documents.length > most">and {{ r.documents.length - most }} more</template>
      </span></template
    ></SheetTable
  >
  <div v-else class="empty">It has not run yet.</div>
</template>

<style scoped>
.doc {
  margin-right: 0.6em;
  display: inline-block;
  min-height: 24px;
}
</style>
