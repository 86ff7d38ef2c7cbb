<script setup lang="ts">
import { computed } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import CarrierEntry from '@/parts/CarrierEntry.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { useCommand } from '@/parts/command'
import DateEntry from '@/parts/DateEntry.vue'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import { usePreview } from '@/parts/preview'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import { useSure } from '@/parts/sure'
import TextEntry from '@/parts/TextEntry.vue'
import { money, today } from '@/parts/words'
import CostForecast from './CostForecast.vue'
import { freightInvoiced } from './purchase'

/** A carrier's invoice for the freight of an order, which what came on it bears. */
const props = defineProps<{ order: Schemas['PurchasingOrder'] }>()
const emit = defineEmits<{ saved: [] }>()
const draft = useDraft(
  () => `freight-invoice/${props.order.id}`,
  () => ({ number: '', invoicedOn: today(), carrier: props.order.carrier, amount: '', by: props.order.freight_by }),
)
const d = computed(() => draft.mine.value!)
const { sure, asking, yes } = useSure(() => draft.mine.value)
const body = computed(() => ({
  number: d.value.number,
  invoiced_on: d.value.invoicedOn,
  carrier: d.value.carrier,
  amount: d.value.amount,
  by: d.value.by,
  sure: sure.value,
}))
const preview = usePreview(
  `freight/${props.order.id}`,
  computed(() => (d.value.number && d.value.amount && d.value.carrier ? body.value : null)),
  (b) =>
    ask(
      api.POST('/api/v1/purchase-orders/{id}/freight/preview', { params: { path: { id: props.order.id } }, body: b }),
    ),
)
const { busy, problem, run } = useCommand()
asking(() => save())
async function save() {
  const saved = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/purchase-orders/{id}/freight', {
          headers: h,
          params: { path: { id: props.order.id } },
          body: body.value,
        }),
      ),
    ),
  )
  if (!saved) return
  draft.discard()
  emit('saved')
}
const ways = [
  { value: 'value' as const, label: 'value' },
  { value: 'weight' as const, label: 'weight' },
]
const instead = computed(() =>
  freightInvoiced(props.order)
    ? 'On top of the freight that is invoiced already.'
    : Number(props.order.freight)
      ? `In place of the ${money(props.order.freight)} that were agreed.`
      : 'No freight was agreed on this order.',
)
</script>

<template>
  <section class="freight" aria-label="Freight invoice">
    <EntryForm :problem="problem" @submit="save" @sure="yes">
      <DraftNotice :of="draft" :labels="(path) => path.at(-1) ?? ''" />
      <div class="fields">
        <FormField label="Invoice number" field="number" required tip="As it stands on the carrier's paper."
          ><TextEntry v-model="d.number" mono :width="152"
        /></FormField>
        <FormField label="Dated" field="invoiced_on" required><DateEntry v-model="d.invoicedOn" /></FormField>
        <FormField label="Carrier" field="carrier" required
          ><CarrierEntry v-model="d.carrier" none="choose a carrier" :width="180"
        /></FormField>
        <FormField label="Amount" field="amount" required :tip="instead"
          ><QuantityEntry v-model="d.amount"
        /></FormField>
        <FormField label="Spread by" field="by"><ChoiceEntry v-model="d.by" :options="ways" :width="110" /></FormField>
      </div>
      <CostForecast :preview="preview" />
    </EntryForm>
    <a-button type="primary" data-primary :disabled="busy" @click="save">Save the freight</a-button>
  </section>
</template>

<style scoped>
.freight {
  margin-top: 14px;
  padding: 12px 14px;
  border: 1px solid var(--line);
  border-radius: 8px;
}
.freight > .ant-btn {
  margin-top: 10px;
}
</style>
