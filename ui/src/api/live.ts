import type { QueryClient } from '@tanstack/vue-query'
import { onScopeDispose, ref, watch } from 'vue'
import { session } from './session'

/** Whether changes by others reach this page as they happen. */
export const connected = ref(true)

/** Keeps queries fresh: each change names topics, and a query's key begins with its topic. */
export function useLive(queries: QueryClient) {
  let source: EventSource | null = null
  const close = () => {
    source?.close()
    source = null
  }
  watch(
    () => session.person?.id,
    (id) => {
      close()
      if (!id) return
      source = new EventSource('/api/v1/events')
      source.onopen = () => (connected.value = true)
      source.onerror = () => (connected.value = false)
      source.addEventListener('change', (e) => {
        const topics = (e as MessageEvent<string>).data.split(',')
        if (topics.includes('everything') || topics.includes('hello')) void queries.invalidateQueries()
        else for (const topic of topics) void queries.invalidateQueries({ queryKey: [topic] })
      })
    },
    { immediate: true },
  )
  onScopeDispose(close)
}
