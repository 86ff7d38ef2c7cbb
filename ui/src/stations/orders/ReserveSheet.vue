<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { useCommand } from '@/parts/preview'

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
</script>

<template>
  <div class="reservations" data-reserving>
    <p class="mute small">
      {{ open }} of {{ line.sku }} are not reserved yet. Picking zones come first, then the item's usual bins, then all
      others; within each the earliest date.
    </p>
    <table class="plain">
      <thead>
        <tr>
          <th>Bin</th>
          <th>Where</th>
          <th>Lot</th>
          <th>Expires</th>
          <th>Carton</th>
          <th class="r">Free there</th>
          <th class="r">Reserve</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(h, i) in stock.data.value" :key="h.location_id + '/' + h.lot_id + '/' + h.carton_id">
          <td class="mono">
            <b>{{ h.location }}</b>
          </td>
          <td>{{ h.picking ? 'picking zone' : h.usual ? 'usual bin' : h.zone }}</td>
          <td class="mono">{{ h.lot }}</td>
          <td class="mono" :class="{ late: h.too_old }">{{ h.expires }}</td>
          <td class="mono">{{ h.carton ? `…${h.carton.slice(-5)}` : '' }}</td>
          <td class="r mono">{{ h.available }}</td>
          <td class="r">
            <span v-if="h.too_old" class="late small">too old to be shipped</span>
            <template v-else>
              <select
                v-if="h.serials.length"
                v-model="units[i]"
                class="entry mono"
                :aria-label="`Unit in ${h.location}`"
              >
                <option value="">any unit</option>
                <option v-for="u in h.serials" :key="u" :value="u">{{ u }}</option>
              </select>
              <input
                v-if="!units[i]"
                v-model="wanted[i]"
                class="num mono"
                inputmode="decimal"
                :aria-label="`Reserve from ${h.location} ${h.lot}`"
              />
            </template>
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="stock.data.value?.length === 0" class="empty">
      Nothing that could be reserved lies free at this site.
    </div>
    <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
    <button class="btn go" :disabled="!chosen || busy" @click="reserve">Reserve for this line</button>
  </div>
</template>

<style scoped>
.reservations {
  background: var(--shade);
  border-radius: 8px;
  padding: 10px 14px;
}
</style>
