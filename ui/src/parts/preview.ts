import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, onScopeDispose, type Ref, watch } from 'vue'
import { Problem } from '@/api/client'

/** Previews that wait for what is entered to come to rest: the page says how many, for whoever waits until it is settled. */
const restless = new Set<symbol>()
function rest(preview: symbol, awaited: boolean) {
  if (awaited) restless.add(preview)
  else restless.delete(preview)
  document.documentElement.dataset.restless = String(restless.size)
}

/**
 * Asks the server what an action will do, whenever what is entered comes to rest or stock changes.
 * body is null while there is nothing to ask.
 */
export function usePreview<B, P>(name: string, body: Ref<B | null>, fetch: (body: B) => Promise<P>) {
  const text = computed(() => (body.value === null ? '' : JSON.stringify(body.value)))
  const rested = refDebounced(text, 180)
  const me = Symbol(name)
  watch([text, rested], () => rest(me, text.value !== rested.value), { immediate: true, flush: 'sync' })
  onScopeDispose(() => rest(me, false))
  const query = useQuery({
    queryKey: ['stock', 'preview', name, rested],
    queryFn: () => fetch(JSON.parse(rested.value) as B),
    enabled: computed(() => rested.value !== ''),
    retry: false,
    staleTime: 0,
    gcTime: 0,
  })
  const fresh = computed(() => text.value !== '' && rested.value === text.value && !query.isFetching.value)
  return {
    plan: computed(() => (text.value === '' || query.isError.value ? undefined : query.data.value)),
    problem: computed(() =>
      text.value !== '' && query.error.value instanceof Problem ? query.error.value : undefined,
    ),
    /** What is shown is of what is entered now. */
    fresh,
  }
}
