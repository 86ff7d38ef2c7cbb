<script setup lang="ts" generic="T">
import { computed } from 'vue'
import { connected } from '@/api/live'
import { type Asked, isMissing } from './asked'
import QueryState from './QueryState.vue'

/**
 * What the server was asked, in each of its states: on its way, there, empty, failed with what to do, or shown from
 * before while the server cannot be reached.
 */
const props = defineProps<{ query: Asked<T>; empty?: (data: T) => boolean; rows?: number }>()
const data = computed(() => props.query.data.value)
const failed = computed(() => props.query.error.value)
const isEmpty = computed(() => data.value !== undefined && !!props.empty?.(data.value))
</script>

<template>
  <QueryState v-if="isMissing(query)" :query="query" :rows="rows" />
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
.stale {
  font-size: 13px;
}
</style>
