import { useQuery } from '@tanstack/vue-query'
import { computed, type Ref, ref, watch } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import type { useCommand } from '@/parts/command'
import { usePreview } from '@/parts/preview'

/** The one bin that a pallet or carton goes to with all that is on it: the first offered, until another is chosen. */
export function usePalletBin(
  pallet: Ref<Schemas['CartonsPallet'] | undefined>,
  command: ReturnType<typeof useCommand>,
) {
  const id = computed(() => pallet.value?.id ?? 0)
  const bin = ref('')
  const offers = useQuery({
    queryKey: ['putaway', 'pallet-bins', id],
    queryFn: () => ask(api.GET('/api/v1/put-away/pallets/{id}/bins', { params: { path: { id: id.value } } })),
    enabled: computed(() => id.value > 0),
    retry: false,
  })
  watch(id, () => (bin.value = ''))
  watch(offers.data, (list) => (bin.value ||= list?.[0]?.bin ?? ''))
  const body = computed(() => (id.value && bin.value ? { carton_id: id.value, bin: bin.value } : null))
  const preview = usePreview('put-away-pallet', body, (b) =>
    ask(api.POST('/api/v1/put-away/pallets/preview', { body: b })),
  )
  const putAway = () => {
    const b = body.value
    return b
      ? command.run(
          () => once((h) => ask(api.POST('/api/v1/put-away/pallets', { headers: h, body: b }))),
          (x) => `Put away as one in ${x.moves[0]?.to}.`,
        )
      : Promise.resolve(undefined)
  }
  return { bin, offers, preview, putAway }
}
