<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can } from '@/api/session'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import CommandNotice from '@/parts/CommandNotice.vue'
import CostEntries from '@/parts/CostEntries.vue'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import SheetTable from '@/parts/SheetTable.vue'
import TextEntry from '@/parts/TextEntry.vue'
import { money } from '@/parts/words'

/** What was asked to be paid for an order, matched or taken back, and what that made its goods cost. */
const props = defineProps<{ order: Schemas['PurchasingOrder'] }>()
const emit = defineEmits<{ changed: [] }>()
type Invoice = Schemas['PurchasingInvoice']
const columns: Column<Invoice>[] = [
  { name: 'number', label: 'Number', of: (b) => b.number, mono: true },
  { name: 'dated', label: 'Dated', of: (b) => b.invoiced_on, mono: true },
  { name: 'of', label: 'Of', of: (b) => b.carrier || props.order.supplier },
  { name: 'for', label: 'For', of: (b) => (b.carrier ? 'freight' : b.orders), mono: true },
  { name: 'person', label: 'Entered by', of: (b) => b.person },
  { name: 'amount', money: true, label: 'Amount', of: (b) => money(b.amount), right: true, mono: true },
  { name: 'does', label: '' },
]
const costs = useQuery({
  queryKey: [
    'receive',
    'costs',
    computed(() => props.order.number),
    computed(() => props.order.invoices.map((b) => [b.id, b.waits, b.taken_back])),
  ],
  queryFn: () => ask(api.GET('/api/v1/value/recosts', { params: { query: { document: props.order.number } } })),
})
/** The invoice that is to be taken back, and why. */
const taking = ref(0)
const why = ref('')
const command = useCommand()
const { busy, run } = command
const at = (b: Invoice) => ({ path: { id: props.order.id, invoice: b.id } })
async function match(b: Invoice) {
  const matched = await run(
    () =>
      once((h) =>
        ask(api.POST('/api/v1/purchase-orders/{id}/invoices/{invoice}/match', { headers: h, params: at(b) })),
      ),
    () => `Invoice ${b.number} is matched with what came.`,
  )
  if (matched) emit('changed')
}
async function takeBack(b: Invoice) {
  const body = { reason: why.value }
  const taken = await run(
    () =>
      once((h) =>
        ask(api.POST('/api/v1/purchase-orders/{id}/invoices/{invoice}/take-back', { headers: h, params: at(b), body })),
      ),
    () => `Invoice ${b.number} is taken back.`,
  )
  if (!taken) return
  taking.value = 0
  why.value = ''
  emit('changed')
}
</script>

<template>
  <h2 class="part"><span>Invoices</span></h2>
  <CommandNotice :of="command" />
  <SheetTable
    label="Invoices"
    data-invoices
    :columns="columns"
    :rows="order.invoices"
    :row-key="(b) => b.id"
    :opened="taking ? [taking] : []"
  >
    <template #does="{ row: b }">
      <span v-if="b.counter" class="mute">takes it back: {{ b.reason }}</span>
      <span v-else-if="b.taken_back" class="mute">taken back</span>
      <template v-else-if="b.waits">
        <span class="late">waits for its goods</span>
        <a-button v-if="can('match-invoice')" type="link" size="small" :disabled="busy" @click="match(b)"
          >Match it</a-button
        >
      </template>
      <a-button
        v-if="!b.counter && !b.taken_back && can('take-invoice-back')"
        type="link"
        size="small"
        :aria-expanded="taking === b.id"
        @click="taking = taking === b.id ? 0 : b.id"
        >Take it back</a-button
      >
    </template>
    <template #more="{ row: b }">
      <EntryForm @submit="takeBack(b)">
        <div class="fields">
          <FormField label="Reason" required><TextEntry v-model="why" :maxlength="200" :width="300" /></FormField>
          <a-button html-type="submit" :disabled="busy || !why.trim()">Take back {{ money(b.amount) }}</a-button>
        </div>
      </EntryForm>
    </template>
  </SheetTable>
  <template v-if="costs.data.value?.length">
    <h2 class="part"><span>Costs that invoices changed</span></h2>
    <CostEntries :entries="costs.data.value" label="Costs that invoices changed" data-costs />
  </template>
</template>

<style scoped>
.part {
  margin-top: 18px;
}
</style>
