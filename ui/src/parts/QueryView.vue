<script setup lang="ts" generic="T">
import { computed, type Ref } from 'vue'
import { connected } from '@/api/live'

/**
 * What the server was asked, in each of its states: on its way, there, empty, failed with what to do, or shown from
 * before while the server cannot be reached.
 */
interface Asked<D> {
  data: Ref<D | undefined>
  error: Ref<Error | null>
  isPending: Ref<boolean>
  isFetching: Ref<boolean>
  fetchStatus: Ref<string>
  refetch: () => unknown
}
const props = defineProps<{ query: Asked<T>; empty?: (data: T) => boolean; rows?: number }>()
const data = computed(() => props.query.data.value)
const failed = computed(() => props.query.error.value)
const isEmpty = computed(() => data.value !== undefined && !!props.empty?.(data.value))
</script>

<template>
  <div v-if="failed && data === undefined" class="failed" role="alert">
    <b>This could not be read.</b>
    <p>{{ failed.message }}</p>
    <a-button :loading="query.isFetching.value" @click="query.refetch()">Try again</a-button>
  </div>
  <a-skeleton
    v-else-if="data === undefined && query.fetchStatus.value !== 'idle'"
    active
    :title="false"
    :paragraph="{ rows: rows ?? 4 }"
    aria-label="On its way"
    role="status"
  />
  <template v-else-if="data !== undefined">
    <div v-if="failed || !connected" class="note w stale" role="status">
      {{ failed ? failed.message : 'The server is not reached this moment.' }} What stands here is from before.
      <a-button v-if="failed" size="small" :loading="query.isFetching.value" @click="query.refetch()"
        >Try again</a-button
      >
    </div>
    <div v-if="isEmpty" class="empty"><slot name="empty">Nothing is here.</slot></div>
    <slot v-else :data="data" />
  </template>
</template>

<style scoped>
.failed {
  border: 1px solid var(--stop-edge);
  background: var(--stop2);
  color: var(--stop-ink);
  border-radius: 8px;
  padding: 12px 14px;
}
.failed p {
  margin: 4px 0 10px;
}
.stale {
  font-size: 13px;
}
</style>
