import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed, type Ref, ref, unref } from 'vue'
import type { Sort } from './columns'

/** A page of a list, as the server cuts it. */
interface Page<R> {
  rows: R[]
  next: string
  total: number | null
  sums?: Record<string, string>
}

/**
 * A list that the server sorts and cuts into pages: what is read of it so far, and what all its
 * rows come to.
 */
export function useServerList<R>(
  key: unknown[],
  sort: Ref<Sort | undefined>,
  read: (at: { sort?: string; down?: boolean; after: string; limit: number }) => Promise<Page<R>>,
  /** How many rows a page has: more where all of them are ticked at once. */
  limit = 100,
  /** Whether it is on the screen: it is not read while it is not. */
  shown: Ref<boolean> = ref(true),
) {
  const query = useInfiniteQuery({
    queryKey: [...key, sort],
    queryFn: ({ pageParam }) =>
      read({ sort: sort.value?.by, down: sort.value?.down || undefined, after: pageParam, limit }),
    enabled: shown,
    // Sorted another way, it stands as it was until it is there.
    placeholderData: (before, query) =>
      JSON.stringify(query?.queryKey.slice(0, -1)) === JSON.stringify(key.map((part) => unref(part)))
        ? before
        : undefined,
    initialPageParam: '',
    getNextPageParam: (page: Page<R>) => page.next || undefined,
  })
  const rows = computed(() => query.data.value?.pages.flatMap((p) => p.rows) ?? [])
  const total = computed(() => query.data.value?.pages[0]?.total ?? 0)
  /** What its columns of figures come to, over all rows. */
  const sums = computed(() => query.data.value?.pages[0]?.sums ?? {})
  const more = () => {
    if (!query.isFetching.value) void query.fetchNextPage()
  }
  return { query, rows, total, sums, more }
}
