<script setup lang="ts">
import { reactive, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { useCommand } from '@/parts/preview'
import { today } from '@/parts/words'

/** A supplier's bill, held line by line against what was ordered and what came. */
const props = defineProps<{ order: Schemas['PurchasingOrder'] }>()
const emit = defineEmits<{ kept: [] }>()
const number = ref('')
const billedOn = ref(today())
const lines = reactive(
  props.order.lines
    .filter((l) => Number(l.item_id ? l.received : l.quantity) > Number(l.billed))
    .map((l) => ({ line: l, quantity: '', price: l.price, reason: '' })),
)
const { busy, problem, run } = useCommand()

async function keep() {
  const kept = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/purchase-orders/{id}/bills', {
          headers: h,
          params: { path: { id: props.order.id } },
          body: {
            number: number.value,
            billed_on: billedOn.value,
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
  if (kept) emit('kept')
}
const asked = () => lines.filter((l) => l.quantity)
/** A price above the allowance may pass when a lead says why. */
const asksWhy = (l: (typeof lines)[number]) =>
  session.person?.role === 'lead' &&
  (!!l.reason ||
    (['bill_price', 'reason_short'].includes(problem.value?.code ?? '') &&
      !!problem.value?.field?.startsWith(`lines[${asked().indexOf(l)}]`)))
const refused = (l: (typeof lines)[number], part: string) =>
  problem.value?.field === `lines[${asked().indexOf(l)}].${part}`
</script>

<template>
  <section class="bill" aria-label="Bill">
    <div class="fields">
      <label class="field">Bill number<input v-model="number" class="mono" size="14" /></label>
      <label class="field">Dated<input v-model="billedOn" class="mono" size="11" /></label>
    </div>
    <table class="plain">
      <thead>
        <tr>
          <th>Item</th>
          <th class="r">Ordered</th>
          <th class="r">Received</th>
          <th class="r">Billed before</th>
          <th class="r">Billed now</th>
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
          <td class="r mono">{{ l.line.billed }}</td>
          <td class="r">
            <input
              v-model="l.quantity"
              class="num mono"
              inputmode="decimal"
              :aria-label="`${l.line.sku || l.line.description} billed now`"
              :aria-invalid="refused(l, 'quantity')"
            />
          </td>
          <td class="r">
            <input
              v-model="l.price"
              class="num mono"
              inputmode="decimal"
              :aria-label="`${l.line.sku || l.line.description} price billed`"
              :aria-invalid="refused(l, 'price')"
            />
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="!lines.length" class="empty">Everything that came is billed.</div>
    <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
    <button class="btn go" data-primary :disabled="busy || !lines.length" @click="keep">Keep the bill</button>
  </section>
</template>

<style scoped>
.bill {
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
