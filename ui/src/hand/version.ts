import { ref } from 'vue'

/**
 * The hand's own copy of the application, kept on the device, so that it opens without a connection. A newer one is
 * fetched beside it, and taken up between rounds: never within one, where what is asked would change under the hand.
 */
export const newer = ref(false)

let registration: ServiceWorkerRegistration | undefined

export async function keepApplication() {
  if (!('serviceWorker' in navigator) || registration) return
  try {
    registration = await navigator.serviceWorker.register('/sw.js', { scope: '/hand' })
  } catch {
    // A device that keeps no application still works while there is a connection.
    return
  }
  const look = () => (newer.value = !!registration?.waiting && !!registration.active)
  look()
  registration.addEventListener('updatefound', () => registration?.installing?.addEventListener('statechange', look))
}

/** Between rounds: looks whether there is a newer application, and goes on with it when it is here. */
export async function takeUp() {
  if (!registration) return
  await registration.update().catch(() => undefined)
  const waiting = registration.waiting
  if (!waiting || !registration.active) return
  navigator.serviceWorker.addEventListener('controllerchange', () => location.reload(), { once: true })
  waiting.postMessage({ type: 'SKIP_WAITING' })
}
