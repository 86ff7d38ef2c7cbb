<script setup lang="ts">
import { reactive, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { useCommand } from '@/parts/preview'
import { today } from '@/parts/words'

/** A supplier's invoice, held line by line against what was ordered and what came. */
const props = defineProps<{ order: Schemas['PurchasingOrder'] }>()
const emit = defineEmits<{ saved: [] }>()
const number = ref('')
const invoicedOn = ref(today())
const lines = reactive(
  props.order.lines
    .filter((l) => Number(l.item_id ? l.received : l.quantity) > Number(l.invoiced))
    .map((l) => ({ line: l, quantity: '', price: l.price, reason: '' })),
)
const { busy, problem, run } = useCommand()

async function save() {
  const saved = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/purchase-orders/{id}/invoices', {
          headers: h,
          params: { path: { id: props.order.id } },
          body: {
            number: number.value,
            invoiced_on: invoicedOn.value,
            lines: asked().map((l) => ({
              line_id: l.line.id,
              quantity: l.quantity,
              price: l.price,
              reason: l.reason || undefined,
            })),
          },
        }),
      ),
    ),
  )
  if (saved) emit('saved')
}
const asked = () => lines.filter((l) => l.quantity)
/** A price above the allowance may pass when a lead says why. */
const asksWhy = (l: (typeof lines)[number]) =>
  session.person?.role === 'lead' &&
  (!!l.reason ||
    (['invoice_price', 'reason_short'].includes(problem.value?.code ?? '') &&
      !!problem.value?.field?.startsWith(`lines[${asked().indexOf(l)}]`)))
const refused = (l: (typeof lines)[number], part: string) =>
  problem.value?.field === `lines[${asked().indexOf(l)}].${part}`
</script>

<template>
  <section class="invoice" aria-label="Invoice">
    <div class="fields">
      <label class="field">Invoice number<input v-model="number" class="mono" size="14" /></label>
      <label class="field">Dated<input v-model="invoicedOn" class="mono" size="11" /></label>
    </div>
    <table class="plain">
      <thead>
        <tr>
          <th>Item</th>
          <th class="r">Ordered</th>
          <th class="r">Received</th>
          <th class="r">Invoiced before</th>
          <th class="r">Invoiced now</th>
          <th class="r">Price each</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in lines" :key="l.line.id">
          <td class="mono">
            {{ l.line.sku || l.line.description }}
            <label v-if="asksWhy(l)" class="small"
              >Let it pass, because<input v-model="l.reason" :aria-label="`${l.line.sku} price passes because`"
            /></label>
          </td>
          <td class="r mono">{{ l.line.quantity }}</td>
          <td class="r mono">{{ l.line.item_id ? l.line.received : '' }}</td>
          <td class="r mono">{{ l.line.invoiced }}</td>
          <td class="r">
            <input
              v-model="l.quantity"
              class="num mono"
              inputmode="decimal"
              :aria-label="`${l.line.sku || l.line.description} invoiced now`"
              :aria-invalid="refused(l, 'quantity')"
            />
          </td>
          <td class="r">
            <input
              v-model="l.price"
              class="num mono"
              inputmode="decimal"
              :aria-label="`${l.line.sku || l.line.description} price invoiced`"
              :aria-invalid="refused(l, 'price')"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="!lines.length" class="empty">Everything that came is invoiced.</div>
    <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
    <button class="btn go" data-primary :disabled="busy || !lines.length" @click="save">Save the invoice</button>
  </section>
</template>

<style scoped>
.invoice {
  margin-top: 14px;
  padding: 12px 14px;
  border: 1px solid var(--line);
  border-radius: 8px;
}
.btn,
.note {
  margin-top: 10px;
}
</style>
