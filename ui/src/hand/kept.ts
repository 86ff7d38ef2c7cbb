import { reactive, watch } from 'vue'
import { api, ask, once, Problem, requestKey, type Schemas } from '@/api/client'
import { connected } from '@/api/live'
import { session } from '@/api/session'

/**
 * Takes that were made while the connection was away: kept on the device under their request keys, and sent once, in
 * order, when it is back. One that is refused then stops the others until somebody has settled it.
 */
export type Kept = {
  key: string
  person: number
  name: string
  round: number
  words: string
  body: Schemas['PickScans']
}

const place = 'lanternrow.kept'

function load(): Kept[] {
  try {
    return JSON.parse(localStorage.getItem(place) ?? '[]') as Kept[]
  } catch {
    return []
  }
}

export const kept = reactive({ takes: load(), refused: '', sending: false })
watch(
  () => kept.takes,
  (takes) => localStorage.setItem(place, JSON.stringify(takes)),
  { deep: true },
)

/** Whether a failure is the connection's, not an answer. */
export const away = (e: unknown) => e instanceof Problem && e.status === 0

/** Sends a take, or keeps it when the connection is away. Behind one that is kept, all wait. */
export async function takeOrKeep(
  round: number,
  body: Schemas['PickScans'],
  words: string,
): Promise<Schemas['PickRound'] | undefined> {
  const key = requestKey()
  const now = { ...body, happened_at: new Date().toISOString() }
  if (!kept.takes.length) {
    try {
      return await send(key, round, now)
    } catch (e) {
      if (!away(e)) throw e
    }
  }
  kept.takes.push({
    key,
    person: session.person?.id ?? 0,
    name: session.person?.name ?? '',
    round,
    words,
    body: now,
  })
  return undefined
}

const send = (key: string, round: number, body: Schemas['PickScans']) =>
  once((h) => ask(api.POST('/api/v1/rounds/{id}/take', { headers: h, params: { path: { id: round } }, body })), key)

/** Sends what is kept, the oldest first, until one is refused or the connection goes away again. */
export async function sendKept() {
  if (kept.sending || kept.refused) return
  kept.sending = true
  try {
    while (kept.takes.length) {
      const next = kept.takes[0]!
      if (next.person !== session.person?.id) break
      try {
        await send(next.key, next.round, next.body)
      } catch (e) {
        if (!away(e)) kept.refused = (e as Problem).message
        break
      }
      kept.takes.shift()
    }
  } finally {
    kept.sending = false
  }
}

/** Tries the refused one again, or gives it up: its goods go back to where they were taken. */
export function settle(again: boolean) {
  kept.refused = ''
  if (!again) kept.takes.shift()
  void sendKept()
}

watch(connected, (on) => {
  if (on) void sendKept()
})
window.addEventListener('online', () => void sendKept())
setInterval(() => {
  if (kept.takes.length) void sendKept()
}, 4000)
