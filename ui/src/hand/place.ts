import { computed, ref, watch, type Ref } from 'vue'
import { session } from '@/api/session'
import { keepPlace, type Place } from './store'

/**
 * Where somebody is on a round: what was scanned at the stop, and which stops are left for later. It is kept on the
 * device at each change, and begins anew at the next stop.
 */
export function usePlace(
  round: Ref<number>,
  stop: Ref<number | undefined>,
  first: () => Pick<Place, 'step' | 'quantity'> & Partial<Pick<Place, 'scans'>>,
) {
  const place = ref<Place>({ scans: {}, units: [], step: 'bin', quantity: '', skipped: [] })
  const begin = () => (place.value = { ...place.value, stop: stop.value, scans: {}, units: [], ...first() })
  watch(stop, (at) => {
    if (at !== place.value.stop) begin()
  })
  watch(
    place,
    (now) => {
      if (session.person && stop.value) void keepPlace(session.person.id, round.value, now).catch(() => undefined)
    },
    { deep: true },
  )
  /** Goes on, once that is kept. */
  async function move(to: Partial<Place>) {
    const next = { ...place.value, stop: stop.value, ...to }
    if (session.person) await keepPlace(session.person.id, round.value, next).catch(() => undefined)
    place.value = next
  }
  const part = <K extends keyof Place>(name: K) =>
    computed<Place[K]>({ get: () => place.value[name], set: (v) => (place.value = { ...place.value, [name]: v }) })
  return {
    place,
    begin,
    move,
    scans: part('scans'),
    units: part('units'),
    step: part('step'),
    quantity: part('quantity'),
    skipped: part('skipped'),
  }
}
