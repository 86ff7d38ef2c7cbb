import {
  computed,
  type MaybeRefOrGetter,
  onScopeDispose,
  reactive,
  type Ref,
  ref,
  shallowRef,
  toValue,
  watch,
} from 'vue'
import { session } from '@/api/session'
import { type Conflict, type Json, merge, same, withField } from './merge'

/** What is stored of a draft: what was read when it was begun, and what is typed. */
interface Stored {
  base: Json
  mine: Json
}

/** Drafts are kept for this tab and this person: a reload and a sign-on again bring them back, another tab has its own. */
const store = 'lanternrow.drafts'
type Drafts = Record<string, Stored>
function readAll(): Drafts {
  try {
    return JSON.parse(sessionStorage.getItem(store) ?? '{}') as Drafts
  } catch {
    return {}
  }
}
const writeAll = (all: Drafts) => sessionStorage.setItem(store, JSON.stringify(all))
const nameOf = (key: string) => `${session.person?.id ?? 0} ${key}`
const copy = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T

/** Whether something is typed for this already, from before. */
export const hasDraft = (key: string) => nameOf(key) in readAll()

/** The drafts on the page that hold something typed, for whoever leaves it. */
const open = reactive(new Map<symbol, { discard: () => void }>())
export const hasTyped = computed(() => open.size > 0)
export const discardTyped = () => [...open.values()].forEach((d) => d.discard())

/**
 * What is typed into a form, apart from the server's copy under it. `key` names what it is a draft of, such as
 * "order/17" or "order/new"; `server` is the copy as it was read last, or undefined while it is on its way. A form is
 * made from `mine` and never anew when a version changes.
 */
export function useDraft<T extends object>(key: MaybeRefOrGetter<string>, server: () => T | undefined) {
  const me = Symbol('draft')
  const base = ref<T>() as Ref<T | undefined>
  const mine = ref<T>() as Ref<T | undefined>
  const conflicts = shallowRef<Conflict[]>([])
  /** What is typed was brought back, not typed just now. */
  const restored = ref(false)
  const changed = computed(() => mine.value !== undefined && !same(mine.value as Json, base.value as Json))
  /** What has been sent and not come back yet is nobody else's change. */
  let settled = true

  function start(copyOf: T | undefined) {
    const kept = readAll()[nameOf(toValue(key))]
    restored.value = !!kept
    base.value = (kept?.base ?? (copyOf && copy(copyOf))) as T | undefined
    mine.value = (kept?.mine ?? (copyOf && copy(copyOf))) as T | undefined
    conflicts.value = []
    if (kept && copyOf) follow(copyOf)
  }
  /** Brings in what stands on the server now. */
  function follow(theirs: T) {
    if (mine.value === undefined || base.value === undefined) return start(theirs)
    const merged = merge(base.value as Json, mine.value as Json, theirs as Json)
    const asked = merged.conflicts
    const still = conflicts.value.filter((c) => !asked.some((a) => same(a.path, c.path)))
    base.value = copy(theirs)
    mine.value = merged.value as T
    conflicts.value = [...still, ...asked]
  }
  watch(
    () => toValue(key),
    () => start(server()),
    { immediate: true },
  )
  watch(server, (theirs) => theirs && settled && follow(theirs), { deep: true })
  watch(
    [mine, base],
    () => {
      const all = readAll()
      const name = nameOf(toValue(key))
      if (changed.value) {
        writeAll({ ...all, [name]: { base: base.value as Json, mine: mine.value as Json } })
        open.set(me, { discard })
        return
      }
      open.delete(me)
      if (!(name in all)) return
      delete all[name]
      writeAll(all)
    },
    { deep: true, flush: 'sync' },
  )
  onScopeDispose(() => open.delete(me))

  /** What is typed is given up: the form shows the server's copy. */
  function discard() {
    conflicts.value = []
    restored.value = false
    const now = server() ?? base.value
    base.value = now && copy(now)
    mine.value = now && copy(now)
  }
  /** What is typed was taken by the server: nothing of it is a draft any more. */
  function saved() {
    conflicts.value = []
    restored.value = false
    base.value = mine.value && copy(mine.value)
  }
  /** Settles a conflict: with what is typed here, or with what the server has. */
  function settle(c: Conflict, take: 'mine' | 'theirs') {
    if (take === 'theirs') mine.value = withField(mine.value as Json, c.path, c.theirs) as T
    conflicts.value = conflicts.value.filter((x) => x !== c)
  }
  /** While a command runs, what comes back of it is not held against what is typed. */
  async function sending<R>(run: () => Promise<R>): Promise<R> {
    settled = false
    try {
      return await run()
    } finally {
      settled = true
      const now = server()
      if (now) follow(now)
    }
  }
  return { base, mine, changed, conflicts, restored, discard, saved, settle, sending }
}
