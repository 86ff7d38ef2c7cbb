<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { useCommand } from '@/parts/preview'
import { money, plural } from '@/parts/words'
import PinSheet from './PinSheet.vue'

/** One order with what of it is where, and every step that can be taken with it. */
const props = defineProps<{ order: Schemas['OrdersOrder']; released: string[] }>()
defineEmits<{ change: [] }>()
const queries = useQueryClient()
const o = computed(() => props.order)
const path = computed(() => ({ path: { id: o.value.id } }))
const may = computed(() => ['lead', 'office'].includes(session.person?.role ?? ''))
const running = computed(() => ['held', 'let go'].includes(o.value.state))
const open = (l: Schemas['OrdersLine']) => Number(l.due) - Number(l.planned)
const pinning = ref(0)
const reason = ref('')
const sure = ref(false)
const covering = ref(false)
const { busy, problem, done, run } = useCommand()
watch(
  () => o.value.id,
  () => {
    pinning.value = 0
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
const letGo = () =>
  act(
    (h) => ask(api.POST('/api/v1/sales-orders/let-go', { headers: h, body: marked() })),
    () => `${o.value.number} let go to the floor.`,
  )
const hold = () =>
  act(
    (h) => ask(api.POST('/api/v1/sales-orders/hold', { headers: h, body: marked() })),
    () => `${o.value.number} held.`,
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
    (x) => `${x.number} is an order now, held until somebody lets it go.`,
  )
const cancelRest = () =>
  act(
    (h) =>
      ask(
        api.POST('/api/v1/sales-orders/{id}/cancel-rest', {
          headers: h,
          params: path.value,
          body: { version: o.value.version },
        }),
      ),
    (x) => [`What of ${x.number} was not sent is cancelled.`, ...x.released].join(' '),
  )
const loosen = (id: number) =>
  act(
    (h) => ask(api.POST('/api/v1/pins/{id}/loosen', { headers: h, params: { path: { id } } })),
    () => 'The pin is loose.',
  )
async function buy() {
  const made = await act(
    (h) => ask(api.POST('/api/v1/sales-orders/{id}/cover', { headers: h, params: path.value })),
    (x) => `${x.map((p) => p.number).join(', ')} ${x.length === 1 ? 'is drafted' : 'are drafted'} for what it lacks.`,
  )
  if (made) {
    covering.value = false
    await queries.invalidateQueries({ queryKey: ['receive'] })
  }
}
const lacks = computed(() => (cover.data.value ?? []).filter((c) => Number(c.lacks) > 0))
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
    <span class="mute small">{{ o.state }}</span>
  </h1>
  <p class="mute">
    {{ o.customer }}, wanted <span class="mono" :class="{ late: o.late }">{{ o.wanted_on }}</span>,
    {{ o.carrier || 'no carrier' }}<template v-if="o.reference">, their number {{ o.reference }}</template
    >. <b class="mono">{{ money(o.value) }}</b> in all.
    <template v-if="o.quote_until && o.state === 'quote'">Holds until {{ o.quote_until }}.</template>
    <template v-if="o.note">{{ o.note }}.</template>
    <template v-if="o.owing">Taken though the customer owes, by {{ o.owing_by }}: {{ o.owing }}.</template>
  </p>
  <div v-if="o.stuck" class="note w">
    It {{ o.stuck.startsWith('lacks') ? `${o.stuck} lines` : `is stuck: ${o.stuck}` }}.
  </div>
  <div v-for="r in released" :key="r" class="note w">{{ r }}.</div>
  <table class="plain" data-order>
    <thead>
      <tr>
        <th>Line</th>
        <th>Item</th>
        <th class="r">Wanted</th>
        <th class="r">Open</th>
        <th class="r">Pinned</th>
        <th class="r">On a round</th>
        <th class="r">In cartons</th>
        <th class="r">Sent</th>
        <th class="r">Billed</th>
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
              :aria-expanded="pinning === l.id"
              :aria-label="`Pin stock to line ${l.line}`"
              @click="pinning = pinning === l.id ? 0 : l.id"
            >
              {{ Number(l.pinned) ? `${l.pinned}, more` : 'pin' }}</button><template v-else>{{
              l.item_id ? l.pinned : ''
            }}</template>
          </td>
          <td class="r mono">{{ l.item_id ? l.planned : '' }}</td>
          <td class="r mono">{{ l.item_id ? l.taken : '' }}</td>
          <td class="r mono">{{ l.sent }}</td>
          <td class="r mono">{{ l.billed }}</td>
          <td class="mono small" :class="{ late: l.can_go === '' || (l.can_go ?? '') > o.wanted_on }">
            {{ l.can_go === null ? '' : l.can_go || 'no day known' }}
          </td>
        </tr>
        <tr v-if="pinning === l.id">
          <td colspan="10"><PinSheet :line="l" @done="pinning = 0" /></td>
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
  <template v-if="o.pins.length">
    <h2>
      <span>Pinned to it</span><span>{{ o.pins.length }}</span>
    </h2>
    <table class="plain" data-pins>
      <tbody>
        <tr v-for="p in o.pins" :key="p.id">
          <td class="mono">
            <router-link :to="`/stock/place/${p.place_id}`">{{ p.place }}</router-link>
          </td>
          <td class="mono">{{ p.quantity }} × {{ p.sku }}</td>
          <td class="mono">{{ p.lot }} {{ p.serial }} {{ p.carton ? `…${p.carton.slice(-5)}` : '' }}</td>
          <td>
            <router-link v-if="p.round_id" class="mono" :to="`/pick/${p.round_id}`">{{ p.round }}</router-link>
            <button v-else-if="may" class="btn bare" :disabled="busy" @click="loosen(p.id)">let loose</button>
          </td>
        </tr>
      </tbody>
    </table>
  </template>
  <template v-if="covering">
    <h2><span>What it lacks</span></h2>
    <table v-if="lacks.length" class="plain" data-cover>
      <thead>
        <tr>
          <th>Item</th>
          <th class="r">Wants</th>
          <th class="r">Free once all have theirs</th>
          <th class="r">On order for it</th>
          <th class="r">Lacks</th>
          <th>From</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in lacks" :key="c.line_id">
          <td class="mono">{{ c.sku }}</td>
          <td class="r mono">{{ c.wanted }}</td>
          <td class="r mono">{{ c.free }}</td>
          <td class="r mono">{{ c.on_order }}</td>
          <td class="r mono">
            <b>{{ c.lacks }}</b>
          </td>
          <td :class="{ late: !c.supplier }">{{ c.supplier || 'nobody has supplied it yet' }}</td>
        </tr>
      </tbody>
    </table>
    <div v-else-if="cover.isSuccess.value" class="empty">
      It lacks nothing that is not free, pinned to it or on order for it.
    </div>
    <button v-if="lacks.length" class="btn go" :disabled="busy" @click="buy">
      Draft {{ plural(new Set(lacks.map((c) => c.supplier_id)).size, 'purchase order') }} for exactly that
    </button>
  </template>
  <p v-if="o.deliveries.length || o.bills.length">
    <template v-if="o.deliveries.length"
      >Delivery notes:
      <router-link v-for="d in o.deliveries" :key="d.id" class="mono" :to="`/dispatch/${d.id}`"
        >{{ d.number }}&ensp;</router-link
      ></template
    >
    <template v-if="o.bills.length"
      >Bills:
      <router-link v-for="b in o.bills" :key="b.id" class="mono" :to="`/dispatch/bills/${b.id}`"
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
    <button v-if="o.state === 'held'" class="btn go" data-primary :disabled="busy" @click="letGo">
      Let {{ o.number }} go to the floor
    </button>
    <router-link
      v-else-if="o.state === 'let go' && o.lines.some((l) => open(l) > 0)"
      class="btn"
      :to="`/pick?order=${o.id}`"
      >Plan a round for it</router-link
    >
    <template v-if="may">
      <button v-if="running || o.state === 'quote'" class="btn" :disabled="busy" @click="$emit('change')">
        Change it
      </button>
      <button v-if="running && Number(o.due) > 0" class="btn" :aria-expanded="covering" @click="covering = !covering">
        What it lacks
      </button>
      <button
        v-if="o.state === 'let go' && o.lines.every((l) => !l.item_id || open(l) === Number(l.quantity))"
        class="btn"
        :disabled="busy"
        @click="hold"
      >
        Hold it again
      </button>
      <button v-if="o.state !== 'cancelled'" class="btn" :disabled="busy" @click="mail">
        Mail the {{ o.state === 'quote' ? 'quote' : 'confirmation' }}
      </button>
    </template>
    <a class="btn" :href="`/api/v1/sales-orders/${o.id}/confirmation.pdf`" target="_blank" rel="noopener"
      >Print the {{ o.state === 'quote' ? 'quote' : 'confirmation' }}</a
    >
    <a
      v-if="Number(o.taken) || Number(o.sent)"
      class="btn"
      :href="`/api/v1/sales-orders/${o.id}/contents.pdf`"
      target="_blank"
      rel="noopener"
      >Contents list</a
    >
    <template v-if="may && (running || o.state === 'quote')">
      <button v-if="!sure" class="btn" @click="sure = true">Cancel the rest</button>
      <button v-else class="btn stop" :disabled="busy" @click="cancelRest">Yes, cancel what is not sent</button>
    </template>
  </div>
</template>
