import { computed, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'

type Change = Record<string, string | undefined>

/** What was put into the address and is not there yet: going there takes a moment, in which it is true already. */
const coming = shallowRef<Change>({})
let turn = 0

/** What stands in the address of a page, and how it is changed: a second change does not lose the first. */
export function useAddressQuery() {
  const route = useRoute()
  const router = useRouter()
  const at = (name: string) => (name in coming.value ? coming.value[name] : (route.query[name] as string | undefined))
  async function narrow(change: Change) {
    const mine = ++turn
    coming.value = { ...coming.value, ...change }
    await router.replace({ query: { ...route.query, ...coming.value } })
    if (turn === mine) coming.value = {}
  }
  return { at, narrow: (change: Change) => void narrow(change) }
}

/** What a page is asked for stands in its address, so that it is linked to and survives a reload: without what is usual. */
export function useAddress() {
  const { at, narrow } = useAddressQuery()
  return <T extends string>(name: string, usual: T) =>
    computed<T>({
      get: () => (at(name) as T | undefined) || usual,
      set: (v) => narrow({ [name]: v === usual ? undefined : v }),
    })
}
