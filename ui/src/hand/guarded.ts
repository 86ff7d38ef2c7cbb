import { ref } from 'vue'
import type { Problem } from '@/api/client'
import { signal } from './signal'

/** Runs a step of the hand: what is wrong with it is shown and sounds, and so does that it is right. */
export function useGuarded() {
  const wrong = ref('')
  const done = ref('')
  async function guarded(act: () => Promise<void>) {
    wrong.value = ''
    done.value = ''
    try {
      await act()
      signal(true)
    } catch (e) {
      wrong.value = (e as Problem).message
      signal(false)
    }
  }
  return { wrong, done, guarded }
}
