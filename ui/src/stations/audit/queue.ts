import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session, worksAs } from '@/api/session'

/** What is to be counted at the site today, its count sheets, and the counts that differ, which a lead alone sees. */
export function useAuditQueue() {
  const site = computed(() => session.site)
  const leads = computed(() => worksAs('lead'))
  const due = useQuery({
    queryKey: ['audit', 'today', site],
    queryFn: () => ask(api.GET('/api/v1/counts/today', { params: { query: { site: site.value } } })),
  })
  const differing = useQuery({
    queryKey: ['audit', 'differing', site],
    queryFn: () => ask(api.GET('/api/v1/counts/differing', { params: { query: { site: site.value } } })),
    enabled: leads,
  })
  const sheets = useSheets()
  return { due, differing, sheets, leads }
}

/** The count sheets of the site, those that are open first. */
export function useSheets() {
  const site = computed(() => session.site)
  return useQuery({
    queryKey: ['audit', 'sheets', site],
    queryFn: () => ask(api.GET('/api/v1/count-sheets', { params: { query: { site: site.value } } })),
  })
}

type Due = Schemas['AuditDue']
export const reasons: Record<Due['reasons'][number], string> = {
  again: 'by another person',
  asked: 'counted again',
  complaint: 'a customer complained',
  differed: 'differed last time',
  emptied: 'was emptied',
  overdue: 'due by its class',
  busy: 'changed often',
  still: 'nothing moved for long',
  likely: 'an error is likely',
}
/** Why a bin is counted, in words: the most pressing first. */
export const whyWords = (d: Pick<Due, 'reasons' | 'round'>) =>
  d.reasons.map((r) => (r === 'asked' && d.round ? `short on ${d.round}` : reasons[r])).join(', ')

/** Whether the person who is signed on has counted it already, so that somebody else does. */
export const barredHere = (d: { barred: number[] }) => d.barred.includes(session.person?.id ?? 0)

/** The states of a count in words. */
export const countStates: Record<Schemas['AuditPastCount']['state'], string> = {
  counted: 'waits for a lead',
  recount: 'another person counts it',
  repeated: 'counted again since',
  settled: 'settled',
  withdrawn: 'withdrawn',
  taken_back: 'taken back',
}
