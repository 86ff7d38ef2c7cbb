<script setup lang="ts">
import { useQueries, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { worksAs } from '@/api/session'
import type { Column } from '@/parts/columns'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { useCommand } from '@/parts/command'
import DateEntry from '@/parts/DateEntry.vue'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import { usePreview } from '@/parts/preview'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import { useSure } from '@/parts/sure'
import TextEntry from '@/parts/TextEntry.vue'
import { today } from '@/parts/words'
import CostForecast from './CostForecast.vue'

/** A supplier's invoice, held line by line against what was ordered and what came. */
const props = defineProps<{ order: Schemas['PurchasingOrder'] }>()
const emit = defineEmits<{ saved: [] }>()

type OrderLine = Schemas['PurchasingLine']
/** What is entered for a line. */
interface Entered {
  key: string
  quantity: string
  price: string
  reason: string
}
const unwritten = today()
const draft = useDraft<{ number: string; invoicedOn: string; lines: Entered[]; also: number[] }>(
  () => `supplier-invoice/${props.order.id}`,
  () => ({ number: '', invoicedOn: unwritten, lines: [], also: [] }),
)
const d = computed(() => draft.mine.value!)
/** Other orders of the supplier of which something came and is not invoiced: one invoice may ask for several. */
const others = useQuery({
  queryKey: ['receive', 'uninvoiced', computed(() => props.order.supplier_id), computed(() => props.order.site_id)],
  queryFn: () =>
    ask(
      api.GET('/api/v1/purchase-orders', {
        params: { query: { site: props.order.site_id, list: 'uninvoiced', supplier: props.order.supplier_id } },
      }),
    ),
})
const choices = computed(() => [
  { value: 0, label: 'no other order' },
  ...(others.data.value?.orders ?? [])
    .filter((o) => o.id !== props.order.id && !d.value.also.includes(o.id))
    .map((o) => ({ value: o.id, label: o.number })),
])
const joined = useQueries({
  queries: computed(() =>
    d.value.also.map((id) => ({
      queryKey: ['receive', 'order', id],
      queryFn: () => ask(api.GET('/api/v1/purchase-orders/{id}', { params: { path: { id } } })),
    })),
  ),
})
const uninvoiced = computed(() =>
  [props.order, ...joined.value.flatMap((q) => q.data ?? [])]
    .flatMap((o) => o.lines)
    .filter((l) => Number(l.item_id ? l.received : 0) > Number(l.invoiced) || Number(l.quantity) > Number(l.invoiced)),
)
/** What is entered for a line; of one that nothing was typed for, the price agreed. */
const entered = (l: OrderLine): Entered =>
  d.value.lines.find((e) => e.key === String(l.id)) ?? { key: String(l.id), quantity: '', price: l.price, reason: '' }
function enter(l: OrderLine, change: Partial<Entered>) {
  const stands = d.value.lines.find((e) => e.key === String(l.id))
  if (stands) Object.assign(stands, change)
  else d.value.lines.push({ ...entered(l), ...change })
}
const { busy, problem, run } = useCommand()
const asked = () => uninvoiced.value.filter((l) => entered(l).quantity)
const fieldOf = (l: OrderLine, part: string) => `lines[${asked().indexOf(l)}].${part}`

const { sure, asking, yes } = useSure(() => draft.mine.value)
const body = computed(() => ({
  number: d.value.number,
  invoiced_on: d.value.invoicedOn,
  sure: sure.value,
  lines: asked().map((l) => ({
    line_id: l.id,
    quantity: entered(l).quantity,
    price: entered(l).price,
    reason: entered(l).reason || undefined,
  })),
}))
const preview = usePreview(
  'invoice',
  computed(() => (d.value.number && body.value.lines.length ? body.value : null)),
  (b) =>
    ask(
      api.POST('/api/v1/purchase-orders/{id}/invoices/preview', { params: { path: { id: props.order.id } }, body: b }),
    ),
)
asking(() => save())
async function save() {
  const saved = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/purchase-orders/{id}/invoices', {
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
/** A price above the allowance may pass when a lead says why. */
const asksWhy = (l: OrderLine) =>
  worksAs('lead') &&
  (!!entered(l).reason ||
    (['invoice_price', 'reason_short'].includes(problem.value?.code ?? '') &&
      !!problem.value?.field?.startsWith(`lines[${asked().indexOf(l)}]`)))
const nameOf = (l: OrderLine) => l.sku || l.description
const columns: Column<OrderLine>[] = [
  { name: 'order', label: 'Order', of: (l) => l.order, mono: true },
  { name: 'item', label: 'Item', of: nameOf },
  { name: 'ordered', label: 'Ordered', of: (l) => l.quantity, right: true, mono: true },
  { name: 'received', label: 'Received', of: (l) => (l.item_id ? l.received : ''), right: true, mono: true },
  { name: 'before', label: 'Invoiced before', of: (l) => l.invoiced, right: true, mono: true },
  { name: 'now', label: 'Invoiced now', right: true },
  { name: 'price', label: 'Price each', right: true },
]
</script>

<template>
  <section class="invoice" aria-label="Invoice">
    <EntryForm :problem="problem" @submit="save" @sure="yes">
      <DraftNotice :of="draft" :labels="(path) => path.at(-1) ?? ''" />
      <div class="fields">
        <FormField label="Invoice number" field="number" required tip="As it stands on the supplier's paper."
          ><TextEntry v-model="d.number" mono :width="152"
        /></FormField>
        <FormField label="Dated" field="invoiced_on" required><DateEntry v-model="d.invoicedOn" /></FormField>
        <FormField
          v-if="choices.length > 1"
          label="Asks for lines of another order, too"
          tip="Of the same supplier, of which something came and is not invoiced."
          ><ChoiceEntry
            :model-value="0"
            :options="choices"
            :width="180"
            @update:model-value="(o) => o && (d.also = [...d.also, o])"
        /></FormField>
      </div>
      <SheetTable label="Lines to invoice" :columns="columns" :rows="uninvoiced" :row-key="(l) => l.id">
        <template #item="{ row: l }">
          <span class="mono">{{ nameOf(l) }}</span>
          <FormField v-if="asksWhy(l)" :label="`${l.sku} reason for the price`"
            ><TextEntry
              :model-value="entered(l).reason"
              :width="240"
              @update:model-value="(reason) => enter(l, { reason: reason ?? '' })"
          /></FormField>
        </template>
        <template #now="{ row: l }">
          <QuantityEntry
            :model-value="entered(l).quantity"
            :label="`${nameOf(l)} invoiced now`"
            :field="fieldOf(l, 'quantity')"
            @update:model-value="(quantity) => enter(l, { quantity: quantity ?? '' })"
          />
        </template>
        <template #price="{ row: l }">
          <QuantityEntry
            :model-value="entered(l).price"
            :label="`${nameOf(l)} price invoiced`"
            :field="fieldOf(l, 'price')"
            @update:model-value="(price) => enter(l, { price: price ?? '' })"
          />
        </template>
        <template #empty>Everything that came is invoiced.</template>
      </SheetTable>
      <CostForecast :preview="preview" />
    </EntryForm>
    <a-button type="primary" data-primary :disabled="busy || !uninvoiced.length" @click="save">
      Save the invoice
    </a-button>
  </section>
</template>

<style scoped>
.invoice {
  margin-top: 14px;
  padding: 12px 14px;
  border: 1px solid var(--line);
  border-radius: 8px;
}
.invoice > .ant-btn {
  margin-top: 10px;
}
</style>
