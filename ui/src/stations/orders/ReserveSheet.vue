<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import QueryView from '@/parts/QueryView.vue'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'

/** Exact stock for one line, offered by the withdrawal rule: bins, lots, units or whole cartons. */
const props = defineProps<{ line: Schemas['OrdersLine'] }>()
const emit = defineEmits<{ done: [] }>()
const queries = useQueryClient()
const stock = useQuery({
  queryKey: ['stock', 'reservable', computed(() => props.line.id)],
  queryFn: () => ask(api.GET('/api/v1/sales-lines/{id}/stock', { params: { path: { id: props.line.id } } })),
})
/** What is typed of each holding: so much of it, or one unit. */
type Typed = Record<string, { quantity?: string; serial?: string }>
const draft = useDraft<Typed>(
  () => `reserve/${props.line.id}`,
  () => ({}),
)
type Holding = Schemas['OrdersHolding']
const keyOf = (h: Holding) => `${h.location_id}/${h.lot_id}/${h.carton_id}`
const typed = (h: Holding) => draft.mine.value?.[keyOf(h)] ?? {}
function type(h: Holding, change: Typed[string]) {
  if (draft.mine.value) draft.mine.value[keyOf(h)] = { ...typed(h), ...change }
}
const open = computed(() => Number(props.line.due) - Number(props.line.planned) - Number(props.line.reserved))
const { busy, problem, run } = useCommand()

async function reserve() {
  const reservations: Schemas['OrdersNewReservation'][] = []
  for (const h of stock.data.value ?? []) {
    const { quantity = '', serial } = typed(h)
    const at = { location_id: h.location_id, lot_id: h.lot_id ?? undefined, carton_id: h.carton_id ?? undefined }
    if (serial) reservations.push({ ...at, serial, quantity: '1' })
    else if (Number(quantity) > 0) reservations.push({ ...at, quantity })
  }
  const order = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/sales-lines/{id}/reservations', {
          headers: h,
          params: { path: { id: props.line.id } },
          body: { reservations },
        }),
      ),
    ),
  )
  if (order) {
    draft.discard()
    await queries.invalidateQueries({ queryKey: ['orders'] })
    void stock.refetch()
    emit('done')
  }
}
const chosen = computed(() => Object.values(draft.mine.value ?? {}).some((t) => t.serial || Number(t.quantity) > 0))
const columns: Column<Schemas['OrdersHolding']>[] = [
  { name: 'bin', label: 'Bin', mono: true },
  { name: 'where', label: 'Where', of: (h) => (h.picking ? 'picking zone' : h.usual ? 'usual bin' : h.zone) },
  { name: 'lot', label: 'Lot', of: (h) => h.lot, mono: true },
  { name: 'expires', label: 'Expires', of: (h) => h.expires, mono: true, late: (h) => !!h.too_old },
  { name: 'carton', label: 'Carton', of: (h) => (h.carton ? `…${h.carton.slice(-5)}` : ''), mono: true },
  { name: 'freeThere', label: 'Free there', of: (h) => h.available, right: true, mono: true },
  { name: 'reserve', label: 'Reserve', right: true },
]
</script>

<template>
  <div class="reservations" data-reserving>
    <p class="mute small">
      {{ open }} of {{ line.sku }} are not reserved yet. Picking zones come first, then the item's usual bins, then all
      others; within each the earliest date.
    </p>
    <DraftNotice :of="draft" :labels="() => 'what is reserved'" />
    <QueryView :query="stock" :empty="(list) => !list.length">
      <SheetTable :columns="columns" :rows="stock.data.value ?? []" :row-key="keyOf"
        ><template #bin="{ row: h }"
          ><b>{{ h.location }}</b></template
        ><template #reserve="{ row: h }"
          ><span v-if="h.too_old" class="late small">too old to be shipped</span>
          <template v-else>
            <ChoiceEntry
              v-if="h.serials.length"
              :model-value="typed(h).serial ?? ''"
              :label="`Unit in ${h.location}`"
              :options="[{ value: '', label: 'any unit' }, ...h.serials.map((u) => ({ value: u, label: u }))]"
              :width="150"
              @update:model-value="(u) => type(h, { serial: String(u ?? '') })"
            />
            <QuantityEntry
              v-if="!typed(h).serial"
              :model-value="typed(h).quantity"
              :label="`Reserve from ${h.location} ${h.lot}`"
              @update:model-value="(q) => type(h, { quantity: q ?? '' })"
            /> </template></template
      ></SheetTable>
      <template #empty>Nothing that could be reserved lies free at this site.</template>
    </QueryView>
    <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
    <a-button type="primary" :disabled="!chosen || busy" @click="reserve">Reserve for this line</a-button>
  </div>
</template>

<style scoped>
.reservations {
  background: var(--shade);
  border-radius: 8px;
  padding: 10px 14px;
}
</style>
