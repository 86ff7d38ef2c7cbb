import { ref, watch } from 'vue'

/** Questions about what is entered that were answered with yes, for as long as it stays as it is. */
export function useSure(entered: () => unknown) {
  const sure = ref<string[]>([])
  let again: (() => unknown) | undefined
  watch(entered, () => (sure.value = []), { deep: true })
  /** What is done again once a question is answered with yes. */
  const asking = (act: () => unknown) => (again = act)
  function yes(code: string) {
    sure.value = [...sure.value, code]
    void again?.()
  }
  return { sure, asking, yes }
}
