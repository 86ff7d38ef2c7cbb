<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { can, session } from '@/api/session'
import { useCommand } from '@/parts/command'
import FormField from '@/parts/FormField.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import TextEntry from '@/parts/TextEntry.vue'
import type { Column, Sort } from '@/parts/columns'
import CommandNotice from '@/parts/CommandNotice.vue'
import QueryView from '@/parts/QueryView.vue'
import PagedList from '@/parts/PagedList.vue'
import { useServerList } from '@/parts/serverList'
import { goodsWords } from '@/parts/words'

/** All reservations of a site: exact stock that is reserved for orders. */
const queries = useQueryClient()
const site = computed(() => session.site)
type Reservation = Schemas['ReservationReservation']
type By = NonNullable<operations['list-reservations']['parameters']['query']>['sort']
const words = ref('')
const rested = refDebounced(words, 250)
const sort = ref<Sort | undefined>({ by: 'wanted', down: false })
const list = useServerList<Reservation>(['orders', 'reservations', site, rested], sort, (at) =>
  ask(
    api.GET('/api/v1/reservations', {
      params: { query: { site: site.value, q: rested.value, ...at, sort: at.sort as By } },
    }),
  ),
)
const { query, rows } = list
const file = computed(
  () => `/api/v1/reservations/export?${new URLSearchParams({ site: String(site.value), q: rested.value })}`,
)
const command = useCommand()
const { busy, run } = command
const may = computed(() => can('unreserve'))
/** A quantity that was refused stands as it was before. */
const tries = ref(0)
const typed = ref<Record<number, string>>({})
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
  if (o) await replaced(id)
  else tries.value++
}
async function unreserve(id: number, what: string) {
  const o = await run(
    () => once((h) => ask(api.POST('/api/v1/reservations/{id}/unreserve', { headers: h, params: { path: { id } } }))),
    () => `${what} is unreserved.`,
  )
  if (o) await replaced(id)
}
/** Those that are no more, or that others stand for: nothing is pressed on them until the list is without them. */
const gone = ref(new Set<number>())
function replaced(id: number) {
  gone.value.add(id)
  return queries.invalidateQueries({ queryKey: ['orders'] })
}
const columns: Column<Reservation>[] = [
  {
    name: 'order',
    sort: true,
    label: 'Order',
    of: (p) => p.order,
    to: (p) => `/orders/${p.order_id}`,
    mono: true,
    width: 100,
  },
  { name: 'customer', sort: true, label: 'Customer', of: (p) => p.customer, width: 160 },
  { name: 'wanted', sort: true, label: 'Wanted', of: (p) => p.wanted_on, mono: true, width: 124 },
  { name: 'sku', sort: true, label: 'Item', of: (p) => p.sku, mono: true, width: 110 },
  { name: 'description', sort: true, label: 'Description', of: (p) => p.description, width: 160 },
  {
    name: 'bin',
    sort: true,
    label: 'Bin',
    of: (p) => p.location,
    to: (p) => `/stock/location/${p.location_id}`,
    mono: true,
    width: 110,
  },
  {
    name: 'lot',
    sort: true,
    label: 'Lot, unit or carton',
    of: goodsWords,
    mono: true,
    width: 140,
  },
  { name: 'quantity', sort: true, label: 'Quantity', of: (p) => p.quantity, right: true, mono: true, width: 100 },
  {
    name: 'round',
    sort: true,
    label: 'For',
    of: (p) => (p.round_id ? p.round : 'a round to come'),
    to: (p) => (p.round_id ? `/pick/${p.round_id}` : undefined),
    width: 120,
  },
  { name: 'does', label: '', width: 100 },
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
    <QueryView :query="query" :empty="() => !rows.length">
      <PagedList
        v-model:sort="sort"
        data-reservations
        name="reservations"
        label="Reservations"
        style="--list-height: 64vh"
        :columns="columns"
        :list="list"
        :file="file"
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
            :disabled="busy || gone.has(p.id)"
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
            :disabled="busy || gone.has(p.id)"
            @click="unreserve(p.id, `${p.quantity} of ${p.sku} in ${p.location}`)"
            >Unreserve</a-button
          >
        </template>
      </PagedList>
      <template #empty>{{
        rested
          ? `No reservation has “${rested}” in its order, bin, item or lot.`
          : "Nothing is reserved. Choose exact stock beside an order's line, or release a round."
      }}</template>
    </QueryView>
  </div>
</template>
