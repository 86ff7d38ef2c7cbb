<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import FindEntry from '@/parts/FindEntry.vue'
import FormField from '@/parts/FormField.vue'
import { usePreview } from '@/parts/preview'
import SheetTable from '@/parts/SheetTable.vue'
import { plural } from '@/parts/words'
import { asked } from './proposedRound'
import RobbedOrders from './RobbedOrders.vue'

/** Orders that go on a round as well: what they would add to it, and then it is done. */
const props = defineProps<{ round: Schemas['PickRound'] }>()
const emit = defineEmits<{ added: [round: Schemas['PickRound']]; leave: [] }>()
type Order = Schemas['PickOpenOrder']
const orders = ref<Order[]>([])
const command = useCommand()
const find = async (text: string, signal: AbortSignal) => {
  const query = { site: session.site, q: text, limit: 50 }
  const page = await ask(api.GET('/api/v1/pick/open', { params: { query }, signal }))
  return page.rows
    .filter((o) => !orders.value.some((x) => x.id === o.id))
    .map((o) => ({ value: o.id, label: `${o.number}, ${o.customer}`, code: [o.number], of: o }))
}
const path = { params: { path: { id: props.round.id } } }
const { plan, problem, fresh } = usePreview(
  'add-stops',
  computed(() => (orders.value.length ? { order_ids: orders.value.map((o) => o.id) } : null)),
  (body) => ask(api.POST('/api/v1/rounds/{id}/add/preview', { ...path, body })),
)
async function add() {
  const stops = plan.value?.stops.map((s) => asked(s, s.quantity)) ?? []
  const r = await command.run(() =>
    once((h) => ask(api.POST('/api/v1/rounds/{id}/add', { ...path, headers: h, body: { stops } }))),
  )
  if (r) emit('added', r)
}
const columns: Column<Schemas['PickProposedStop']>[] = [
  { name: 'bin', label: 'Bin', of: (s) => s.bin, mono: true },
  { name: 'item', label: 'Item', of: (s) => s.sku, mono: true },
  { name: 'description', label: 'Description', of: (s) => s.description },
  { name: 'lot', label: 'Lot or units', of: (s) => [s.lot, ...s.serials].filter(Boolean).join(', '), mono: true },
  { name: 'order', label: 'Order', of: (s) => s.order, mono: true },
  { name: 'quantity', label: 'Pick', of: (s) => s.quantity, right: true, mono: true },
]
</script>

<template>
  <section class="adding" aria-label="Orders to add">
    <FormField label="Order to add">
      <FindEntry placeholder="number or customer" :width="280" clears :find="find" @choose="(o) => orders.push(o.of)" />
    </FormField>
    <ul class="chosen">
      <li v-for="o in orders" :key="o.id">
        <span class="mono">{{ o.number }}</span> {{ o.customer }}
        <a-button type="link" size="small" @click="orders = orders.filter((x) => x.id !== o.id)">Leave out</a-button>
      </li>
    </ul>
    <template v-if="plan">
      <SheetTable
        label="Stops to add"
        :columns="columns"
        :rows="plan.stops"
        :row-key="(s) => s.bin + s.line_id + s.lot"
      />
      <div v-for="l in plan.shortages" :key="l.order + l.sku" class="note w">
        {{ l.order }} is {{ l.quantity }} short of {{ l.sku }}: {{ l.why }}. It stays open.
      </div>
      <RobbedOrders :of="plan.robbed" />
    </template>
    <div v-if="problem ?? command.problem.value" class="note s" role="alert">
      {{ (problem ?? command.problem.value)?.message }}
    </div>
    <p>
      <a-button type="primary" :disabled="!plan?.stops.length || !fresh || command.busy.value" @click="add">
        Add {{ plural(plan?.stops.length ?? 0, 'stop') }} to {{ round.number }}
      </a-button>
      <a-button type="link" @click="emit('leave')">Leave the round as it is</a-button>
    </p>
  </section>
</template>

<style scoped>
.adding {
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 10px 12px;
  margin-bottom: 12px;
}
.chosen {
  list-style: none;
  padding: 0;
  margin: 6px 0;
}
</style>
