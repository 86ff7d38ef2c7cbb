<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { useCommand } from '@/parts/preview'
import { money, plural, stateWords } from '@/parts/words'
import ReserveSheet from './ReserveSheet.vue'

/** One order with what of it is where, and every step that can be taken with it. */
const props = defineProps<{ order: Schemas['OrdersOrder']; released: string[] }>()
defineEmits<{ change: [] }>()
const queries = useQueryClient()
const o = computed(() => props.order)
const path = computed(() => ({ path: { id: o.value.id } }))
const may = computed(() => ['lead', 'office'].includes(session.person?.role ?? ''))
const running = computed(() => ['on_hold', 'released'].includes(o.value.state))
const open = (l: Schemas['OrdersLine']) => Number(l.due) - Number(l.planned)
const reserving = ref(0)
const reason = ref('')
const sure = ref(false)
const covering = ref(false)
const { busy, problem, done, run } = useCommand()
watch(
  () => o.value.id,
  () => {
    reserving.value = 0
    covering.value = false
    sure.value = false
    done.value = ''
    problem.value = undefined
  },
)
const cover = useQuery({
  queryKey: ['orders', 'cover', computed(() => o.value.id)],
  queryFn: () => ask(api.GET('/api/v1/sales-orders/{id}/cover', { params: path.value })),
  enabled: covering,
})
const boxes = useQuery({
  queryKey: ['orders', 'cartons', computed(() => o.value.id)],
  queryFn: () => ask(api.GET('/api/v1/sales-orders/{id}/cartons', { params: path.value })),
  enabled: computed(() => running.value && Number(o.value.due) > 0),
  retry: false,
})
const proposed = computed(() => {
  const by = new Map<string, number>()
  for (const c of boxes.data.value?.cartons ?? []) by.set(c.size, (by.get(c.size) ?? 0) + 1)
  return [...by].map(([size, n]) => `${n} × ${size}`).join(', ')
})

async function act<T>(call: (h: { 'Idempotency-Key': string }) => Promise<T>, say: (x: T) => string) {
  const x = await run(() => once(call), say)
  if (x !== undefined) await queries.invalidateQueries({ queryKey: ['orders'] })
  return x
}
const marked = () => ({ orders: [{ id: o.value.id, version: o.value.version }] })
const release = () =>
  act(
    (h) => ask(api.POST('/api/v1/sales-orders/release', { headers: h, body: marked() })),
    () => `${o.value.number} released.`,
  )
const hold = () =>
  act(
    (h) => ask(api.POST('/api/v1/sales-orders/hold', { headers: h, body: marked() })),
    () => `${o.value.number} is on hold.`,
  )
const mail = () =>
  act(
    (h) => ask(api.POST('/api/v1/sales-orders/{id}/mail', { headers: h, params: path.value })),
    (x) =>
      `${x.state === 'quote' ? 'The quote' : 'The confirmation of'} ${x.number} is given to the mail host for ${x.email}.`,
  )
const accept = () =>
  act(
    (h) =>
      ask(
        api.POST('/api/v1/sales-orders/{id}/accept', {
          headers: h,
          params: path.value,
          body: { version: o.value.version, reason: reason.value || undefined },
        }),
      ),
    (x) => `${x.number} is an order now, on hold until somebody releases it.`,
  )
const cancelOpen = () =>
  act(
    (h) =>
      ask(
        api.POST('/api/v1/sales-orders/{id}/cancel-open', {
          headers: h,
          params: path.value,
          body: { version: o.value.version },
        }),
      ),
    (x) => [`What of ${x.number} was not shipped is cancelled.`, ...x.freed].join(' '),
  )
const unreserve = (id: number) =>
  act(
    (h) => ask(api.POST('/api/v1/reservations/{id}/unreserve', { headers: h, params: { path: { id } } })),
    () => 'The stock is unreserved.',
  )
async function buy() {
  const made = await act(
    (h) => ask(api.POST('/api/v1/sales-orders/{id}/cover', { headers: h, params: path.value })),
    (x) => `${x.map((p) => p.number).join(', ')} ${x.length === 1 ? 'is drafted' : 'are drafted'} for what is short.`,
  )
  if (made) {
    covering.value = false
    await queries.invalidateQueries({ queryKey: ['receive'] })
  }
}
const shortages = computed(() => (cover.data.value ?? []).filter((c) => Number(c.short) > 0))
const asksWhy = computed(
  () =>
    session.person?.role === 'lead' &&
    o.value.state === 'quote' &&
    (!!reason.value || ['customer_owes', 'reason_short'].includes(problem.value?.code ?? '')),
)
</script>

<template>
  <h1>
    {{ o.state === 'quote' ? 'Quote' : 'Order' }} <span class="mono">{{ o.number }}</span>
    <span class="mute small">{{ stateWords(o.state) }}</span>
  </h1>
  <p class="mute">
    {{ o.customer }}, wanted <span class="mono" :class="{ late: o.late }">{{ o.wanted_on }}</span>,
    {{ o.carrier || 'no carrier' }}<template v-if="o.reference">, customer's reference {{ o.reference }}</template
    >. <b class="mono">{{ money(o.value) }}</b> in all.
    <template v-if="o.quote_until && o.state === 'quote'">Holds until {{ o.quote_until }}.</template>
    <template v-if="o.note">{{ o.note }}.</template>
    <template v-if="o.owing">Taken though the customer owes, by {{ o.owing_by }}: {{ o.owing }}.</template>
  </p>
  <div v-if="o.blockers" class="note w">Blocked by: {{ o.blockers }}.</div>
  <div v-for="r in released" :key="r" class="note w">{{ r }}.</div>
  <table class="plain" data-order>
    <thead>
      <tr>
        <th>Line</th>
        <th>Item</th>
        <th class="r">Wanted</th>
        <th class="r">Open</th>
        <th class="r">Reserved</th>
        <th class="r">On a round</th>
        <th class="r">In cartons</th>
        <th class="r">Shipped</th>
        <th class="r">Invoiced</th>
        <th>Can go</th>
      </tr>
    </thead>
    <tbody>
      <template v-for="l in o.lines" :key="l.id">
        <tr>
          <td class="mono">{{ l.line }}</td>
          <td>
            <b>{{ l.description }}</b>
            <router-link v-if="l.item_id" class="mono small" :to="`/stock/item/${l.item_id}`">{{ l.sku }}</router-link>
            <span class="mute small"> at {{ l.price }}, {{ l.price_why }}</span>
            <div v-if="Number(l.covered)" class="mute small">{{ l.covered }} bought in for it</div>
            <div v-if="Number(l.cancelled)" class="mute small">{{ l.cancelled }} cancelled</div>
          </td>
          <td class="r mono">{{ l.quantity }}</td>
          <td class="r mono">{{ l.item_id ? open(l) : '' }}</td>
          <td class="r mono">
            <button
              v-if="l.item_id && running && may && open(l) > 0"
              class="btn bare mono"
              :aria-expanded="reserving === l.id"
              :aria-label="`Reserve stock to line ${l.line}`"
              @click="reserving = reserving === l.id ? 0 : l.id"
            >
              {{ Number(l.reserved) ? `${l.reserved}, more` : 'Reserve' }}</button><template v-else>{{
              l.item_id ? l.reserved : ''
            }}</template>
          </td>
          <td class="r mono">{{ l.item_id ? l.planned : '' }}</td>
          <td class="r mono">{{ l.item_id ? l.picked : '' }}</td>
          <td class="r mono">{{ l.shipped }}</td>
          <td class="r mono">{{ l.invoiced }}</td>
          <td class="mono small" :class="{ late: l.can_go === '' || (l.can_go ?? '') > o.wanted_on }">
            {{ l.can_go === null ? '' : l.can_go || 'no day known' }}
          </td>
        </tr>
        <tr v-if="reserving === l.id">
          <td colspan="10"><ReserveSheet :line="l" @done="reserving = 0" /></td>
        </tr>
      </template>
    </tbody>
  </table>
  <p v-if="proposed" class="mute small">
    Cartons proposed for what is not in cartons yet: <b class="mono">{{ proposed }}</b><template
      v-if="boxes.data.value?.proven"
      >, no fewer hold it</template
    >.
  </p>
  <template v-if="o.reservations.length">
    <h2>
      <span>Reserved for it</span><span>{{ o.reservations.length }}</span>
    </h2>
    <table class="plain" data-reservations>
      <tbody>
        <tr v-for="p in o.reservations" :key="p.id">
          <td class="mono">
            <router-link :to="`/stock/location/${p.location_id}`">{{ p.location }}</router-link>
          </td>
          <td class="mono">{{ p.quantity }} × {{ p.sku }}</td>
          <td class="mono">{{ p.lot }} {{ p.serial }} {{ p.carton ? `…${p.carton.slice(-5)}` : '' }}</td>
          <td>
            <router-link v-if="p.round_id" class="mono" :to="`/pick/${p.round_id}`">{{ p.round }}</router-link>
            <button v-else-if="may" class="btn bare" :disabled="busy" @click="unreserve(p.id)">Unreserve</button>
          </td>
        </tr>
      </tbody>
    </table>
  </template>
  <template v-if="covering">
    <h2><span>Shortages</span></h2>
    <table v-if="shortages.length" class="plain" data-cover>
      <thead>
        <tr>
          <th>Item</th>
          <th class="r">Wants</th>
          <th class="r">Free once all have theirs</th>
          <th class="r">On order for it</th>
          <th class="r">Short</th>
          <th>From</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in shortages" :key="c.line_id">
          <td class="mono">{{ c.sku }}</td>
          <td class="r mono">{{ c.wanted }}</td>
          <td class="r mono">{{ c.free }}</td>
          <td class="r mono">{{ c.on_order }}</td>
          <td class="r mono">
            <b>{{ c.short }}</b>
          </td>
          <td :class="{ late: !c.supplier }">{{ c.supplier || 'nobody has supplied it yet' }}</td>
        </tr>
      </tbody>
    </table>
    <div v-else-if="cover.isSuccess.value" class="empty">
      Nothing is short: all is free, reserved for it or on order for it.
    </div>
    <button v-if="shortages.length" class="btn go" :disabled="busy" @click="buy">
      Draft {{ plural(new Set(shortages.map((c) => c.supplier_id)).size, 'purchase order') }} for exactly that
    </button>
  </template>
  <p v-if="o.shipments.length || o.invoices.length">
    <template v-if="o.shipments.length"
      >Delivery notes:
      <router-link v-for="d in o.shipments" :key="d.id" class="mono" :to="`/dispatch/${d.id}`"
        >{{ d.number }}&ensp;</router-link
      ></template
    >
    <template v-if="o.invoices.length"
      >Invoices:
      <router-link v-for="b in o.invoices" :key="b.id" class="mono" :to="`/dispatch/invoices/${b.id}`"
        >{{ b.number }}&ensp;</router-link
      ></template
    >
  </p>
  <div v-if="problem" class="note s" role="alert" style="margin-top: 12px">{{ problem.message }}</div>
  <div v-if="done" class="note g" role="status" style="margin-top: 12px">{{ done }}</div>
  <label v-if="asksWhy" class="field" style="margin-top: 12px"
    >Take it all the same, because<input v-model="reason" size="50" maxlength="200"
  /></label>
  <div class="fields" style="margin-top: 14px">
    <button v-if="o.state === 'quote' && may" class="btn go" data-primary :disabled="busy" @click="accept">
      Make an order of {{ o.number }}
    </button>
    <button v-if="o.state === 'on_hold'" class="btn go" data-primary :disabled="busy" @click="release">
      Release {{ o.number }}
    </button>
    <router-link
      v-else-if="o.state === 'released' && o.lines.some((l) => open(l) > 0)"
      class="btn"
      :to="`/pick?order=${o.id}`"
      >Plan a round for it</router-link
    >
    <template v-if="may">
      <button v-if="running || o.state === 'quote'" class="btn" :disabled="busy" @click="$emit('change')">
        Change it
      </button>
      <button v-if="running && Number(o.due) > 0" class="btn" :aria-expanded="covering" @click="covering = !covering">
        Shortages
      </button>
      <button
        v-if="o.state === 'released' && o.lines.every((l) => !l.item_id || open(l) === Number(l.quantity))"
        class="btn"
        :disabled="busy"
        @click="hold"
      >
        Put on hold
      </button>
      <button v-if="o.state !== 'cancelled'" class="btn" :disabled="busy" @click="mail">
        Mail the {{ o.state === 'quote' ? 'quote' : 'confirmation' }}
      </button>
    </template>
    <a class="btn" :href="`/api/v1/sales-orders/${o.id}/confirmation.pdf`" target="_blank" rel="noopener"
      >Print the {{ o.state === 'quote' ? 'quote' : 'confirmation' }}</a
    >
    <a
      v-if="Number(o.picked) || Number(o.shipped)"
      class="btn"
      :href="`/api/v1/sales-orders/${o.id}/contents.pdf`"
      target="_blank"
      rel="noopener"
      >Contents list</a
    >
    <template v-if="may && (running || o.state === 'quote')">
      <button v-if="!sure" class="btn" @click="sure = true">Cancel what is open</button>
      <button v-else class="btn stop" :disabled="busy" @click="cancelOpen">Yes, cancel what is not shipped</button>
    </template>
  </div>
</template>
