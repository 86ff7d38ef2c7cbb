import type { Query, QueryClient } from '@tanstack/vue-query'
import { onScopeDispose, ref, watch } from 'vue'
import { session } from './session'

/** Whether changes by others reach this page as they happen. */
export const connected = ref(true)

/** How long to wait before the stream is opened again, from the first failure on, in ms. */
const waits = [500, 1000, 2000, 5000, 10_000, 20_000]

/** How whoever is kept on this device is asked for at the server; set where a device keeps somebody. */
let confirm: (() => Promise<void>) | undefined
export const confirmWith = (ask: () => Promise<void>) => (confirm = ask)

/** The site that what was read is of: a document's own, or else the one that is looked at. */
const siteOf = (data: unknown) => (data as { site_id?: number } | null | undefined)?.site_id ?? session.site

/**
 * Keeps queries fresh: each change names topics, and the site where it was at one alone; a query's key
 * begins with its topic, and other sites' changes ask nothing anew. The stream is opened again
 * after any end of it, an answer of a proxy in between too, which ends an EventSource for good; and each opening looks
 * at everything, since changes may have been missed.
 */
export function useLive(queries: QueryClient) {
  let source: EventSource | null = null
  let again: ReturnType<typeof setTimeout> | undefined
  let failures = 0
  const close = () => {
    clearTimeout(again)
    source?.close()
    source = null
  }
  const later = () => {
    close()
    connected.value = false
    again = setTimeout(() => void open(), waits[Math.min(failures++, waits.length - 1)])
  }
  async function open() {
    close()
    if (!session.person || session.ended) return
    // What it finds out opens the stream.
    if (session.kept) return confirm?.().catch(later)
    source = new EventSource('/api/v1/events')
    source.onopen = () => {
      failures = 0
      connected.value = true
    }
    source.onerror = later
    source.addEventListener('change', (e) => hear(e.data as string))
  }
  function hear(told: string) {
    const topics = told.split(',')
    if (topics.includes('everything') || topics.includes('hello')) return askAnew(() => true)
    for (const told of topics) {
      const [topic, site] = told.split('@')
      askAnew((q) => q.queryKey[0] === topic && (!site || siteOf(q.state.data) === Number(site)))
    }
  }
  function askAnew(which: (q: Query) => boolean) {
    // One that is on its first way may have been answered before the change: it is asked again once it is back.
    for (const q of queries.getQueryCache().findAll({ fetchStatus: 'fetching', predicate: which }))
      if (q.state.data === undefined)
        void q.promise
          ?.catch(() => undefined)
          .then(() => queries.invalidateQueries({ queryKey: q.queryKey, exact: true }))
    void queries.invalidateQueries({ predicate: which })
  }
  const retry = () => {
    failures = 0
    if (!connected.value) void open()
  }
  window.addEventListener('online', retry)
  watch(
    () => [session.person?.id, session.csrf, session.ended],
    () => void open(),
    { immediate: true },
  )
  onScopeDispose(() => {
    close()
    window.removeEventListener('online', retry)
  })
}
