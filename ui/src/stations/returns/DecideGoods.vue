<script setup lang="ts">
import { computed } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import FormField from '@/parts/FormField.vue'
import { usePreview } from '@/parts/preview'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import TextEntry from '@/parts/TextEntry.vue'
import UnitsEntry from '@/parts/UnitsEntry.vue'
import PartyFinder from '@/parts/PartyFinder.vue'
import { fates } from './returning'

/** What becomes of goods that came back, a line at a time; what moves is said before. */
const props = defineProps<{ of: Schemas['ReturnsReturn'] }>()
const emit = defineEmits<{ decided: [] }>()
interface Verdict {
  line: number
  fate: Schemas['ReturnsVerdict']['fate']
  quantity: string
  serials: string[]
  reason: string
  supplier?: Schemas['CatalogParty']
}
const left = (l: Schemas['ReturnsLine']) => Number(l.received) - Number(l.decided)
const open = computed(() => props.of.lines.filter((l) => left(l) > 0))
const draft = useDraft<Verdict>(
  () => `return/${props.of.id}/verdict`,
  () => ({
    line: open.value[0]?.id ?? 0,
    fate: 'stock',
    quantity: String(open.value[0] ? left(open.value[0]) : 0),
    serials: [],
    reason: '',
  }),
)
const d = computed(() => draft.mine.value!)
const line = computed(() => open.value.find((l) => l.id === d.value.line) ?? open.value[0])
function choose(id: number) {
  const l = open.value.find((x) => x.id === id)
  if (l) Object.assign(d.value, { line: id, quantity: String(left(l)), serials: [] })
}
const byUnit = computed(() => line.value?.tracking === 'serial')
const body = computed<Schemas['ReturnsVerdict'] | null>(() => {
  const quantity = byUnit.value ? String(d.value.serials.length) : d.value.quantity
  if (!line.value || !Number(quantity)) return null
  return {
    version: props.of.version,
    line_id: line.value.id,
    fate: d.value.fate,
    quantity,
    serials: d.value.serials.length ? d.value.serials : undefined,
    reason: d.value.reason || undefined,
    supplier_id: d.value.fate === 'supplier' ? d.value.supplier?.id : undefined,
  }
})
const path = computed(() => ({ path: { id: props.of.id } }))
const look = usePreview('decide-return', body, (b) =>
  ask(api.POST('/api/v1/returns/{id}/decide/preview', { params: path.value, body: b })),
)
const { busy, problem, run } = useCommand()
async function decide() {
  const b = body.value
  if (!b) return
  const done = await run(() =>
    once((h) => ask(api.POST('/api/v1/returns/{id}/decide', { headers: h, params: path.value, body: b }))),
  )
  if (!done) return
  draft.discard()
  emit('decided')
}
</script>

<template>
  <section data-decide aria-label="To be decided">
    <h2><span>To be decided</span></h2>
    <div class="fields">
      <FormField label="Of"
        ><ChoiceEntry
          :model-value="line?.id"
          :options="open.map((l) => ({ value: l.id, label: `${l.sku}, ${left(l)} left` }))"
          :width="210"
          @update:model-value="(id) => choose(id ?? 0)"
      /></FormField>
      <FormField v-if="byUnit" label="Units"><UnitsEntry v-model="d.serials" :units="line!.here" /></FormField>
      <FormField v-else label="How many"><QuantityEntry v-model="d.quantity" /></FormField>
      <FormField label="Becomes"><ChoiceEntry v-model="d.fate" :options="fates" :width="190" /></FormField>
      <FormField v-if="d.fate === 'supplier'" label="Supplier" tip="Who supplied it last, where nobody is named."
        ><PartyFinder v-model="d.supplier" kind="supplier"
      /></FormField>
      <FormField label="Why" tip="Needed for what is not good again. It stays in the trail."
        ><TextEntry v-model="d.reason" :width="260" :maxlength="200"
      /></FormField>
    </div>
    <p v-for="m in look.plan.value?.moves" :key="m.from + m.to + m.lot" class="small">
      <b class="mono">{{ m.quantity }}</b> of <span class="mono">{{ m.sku }}</span> from {{ m.from }} to {{ m.to }}
      <template v-if="m.to_real">({{ m.to_before }} becomes {{ m.to_after }})</template>
    </p>
    <p v-for="n in look.plan.value?.notes" :key="n" class="note g">{{ n }}</p>
    <p v-if="problem ?? look.problem.value" class="note s" role="alert" data-problem>
      {{ (problem ?? look.problem.value)?.message }}
    </p>
    <a-button type="primary" :disabled="!look.plan.value || !look.fresh.value || busy" @click="decide">
      {{ look.plan.value?.button ?? 'Decide on it' }}
    </a-button>
  </section>
</template>
