<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once } from '@/api/client'
import { session } from '@/api/session'
import { useCommand } from '@/parts/preview'

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
const { busy, problem, done, run } = useCommand()
const may = computed(() => ['lead', 'office'].includes(session.person?.role ?? ''))
/** A quantity that was refused stands as it was before. */
const tries = ref(0)
async function change(id: number, quantity: string) {
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
</script>

<template>
  <div class="page">
    <h1>Reservations</h1>
    <p class="mute">
      Exact stock that is reserved for an order: no other order, move or count may take it until it is unreserved.
      <router-link to="/orders">Back to orders</router-link>
    </p>
    <div class="fields">
      <label class="field">Narrow by order, bin, item or lot<input v-model="words" size="30" /></label>
    </div>
    <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
    <div v-if="done" class="note g" role="status">{{ done }}</div>
    <table class="plain" data-reservations>
      <thead>
        <tr>
          <th>Order</th>
          <th>Wanted</th>
          <th>Item</th>
          <th>Bin</th>
          <th>Lot, unit or carton</th>
          <th class="r">Quantity</th>
          <th>For</th>
          <th><span class="skip">What to do</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in shown" :key="p.id">
          <td>
            <router-link class="mono" :to="`/orders/${p.order_id}`">{{ p.order }}</router-link> {{ p.customer }}
          </td>
          <td class="mono">{{ p.wanted_on }}</td>
          <td>
            {{ p.description }} <span class="mono mute small">{{ p.sku }}</span>
          </td>
          <td class="mono">
            <router-link :to="`/stock/location/${p.location_id}`">{{ p.location }}</router-link>
          </td>
          <td class="mono">{{ p.lot }} {{ p.serial }} {{ p.carton ? `…${p.carton.slice(-5)}` : '' }}</td>
          <td class="r mono">
            <input
              v-if="!p.round_id && !p.serial && may"
              :key="`${p.quantity}/${tries}`"
              class="num mono"
              :value="p.quantity"
              :aria-label="`Reserved of ${p.sku} in ${p.location} for ${p.order}`"
              :disabled="busy"
              @change="change(p.id, ($event.target as HTMLInputElement).value)"
            /><template v-else>{{ p.quantity }}</template>
          </td>
          <td>
            <router-link v-if="p.round_id" class="mono" :to="`/pick/${p.round_id}`">{{ p.round }}</router-link><span
              v-else
              class="mute"
              >a round to come</span
            >
          </td>
          <td>
            <button
              v-if="!p.round_id && may"
              class="btn bare"
              :disabled="busy"
              @click="unreserve(p.id, `${p.quantity} of ${p.sku} in ${p.location}`)"
            >
              Unreserve
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="reservations.data.value?.length === 0" class="empty">
      Nothing is reserved. Choose exact stock beside an order's line, or release a round.
    </div>
  </div>
</template>
