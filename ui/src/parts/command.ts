import { onScopeDispose, ref } from 'vue'
import { Problem, unanswered } from '@/api/client'

/**
 * One command at a time, with what came of it: running, done, refused, or not known. One that is not known keeps its
 * request key, so that pressing again does it once.
 */
export function useCommand() {
  const busy = ref(false)
  const problem = ref<Problem>()
  const done = ref('')
  /** Whether it may have happened all the same: nobody answered. */
  const unknown = ref(false)
  /** What takes the last one back, for a while. */
  const undo = ref<() => Promise<unknown>>()
  let forget: ReturnType<typeof setTimeout> | undefined
  /** How long "Undo" is offered, in ms. */
  const offered = 20_000

  async function run<T>(act: () => Promise<T>, say?: (answer: T) => string): Promise<T | undefined> {
    busy.value = true
    problem.value = undefined
    unknown.value = false
    done.value = ''
    undo.value = undefined
    try {
      const answer = await act()
      done.value = say?.(answer) ?? ''
      return answer
    } catch (e) {
      unknown.value = unanswered(e)
      problem.value =
        e instanceof Problem
          ? e
          : new Problem(500, 'internal', 'Something went wrong on this page. Reload it and look again.')
      if (!(e instanceof Problem)) console.error(e)
      return undefined
    } finally {
      busy.value = false
    }
  }
  /** Offers a counter-move for a while. */
  function offerUndo(act: () => Promise<unknown>) {
    clearTimeout(forget)
    undo.value = act
    forget = setTimeout(() => (undo.value = undefined), offered)
  }
  onScopeDispose(() => clearTimeout(forget))
  return { busy, problem, done, unknown, undo, run, offerUndo }
}
