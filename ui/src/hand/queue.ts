import { computed, reactive, watch } from 'vue'
import { api, ask, once, Problem, requestKey, type Schemas, unanswered } from '@/api/client'
import { connected } from '@/api/live'
import { session } from '@/api/session'
import { labelOf, type Step, withStep } from './steps'
import { dropStep, keepStep, keptSteps, type QueuedStep } from './store'

/**
 * Steps of rounds that were made while the connection was away: kept on the device by person, under their request keys,
 * and sent once, in order, when it is back. One that is refused then stops those behind it until somebody has settled
 * it.
 */
export const queue = reactive({
  steps: [] as QueuedStep[],
  refused: '',
  /** What came of a step otherwise than it was made, where nothing is to be settled. */
  news: '',
  sending: false,
})

/** Whoever is signed on sends their own. */
export const mine = computed(() => queue.steps.filter((s) => s.person === session.person?.id))
export const others = computed(() => queue.steps.filter((s) => s.person !== session.person?.id))

/** What the device kept is read. Until then nothing is sent or queued. */
export const loaded = keptSteps().then(
  (steps) => void queue.steps.push(...steps),
  () => undefined,
)

/** How long an answer is waited for, in ms, before the connection counts as away. */
const patience = 8000

/** Whether a failure is the connection's, or the house's that cannot answer now, and no answer. */
export const away = (e: unknown) => unanswered(e) || (e instanceof Problem && e.status === 503)

/** Whether the server can be asked at all: not before it has said who is signed on. */
const reachable = () => navigator.onLine && !!session.person && !session.kept && !session.ended

/**
 * Sends a step, or queues it when the connection is away, and answers with the round as it is then. Behind one that is
 * queued, all wait.
 */
export async function sendOrQueue(
  round: Schemas['PickRound'],
  step: Step,
  words: string,
): Promise<Schemas['PickRound']> {
  await loaded
  const key = requestKey()
  if (step.what === 'pick' || step.what === 'whole') step.body.happened_at = new Date().toISOString()
  if (!mine.value.length && reachable()) {
    try {
      return await send(key, round.id, step)
    } catch (e) {
      if (!away(e)) throw e
    }
  }
  if (step.what === 'cartons' && round.cartons.some((c) => c.sscc === labelOf(step.body.scan)))
    throw new Problem(409, 'carton_used', 'That carton is on this round already. Take a blank label.')
  const after = withStep(round, step)
  const queued = {
    key,
    person: session.person?.id ?? 0,
    name: session.person?.name ?? '',
    round: round.id,
    words,
    step,
  }
  await keepStep(queued)
  queue.steps.push(queued)
  return after
}

const send = (key: string, round: number, step: Step) =>
  once((headers) => {
    const to = { headers, params: { path: { id: round } }, signal: AbortSignal.timeout(patience) }
    switch (step.what) {
      case 'start':
        return ask(api.POST('/api/v1/rounds/{id}/start', to))
      case 'pick':
        return ask(api.POST('/api/v1/rounds/{id}/pick', { ...to, body: step.body }))
      case 'cartons':
        return ask(api.POST('/api/v1/rounds/{id}/cartons', { ...to, body: step.body }))
      case 'short':
        return ask(api.POST('/api/v1/rounds/{id}/short', { ...to, body: step.body }))
      case 'nought':
        return ask(api.POST('/api/v1/rounds/{id}/nought', { ...to, body: step.body }))
      case 'other_lot':
        return ask(api.POST('/api/v1/rounds/{id}/other-lot', { ...to, body: step.body }))
      case 'each_unit':
        return ask(api.POST('/api/v1/rounds/{id}/each-unit', { ...to, body: step.body }))
      case 'whole':
        return ask(api.POST('/api/v1/rounds/{id}/whole', { ...to, body: step.body }))
      case 'stage':
        return ask(api.POST('/api/v1/rounds/{id}/stage', { ...to, body: step.body }))
    }
  }, key)

/** A round as the server has it, with what is queued on the device and not sent yet. */
export function withQueued(round: Schemas['PickRound']): Schemas['PickRound'] {
  return mine.value
    .filter((k) => k.round === round.id)
    .reduce((x, k) => {
      try {
        return withStep(x, k.step)
      } catch {
        // The server's copy has gone on; what it says of the step shows when it is sent.
        return x
      }
    }, round)
}

async function drop(step: QueuedStep) {
  await dropStep(step.key)
  queue.steps = queue.steps.filter((s) => s.key !== step.key)
}

/** Sends what is queued, the oldest first, until one is refused or the connection goes away again. */
export async function sendQueued() {
  await loaded
  if (queue.sending || queue.refused || !reachable()) return
  queue.sending = true
  try {
    for (let next = mine.value[0]; next; next = mine.value[0]) if (!(await sendOne(next))) break
  } finally {
    queue.sending = false
  }
}

async function sendOne(step: QueuedStep): Promise<boolean> {
  try {
    await send(step.key, step.round, step.step)
  } catch (e) {
    if (away(e) || !(e instanceof Problem)) return false
    if (e.status === 401) return false
    // A round that was ended without a connection goes on when it has got another stop since.
    if (step.step.what !== 'stage' || e.code !== 'stops_left') {
      queue.refused = e.message
      return false
    }
    queue.news = `The round goes on: what was short is to be picked elsewhere. ${e.message}`
  }
  await drop(step)
  return true
}

/** Tries the refused one again, or gives it up: what was done on the floor is undone there. */
export async function settle(again: boolean) {
  queue.refused = ''
  const first = mine.value[0]
  if (!again && first) await drop(first)
  void sendQueued()
}

watch([connected, () => session.kept, () => session.person?.id], () => {
  queue.refused = ''
  void sendQueued()
})
window.addEventListener('online', () => void sendQueued())
setInterval(() => {
  if (mine.value.length) void sendQueued()
}, 4000)
