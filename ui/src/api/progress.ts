import { shallowRef } from 'vue'

/** How far the command is that runs on this page, once it has run for a while; a total of 0 is not known. */
export const progress = shallowRef<{ done: number; total: number }>()

/** After how long it is said, and how often it is asked for then, in ms. */
const patience = 1500
const beat = 700

/** Follows a command by its request key until what is returned is called. */
export function follow(key: string): () => void {
  let running = true
  let next: ReturnType<typeof setTimeout>
  async function look() {
    const answer = await fetch(`/api/v1/commands/${encodeURIComponent(key)}`).catch(() => undefined)
    const now = answer?.ok ? ((await answer.json()) as { done: number; total: number }) : { done: 0, total: 0 }
    if (!running) return
    progress.value = now
    next = setTimeout(() => void look(), beat)
  }
  next = setTimeout(() => void look(), patience)
  return () => {
    running = false
    clearTimeout(next)
    progress.value = undefined
  }
}
