import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask } from '@/api/client'

/** What has a name, as a field offers it. */
export const named = (list?: { id: number; name: string }[]) =>
  (list ?? []).map((x) => ({ value: x.id, label: x.name }))

/** The kinds of return that are of what was shipped, or those of goods without a paper. */
export function useKinds(papered: boolean) {
  const query = useQuery({ queryKey: ['returns', 'kinds'], queryFn: () => ask(api.GET('/api/v1/return-kinds')) })
  return computed(() => (query.data.value ?? []).filter((k) => k.papered === papered))
}
