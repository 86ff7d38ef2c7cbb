import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { plural, when } from './words'

export type Outlook = Schemas['DispatchOutlook']

/**
 * When each collection is ready, whether it is made, and what would help. It follows all the work that is left, so it is
 * asked for each minute and not with every change.
 */
export function useForecast() {
  const site = computed(() => session.site)
  return useQuery({
    queryKey: ['forecast', site],
    queryFn: () => ask(api.GET('/api/v1/dispatch/forecast', { params: { query: { site: site.value } } })),
    refetchInterval: 60_000,
  })
}

export function timeWords(minutes: number): string {
  const [h, m] = [Math.floor(minutes / 60), minutes % 60]
  return h ? `${h} h ${m} min` : `${m} min`
}

export function verdictOf(o: Outlook): string {
  if (!o.ready_at) return 'Ready'
  if (!o.at) return `Ready at ${when(o.ready_at)}`
  return o.made
    ? `Ready at ${when(o.ready_at)}, ${timeWords(o.spare)} to spare`
    : `Ready at ${when(o.ready_at)}, ${timeWords(-o.spare)} too late`
}

/** What would help a collection that is missed, and when it is ready then. */
export function helpsOf(o: Outlook): { words: string; orders: Schemas['DispatchOrder'][]; at: string }[] {
  if (!o.help) return []
  const { one_more_at, release_at, leave, leave_at } = o.help
  const sooner = (at: string | null) => !!at && at < o.ready_at!
  return [
    ...(sooner(one_more_at) ? [{ words: 'With one more picker', orders: [], at: one_more_at }] : []),
    ...(sooner(release_at) ? [{ words: 'With what waits released now', orders: [], at: release_at! }] : []),
    ...(leave_at ? [{ words: `Without ${plural(leave.length, 'order')}`, orders: leave, at: leave_at }] : []),
  ]
}

/** Who is counted on, in a sentence. */
export function crewWords(f: Schemas['DispatchForecast']): string {
  const picks = f.walkers ? `${plural(f.walkers, 'person')} picking` : 'nobody picking, so one is counted on'
  const packs = f.packers ? `${plural(f.packers, 'person')} packing` : 'nobody packing, so one is counted on'
  const planned = f.planned_at ? ` What waits is planned into rounds at ${when(f.planned_at)}.` : ''
  return `Calculated with ${picks}, and ${packs}.${planned}`.replaceAll('persons', 'people')
}
