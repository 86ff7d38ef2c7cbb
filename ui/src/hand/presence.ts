import { watch } from 'vue'
import { api, ask, Problem } from '@/api/client'
import { connected, confirmWith } from '@/api/live'
import { session, signedOff, signedOn } from '@/api/session'
import { forgetPerson, keepPerson, keptPerson, keptSteps, leavePerson } from './store'

/**
 * Who is signed on at this device, with a connection or without one: the device keeps them, so that the hand opens anew
 * where the server cannot be asked, and asks as soon as it can.
 */

const lost = (e: unknown) => e instanceof Problem && (e.status === 0 || e.status >= 500)

/** Asks the server who is signed on. Whoever signed off in the meantime is signed off there first. */
async function confirm() {
  const kept = await keptPerson()
  const now = await ask(api.GET('/api/v1/session', { signal: AbortSignal.timeout(5000) }))
  if (kept?.left) {
    session.csrf = now.csrf
    await ask(api.POST('/api/v1/session/end'))
    await forgetPerson()
    return signedOff()
  }
  signedOn(now)
}

let following = false

/** Keeps whoever is signed on from now on. */
export function followPresence() {
  if (following) return
  following = true
  confirmWith(confirmKept)
  watch(
    () => [session.person?.id, session.csrf] as const,
    () => {
      if (session.person && !session.kept) void keepPerson(session.person).catch(() => undefined)
    },
    { immediate: true },
  )
}

/** Finds out who is signed on when the hand opens. */
export async function findPresence() {
  followPresence()
  try {
    await confirm()
  } catch (e) {
    session.ended = false
    if (!lost(e)) return
    const kept = await keptPerson().catch(() => undefined)
    if (!kept || kept.left) return
    session.person = kept.person
    session.kept = true
    connected.value = false
  }
}

/** Asks again for whoever is kept: another page opens over what they do when they are signed on no more. */
async function confirmKept() {
  try {
    await confirm()
  } catch (e) {
    if (lost(e)) throw e
    session.kept = false
    session.ended = true
  }
}

/** How many steps of whoever is signed on this device has not sent. */
export async function unsent() {
  const steps = await keptSteps().catch(() => [])
  return steps.filter((s) => s.person === session.person?.id).length
}

/** Tells the server, where it can be reached. */
async function told(): Promise<boolean> {
  if (session.kept) return false
  try {
    await ask(api.POST('/api/v1/session/end', { signal: AbortSignal.timeout(5000) }))
    return true
  } catch (e) {
    if (lost(e)) return false
    throw e
  }
}

/** Signs off here, and at the server as soon as it can be told. */
export async function signOff() {
  if (await told()) await forgetPerson()
  else await leavePerson()
  signedOff()
}
