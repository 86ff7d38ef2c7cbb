import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref, ref } from 'vue'
import { api, ask, once } from '@/api/client'
import { useCommand } from './command'

/**
 * A person's saved views of a list: its filters and columns, stored on the server under a name. They are read when they
 * are wanted.
 */
export function useSaved(
  list: string,
  now: () => Record<string, string>,
  apply: (settings: Record<string, string>) => void,
  wanted: Readonly<Ref<boolean>> = ref(true),
) {
  const queries = useQueryClient()
  const key = ['views', list]
  const views = useQuery({
    queryKey: key,
    queryFn: () => ask(api.GET('/api/v1/views/{list}', { params: { path: { list } } })),
    enabled: wanted,
  })
  const name = ref('')
  const { busy, problem, run } = useCommand()

  async function save() {
    const all = await run(() =>
      once((h) =>
        ask(
          api.POST('/api/v1/views/{list}/save', {
            headers: h,
            params: { path: { list } },
            body: { name: name.value, settings: now() },
          }),
        ),
      ),
    )
    if (all) queries.setQueryData(key, all)
  }

  async function drop(which: string) {
    const all = await run(() =>
      once((h) =>
        ask(
          api.POST('/api/v1/views/{list}/drop', {
            headers: h,
            params: { path: { list } },
            body: { name: which },
          }),
        ),
      ),
    )
    if (all) queries.setQueryData(key, all)
  }

  function open(which: string) {
    const view = views.data.value?.find((v) => v.name === which)
    if (!view) return
    name.value = which
    apply(view.settings)
  }

  return { views: computed(() => views.data.value ?? []), name, busy, problem, save, drop, open }
}
