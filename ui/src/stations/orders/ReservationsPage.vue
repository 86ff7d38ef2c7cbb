<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import { useCommand } from '@/parts/command'
import FormField from '@/parts/FormField.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import TextEntry from '@/parts/TextEntry.vue'
import type { Column } from '@/parts/columns'
import CommandNotice from '@/parts/CommandNotice.vue'
import QueryView from '@/parts/QueryView.vue'
import WholeList from '@/parts/WholeList.vue'
import { goodsWords } from '@/parts/words'

/** All reservations of a site: exact stock that is reserved for orders. */
const queries = useQueryClient()
const site = computed(() => session.site)
const reservations = useQuery({
  queryKey: ['orders', 'reservations', site],
  queryFn: () => ask(api.GET('/api/v1/reservations', { params: { query: { site: site.value } } })),
})
const words = ref('')
const shown = computed(() =>
  (reservations.data.value ?? []).filter((p) =>
    [p.order, p.customer, p.location, p.sku, p.description, p.lot, p.serial, p.round]
      .join(' ')
      .toLowerCase()
      .includes(words.value.toLowerCase()),
  ),
)
const command = useCommand()
const { busy, run } = command
const may = computed(() => can('unreserve'))
/** A quantity that was refused stands as it was before. */
const tries = ref(0)
const typed = ref<Record<number, string>>({})
type Reservation = Schemas['ReservationReservation']
async function change({ id, quantity: before }: Reservation) {
  const quantity = typed.value[id]
  if (quantity === undefined || busy.value) return
  delete typed.value[id]
  if (quantity === before) return
  const o = await run(
    () =>
      once((h) =>
        ask(api.POST('/api/v1/reservations/{id}/change', { headers: h, params: { path: { id } }, body: { quantity } })),
      ),
    (x) => `${quantity} are reserved for ${x.number} now.`,
  )
  if (o) await queries.invalidateQueries({ queryKey: ['orders'] })
  else tries.value++
}
async function unreserve(id: number, what: string) {
  const o = await run(
    () => once((h) => ask(api.POST('/api/v1/reservations/{id}/unreserve', { headers: h, params: { path: { id } } }))),
    () => `${what} is unreserved.`,
  )
  if (o) await queries.invalidateQueries({ queryKey: ['orders'] })
}
const columns: Column<Reservation>[] = [
  { name: 'order', label: 'Order', of: (p) => p.order, to: (p) => `/orders/${p.order_id}`, mono: true, width: 100 },
  { name: 'customer', label: 'Customer', of: (p) => p.customer, width: 180 },
  { name: 'wanted', label: 'Wanted', of: (p) => p.wanted_on, mono: true, width: 110 },
  { name: 'sku', label: 'Item', of: (p) => p.sku, mono: true, width: 110 },
  { name: 'description', label: 'Description', of: (p) => p.description, width: 180 },
  {
    name: 'bin',
    label: 'Bin',
    of: (p) => p.location,
    to: (p) => `/stock/location/${p.location_id}`,
    mono: true,
    width: 110,
  },
  {
    name: 'lot',
    label: 'Lot, unit or carton',
    of: goodsWords,
    mono: true,
    width: 150,
  },
  { name: 'quantity', label: 'Quantity', of: (p) => p.quantity, right: true, mono: true, width: 120 },
  {
    name: 'round',
    label: 'For',
    of: (p) => (p.round_id ? p.round : 'a round to come'),
    to: (p) => (p.round_id ? `/pick/${p.round_id}` : undefined),
    width: 130,
  },
  { name: 'does', label: '', width: 110 },
]
</script>

<template>
  <div class="page">
    <h1>Reservations</h1>
    <p class="mute">
      Exact stock that is reserved for an order: no other order, move or count may take it until it is unreserved.
      <router-link to="/orders">Back to orders</router-link>
    </p>
    <div class="fields">
      <FormField label="Narrow by order, bin, item or lot"><TextEntry v-model="words" :width="296" /></FormField>
    </div>
    <CommandNotice :of="command" />
    <QueryView :query="reservations" :empty="(list) => !list.length">
      <WholeList
        data-reservations
        name="reservations"
        label="Reservations"
        style="--list-height: 64vh"
        :summed="new Set(shown.map((p) => p.sku)).size === 1 ? ['quantity'] : []"
        :columns="columns"
        :rows="shown"
        :row-key="(p) => p.id"
        :to="(p) => `/orders/${p.order_id}`"
      >
        <template #quantity="{ row: p }">
          <QuantityEntry
            v-if="!p.round_id && !p.serial && may"
            :key="`${p.quantity}/${tries}`"
            size="small"
            :model-value="typed[p.id] ?? p.quantity"
            :label="`Reserved of ${p.sku} in ${p.location} for ${p.order}`"
            :disabled="busy"
            @update:model-value="(q) => (typed[p.id] = q ?? '')"
            @blur="change(p)"
            @press-enter="change(p)"
          />
          <template v-else>{{ p.quantity }}</template>
        </template>
        <template #does="{ row: p }">
          <a-button
            v-if="!p.round_id && may"
            type="link"
            size="small"
            :disabled="busy"
            @click="unreserve(p.id, `${p.quantity} of ${p.sku} in ${p.location}`)"
            >Unreserve</a-button
          >
        </template>
      </WholeList>
      <template #empty>Nothing is reserved. Choose exact stock beside an order's line, or release a round.</template>
    </QueryView>
  </div>
</template>
