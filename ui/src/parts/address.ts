import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'

/** What a page is asked for stands in its address, so that it is linked to and survives a reload: without what is usual. */
export function useAddress() {
  const route = useRoute()
  const router = useRouter()
  return <T extends string>(name: string, usual: T) =>
    computed<T>({
      get: () => (route.query[name] as T | undefined) || usual,
      set: (v) => void router.replace({ query: { ...route.query, [name]: v === usual ? undefined : v } }),
    })
}
