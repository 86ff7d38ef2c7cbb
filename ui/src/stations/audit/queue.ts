import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'

/** What is to be counted at the site today, and the counts that differ, which a lead alone sees. */
export function useAuditQueue() {
  const site = computed(() => session.site)
  const leads = computed(() => session.person?.role === 'lead')
  const due = useQuery({
    queryKey: ['audit', 'today', site],
    queryFn: () => ask(api.GET('/api/v1/counts/today', { params: { query: { site: site.value } } })),
  })
  const differing = useQuery({
    queryKey: ['audit', 'differing', site],
    queryFn: () => ask(api.GET('/api/v1/counts/differing', { params: { query: { site: site.value } } })),
    enabled: leads,
  })
  return { due, differing, leads }
}

type Due = Schemas['AuditDue']
const reasons: Record<Due['reasons'][number], string> = {
  asked: 'counted again',
  differed: 'differed last time',
  emptied: 'was emptied',
  overdue: 'due by its class',
  still: 'nothing moved for long',
  likely: 'an error is likely',
}
/** Why a bin is counted, in words: the most pressing first. */
export const whyWords = (d: Pick<Due, 'reasons' | 'round'>) =>
  d.reasons.map((r) => (r === 'asked' && d.round ? `short on ${d.round}` : reasons[r])).join(', ')
