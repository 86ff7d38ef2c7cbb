<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import type { Asked } from './asked'

/** What is asked for and not there: on its way, or failed with what to do. */
defineProps<{ query: Asked; rows?: number }>()
const queries = useQueryClient()
/** Whatever failed on the page is asked for again: it failed of one and the same. */
const again = () => queries.refetchQueries({ type: 'active', predicate: (q) => q.state.status === 'error' })
</script>

<template>
  <div v-if="query.error.value" class="failed" role="alert">
    <b>This could not be read.</b>
    <p>{{ query.error.value.message }}</p>
    <a-button :loading="query.isFetching.value" @click="again">Try again</a-button>
  </div>
  <div v-else role="status" aria-label="On its way">
    <a-skeleton active :title="false" :paragraph="{ rows: rows ?? 4 }" />
  </div>
</template>

<style scoped>
.failed {
  border: 1px solid var(--stop-edge);
  background: var(--stop2);
  color: var(--stop-ink);
  border-radius: 8px;
  padding: 12px 14px;
  margin-bottom: 10px;
}
.failed p {
  margin: 4px 0 10px;
}
</style>
