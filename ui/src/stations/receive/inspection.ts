import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, type Ref, watch } from 'vue'
import { api, ask, once } from '@/api/client'
import { useCommand } from '@/parts/command'
import { usePreview } from '@/parts/preview'

/** Goods set aside until somebody has looked at them, and the verdict on them. */
export function useInspection(id: Ref<number>, active: Ref<boolean>) {
  const query = useQuery({
    queryKey: ['receive', 'inspection', id],
    queryFn: () => ask(api.GET('/api/v1/inspections/{id}', { params: { path: { id: id.value } } })),
    enabled: active,
  })
  const goods = computed(() => (active.value ? query.data.value : undefined))
  const verdict = reactive({ passed: '', reason: '', serials: [] as string[] })
  watch(id, () => Object.assign(verdict, { passed: '', reason: '', serials: [] }))
  const preview = usePreview(
    'inspection',
    computed(() => (verdict.passed && goods.value?.state === 'waiting' ? { ...verdict } : null)),
    (b) => ask(api.POST('/api/v1/inspections/{id}/decide/preview', { params: { path: { id: id.value } }, body: b })),
  )
  const command = useCommand()

  async function decide() {
    await command.run(
      () =>
        once((h) =>
          ask(
            api.POST('/api/v1/inspections/{id}/decide', {
              headers: h,
              params: { path: { id: id.value } },
              body: { ...verdict },
            }),
          ),
        ),
      (x) => `${x.passed} passed, ${x.failed} failed.`,
    )
    await query.refetch()
  }

  /** Units that are not fine are named; the others are fine. */
  function toggle(code: string) {
    verdict.serials = verdict.serials.includes(code)
      ? verdict.serials.filter((c) => c !== code)
      : [...verdict.serials, code]
    verdict.passed = String(Number(goods.value?.sample ?? 0) - verdict.serials.length)
  }

  return { query, goods, verdict, preview, command, decide, toggle }
}
