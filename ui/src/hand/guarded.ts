import { ref } from 'vue'
import { Problem } from '@/api/client'
import { signal } from './signal'

/**
 * Runs a step of the hand: what is wrong with it is shown and sounds, and so does that it is right. A scan that comes
 * while the one before it is looked at waits for its turn, so that it meets the question it was made for.
 */
export function useGuarded() {
  const wrong = ref('')
  const done = ref('')
  const busy = ref(false)
  const refused = ref<Problem>()
  let last = Promise.resolve()
  const guarded = (act: () => Promise<void>) => (last = last.then(() => run(act)))
  async function run(act: () => Promise<void>) {
    wrong.value = ''
    done.value = ''
    refused.value = undefined
    busy.value = true
    try {
      await act()
      signal(true)
    } catch (e) {
      wrong.value = (e as Problem).message
      if (e instanceof Problem) refused.value = e
      signal(false)
    }
    busy.value = false
  }
  return { busy, wrong, done, refused, guarded }
}
