import type { Ref } from 'vue'

/** What the server was asked for, of which kind ever: as a query of the page has it. */
export interface Asked<D = unknown> {
  data: Ref<D | undefined>
  error: Ref<Error | null>
  isFetching: Ref<boolean>
  fetchStatus: Ref<string>
  refetch: () => unknown
}

/** Whether it is asked for and not there: on its way, or failed. */
export const isMissing = (q: Asked) => q.data.value === undefined && (!!q.error.value || q.fetchStatus.value !== 'idle')
