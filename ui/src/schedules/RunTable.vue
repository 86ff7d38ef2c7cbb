<script setup lang="ts">
import type { Schemas } from '@/api/client'
import WholeWords from '@/parts/WholeWords.vue'
import { when } from '@/parts/words'

/** What was done on schedule, the latest first. */
defineProps<{ runs: Schemas['SchedulesRun'][] }>()
/** Of many documents the first are named, and how many more there are. */
const most = 6
</script>

<template>
  <h2><span>What it did</span></h2>
  <table v-if="runs.length" class="plain" data-runs>
    <thead>
      <tr>
        <th>When</th>
        <th>What</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="r in runs" :key="r.ran_at">
        <td class="mono">{{ when(r.ran_at) }}<span v-if="!r.due_at" class="mute small"> by hand</span></td>
        <td :class="{ late: r.outcome === 'stopped', mute: r.outcome === 'nothing' }">
          <WholeWords :text="`${r.outcome === 'stopped' ? 'stopped:' : 'it'} ${r.words}`" />
          <span v-if="r.documents.length" class="small">
            <router-link v-for="d in r.documents.slice(0, most)" :key="d" class="mono doc" :to="`/go/${d}`">{{
              d
            }}</router-link>
            <template v-if="r.documents.length > most">and {{ r.documents.length - most }} more</template>
          </span>
        </td>
      </tr>
    </tbody>
  </table>
  <div v-else class="empty">It has not run yet.</div>
</template>

<style scoped>
.doc {
  margin-right: 0.6em;
  display: inline-block;
  min-height: 24px;
}
</style>
