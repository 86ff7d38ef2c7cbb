import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useAddressQuery } from './address'
import type { Sort } from './columns'

/**
 * What is asked of a list, as it stands in the address, so that the list can be linked to: else with the usual columns,
 * and sorted as at first.
 */
export function useListAddress(usual: string[], first?: Sort) {
  const { at, narrow } = useAddressQuery()
  const columns = computed(() => at('columns')?.split(',').filter(Boolean) ?? usual)
  const sort = computed<Sort | undefined>({
    get: () => (at('sort') ? { by: at('sort')!, down: at('down') === 'yes' } : first),
    set: (to) => narrow({ sort: to?.by, down: to?.down ? 'yes' : undefined }),
  })
  /** Words that are typed, and what they are once they come to rest. */
  const text = ref(at('q') ?? '')
  const rested = refDebounced(text, 250)

  /** What every list has of itself in a saved view, beside its own filters. */
  const settings = () => ({
    q: text.value,
    sort: at('sort') ?? '',
    down: at('down') ?? '',
    columns: columns.value.join(','),
  })
  function apply(saved: Record<string, string>) {
    text.value = saved.q ?? ''
    narrow({ ...saved, sort: saved.sort || undefined, down: saved.down || undefined })
  }
  return { at, narrow, columns, sort, text, rested, settings, apply }
}
