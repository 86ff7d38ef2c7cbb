import { reactive, watch } from 'vue'
import { api, ask, once, Problem, requestKey, type Schemas, unanswered } from '@/api/client'
import { connected } from '@/api/live'
import { session } from '@/api/session'
import { labelOf, type Step, withStep } from './steps'

/**
 * Steps of rounds that were made while the connection was away: kept on the device under their request keys, and sent
 * once, in order, when it is back. One that is refused then stops the others until somebody has settled it.
 */
export type Kept = { key: string; person: number; name: string; round: number; words: string; step: Step }

const place = 'lanternrow.steps'

function load(): Kept[] {
  try {
    return JSON.parse(localStorage.getItem(place) ?? '[]') as Kept[]
  } catch {
    return []
  }
}

export const kept = reactive({ steps: load(), refused: '', sending: false })
watch(
  () => kept.steps,
  (steps) => localStorage.setItem(place, JSON.stringify(steps)),
  { deep: true },
)

/** Whether a failure is the connection's, or the house's that cannot answer now, and no answer. */
export const away = (e: unknown) => unanswered(e) || (e instanceof Problem && e.status === 503)

/**
 * Sends a step, or keeps it when the connection is away, and answers with the round as it is then. Behind one that is
 * kept, all wait.
 */
export async function stepOrKeep(
  round: Schemas['PickRound'],
  step: Step,
  words: string,
): Promise<Schemas['PickRound']> {
  const key = requestKey()
  if (step.what === 'take' || step.what === 'whole') step.body.happened_at = new Date().toISOString()
  if (!kept.steps.length) {
    try {
      return await send(key, round.id, step)
    } catch (e) {
      if (!away(e)) throw e
    }
  }
  if (step.what === 'cartons' && round.cartons.some((c) => c.sscc === labelOf(step.body.scan)))
    throw new Problem(409, 'carton_used', 'That carton is on this round already. Take a blank label.')
  const after = withStep(round, step)
  kept.steps.push({
    key,
    person: session.person?.id ?? 0,
    name: session.person?.name ?? '',
    round: round.id,
    words,
    step,
  })
  return after
}

const send = (key: string, round: number, step: Step) =>
  once((headers) => {
    const to = { headers, params: { path: { id: round } } }
    switch (step.what) {
      case 'take':
        return ask(api.POST('/api/v1/rounds/{id}/take', { ...to, body: step.body }))
      case 'cartons':
        return ask(api.POST('/api/v1/rounds/{id}/cartons', { ...to, body: step.body }))
      case 'short':
        return ask(api.POST('/api/v1/rounds/{id}/short', { ...to, body: step.body }))
      case 'whole':
        return ask(api.POST('/api/v1/rounds/{id}/whole', { ...to, body: step.body }))
      case 'set-down':
        return ask(api.POST('/api/v1/rounds/{id}/set-down', { ...to, body: step.body }))
    }
  }, key)

/** Sends what is kept, the oldest first, until one is refused or the connection goes away again. */
export async function sendKept() {
  if (kept.sending || kept.refused) return
  kept.sending = true
  try {
    while (kept.steps.length) {
      const next = kept.steps[0]!
      if (next.person !== session.person?.id) break
      try {
        await send(next.key, next.round, next.step)
      } catch (e) {
        if (!away(e)) kept.refused = (e as Problem).message
        break
      }
      kept.steps.shift()
    }
  } finally {
    kept.sending = false
  }
}

/** Tries the refused one again, or gives it up: what was done on the floor is undone there. */
export function settle(again: boolean) {
  kept.refused = ''
  if (!again) kept.steps.shift()
  void sendKept()
}

watch(connected, (on) => {
  if (on) void sendKept()
})
window.addEventListener('online', () => void sendKept())
setInterval(() => {
  if (kept.steps.length) void sendKept()
}, 4000)
