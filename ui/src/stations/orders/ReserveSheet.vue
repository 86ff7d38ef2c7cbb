<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { useCommand } from '@/parts/command'
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
const wanted = ref<Record<number, string>>({})
const units = ref<Record<number, string>>({})
const open = computed(() => Number(props.line.due) - Number(props.line.planned) - Number(props.line.reserved))
const { busy, problem, run } = useCommand()

async function reserve() {
  const reservations: Schemas['OrdersNewReservation'][] = []
  for (const [i, h] of (stock.data.value ?? []).entries()) {
    const at = { location_id: h.location_id, lot_id: h.lot_id ?? undefined, carton_id: h.carton_id ?? undefined }
    if (units.value[i]) reservations.push({ ...at, serial: units.value[i], quantity: '1' })
    else if (Number(wanted.value[i]) > 0) reservations.push({ ...at, quantity: wanted.value[i]! })
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
    wanted.value = {}
    units.value = {}
    await queries.invalidateQueries({ queryKey: ['orders'] })
    void stock.refetch()
    emit('done')
  }
}
const chosen = computed(
  () => Object.values(wanted.value).some((q) => Number(q) > 0) || Object.values(units.value).some(Boolean),
)
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
    <QueryView :query="stock" :empty="(list) => !list.length">
      <SheetTable
        :columns="columns"
        :rows="stock.data.value ?? []"
        :row-key="(h) => h.location_id + '/' + h.lot_id + '/' + h.carton_id"
        ><template #bin="{ row: h }"
          ><b>{{ h.location }}</b></template
        ><template #reserve="{ row: h, index: i }"
          ><span v-if="h.too_old" class="late small">too old to be shipped</span>
          <template v-else>
            <ChoiceEntry
              v-if="h.serials.length"
              v-model="units[i]"
              :label="`Unit in ${h.location}`"
              :options="[{ value: '', label: 'any unit' }, ...h.serials.map((u) => ({ value: u, label: u }))]"
              :width="150"
            />
            <QuantityEntry
              v-if="!units[i]"
              v-model="wanted[i]"
              :label="`Reserve from ${h.location} ${h.lot}`"
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
