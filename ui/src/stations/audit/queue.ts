import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask } from '@/api/client'
import { session } from '@/api/session'

/** What is to be counted at the site, and the counts that differ, which a lead alone sees. */
export function useAuditQueue() {
  const site = computed(() => session.site)
  const leads = computed(() => session.person?.role === 'lead')
  const due = useQuery({
    queryKey: ['audit', 'due', site],
    queryFn: () => ask(api.GET('/api/v1/counts/due', { params: { query: { site: site.value } } })),
  })
  const differing = useQuery({
    queryKey: ['audit', 'differing', site],
    queryFn: () => ask(api.GET('/api/v1/counts/differing', { params: { query: { site: site.value } } })),
    enabled: leads,
  })
  return { due, differing, leads }
}
