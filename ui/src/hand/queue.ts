import { reactive, watch } from 'vue'
import { api, ask, once, Problem, requestKey, type Schemas, unanswered } from '@/api/client'
import { connected } from '@/api/live'
import { session } from '@/api/session'
import { labelOf, type Step, withStep } from './steps'

/**
 * Steps of rounds that were made while the connection was away: queued on the device under their request keys, and sent
 * once, in order, when it is back. One that is refused then stops the others until somebody has settled it.
 */
export type QueuedStep = { key: string; person: number; name: string; round: number; words: string; step: Step }

const storage = 'lanternrow.steps'

function load(): QueuedStep[] {
  try {
    return JSON.parse(localStorage.getItem(storage) ?? '[]') as QueuedStep[]
  } catch {
    return []
  }
}

export const queue = reactive({ steps: load(), refused: '', sending: false })
watch(
  () => queue.steps,
  (steps) => localStorage.setItem(storage, JSON.stringify(steps)),
  { deep: true },
)

/** Whether a failure is the connection's, or the house's that cannot answer now, and no answer. */
export const away = (e: unknown) => unanswered(e) || (e instanceof Problem && e.status === 503)

/**
 * Sends a step, or queues it when the connection is away, and answers with the round as it is then. Behind one that is
 * queued, all wait.
 */
export async function sendOrQueue(
  round: Schemas['PickRound'],
  step: Step,
  words: string,
): Promise<Schemas['PickRound']> {
  const key = requestKey()
  if (step.what === 'pick' || step.what === 'whole') step.body.happened_at = new Date().toISOString()
  if (!queue.steps.length) {
    try {
      return await send(key, round.id, step)
    } catch (e) {
      if (!away(e)) throw e
    }
  }
  if (step.what === 'cartons' && round.cartons.some((c) => c.sscc === labelOf(step.body.scan)))
    throw new Problem(409, 'carton_used', 'That carton is on this round already. Take a blank label.')
  const after = withStep(round, step)
  queue.steps.push({
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
      case 'pick':
        return ask(api.POST('/api/v1/rounds/{id}/pick', { ...to, body: step.body }))
      case 'cartons':
        return ask(api.POST('/api/v1/rounds/{id}/cartons', { ...to, body: step.body }))
      case 'short':
        return ask(api.POST('/api/v1/rounds/{id}/short', { ...to, body: step.body }))
      case 'whole':
        return ask(api.POST('/api/v1/rounds/{id}/whole', { ...to, body: step.body }))
      case 'stage':
        return ask(api.POST('/api/v1/rounds/{id}/stage', { ...to, body: step.body }))
    }
  }, key)

/** Sends what is queued, the oldest first, until one is refused or the connection goes away again. */
export async function sendQueued() {
  if (queue.sending || queue.refused) return
  queue.sending = true
  try {
    while (queue.steps.length) {
      const next = queue.steps[0]!
      if (next.person !== session.person?.id) break
      try {
        await send(next.key, next.round, next.step)
      } catch (e) {
        if (!away(e)) queue.refused = (e as Problem).message
        break
      }
      queue.steps.shift()
    }
  } finally {
    queue.sending = false
  }
}

/** Tries the refused one again, or gives it up: what was done on the floor is undone there. */
export function settle(again: boolean) {
  queue.refused = ''
  if (!again) queue.steps.shift()
  void sendQueued()
}

watch(connected, (on) => {
  if (on) void sendQueued()
})
window.addEventListener('online', () => void sendQueued())
setInterval(() => {
  if (queue.steps.length) void sendQueued()
}, 4000)
