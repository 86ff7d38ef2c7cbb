<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import { plural, today } from '@/parts/words'

const props = defineProps<{ id?: string }>()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
const show = ref<'' | 'held' | 'let go'>('')
const orders = useQuery({
  queryKey: ['orders', 'list', site, show],
  queryFn: () => ask(api.GET('/api/v1/sales-orders', { params: { query: { site: site.value, state: show.value } } })),
})
const order = useQuery({
  queryKey: ['orders', 'one', id],
  queryFn: () => ask(api.GET('/api/v1/sales-orders/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
const ticked = ref<number[]>([])
const { busy, problem, done, run } = useCommand()

async function hold(list: Schemas['OrdersOrder'][]) {
  await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/sales-orders/hold', {
            headers: h,
            body: { orders: list.map((o) => ({ id: o.id, version: o.version })) },
          }),
        ),
      ),
    (x) => `${x.map((o) => o.number).join(', ')} held.`,
  )
  void orders.refetch()
  void order.refetch()
}
const mail = () =>
  run(
    () =>
      once((h) => ask(api.POST('/api/v1/sales-orders/{id}/mail', { headers: h, params: { path: { id: id.value } } }))),
    (x) => `The confirmation of ${x.number} is given to the mail host for ${x.email}.`,
  )
async function letGo(list: Schemas['OrdersOrder'][]) {
  await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/sales-orders/let-go', {
            headers: h,
            body: { orders: list.map((o) => ({ id: o.id, version: o.version })) },
          }),
        ),
      ),
    (x) => `${x.map((o) => o.number).join(', ')} let go to the floor.`,
  )
  ticked.value = []
  void orders.refetch()
  if (id.value) void order.refetch()
}
const marked = computed(() =>
  (orders.data.value ?? []).filter((o) => ticked.value.includes(o.id) && o.state === 'held'),
)
const open = (l: Schemas['OrdersLine']) => Number(l.quantity) - Number(l.planned) - Number(l.taken) - Number(l.sent)
const share = (o: Schemas['OrdersOrder']) => (Number(o.taken) + Number(o.sent)) / Number(o.quantity)
</script>

<template>
  <BenchLayout waits="Open orders">
    <template #waiting>
      <h2><span>Open, by wanted date</span><router-link to="/orders/new">New order</router-link></h2>
      <label class="field" style="margin-bottom: 10px"
        >Show<select v-model="show">
          <option value="">all open</option>
          <option value="held">held</option>
          <option value="let go">let go</option>
        </select></label
      >
      <QueueCard
        v-for="o in orders.data.value"
        :key="o.id"
        :to="`/orders/${o.id}`"
        :selected="id === o.id"
        :share="share(o)"
      >
        <span class="mono">{{ o.number }}</span><span :class="{ late: o.late }" class="mono">{{
          o.late ? `late ${o.wanted_on}` : o.wanted_on === today() ? 'today' : o.wanted_on
        }}</span>
        <template #more
          ><span>{{ o.customer }}</span
          ><span>{{ o.state }}</span></template
        >
      </QueueCard>
      <div v-if="orders.data.value?.length === 0" class="empty">No open orders. Take one with New order.</div>
    </template>

    <template v-if="id && order.data.value">
      <h1>
        Order <span class="mono">{{ order.data.value.number }}</span>
        <span class="mute small">{{ order.data.value.state }}</span>
      </h1>
      <p class="mute">
        {{ order.data.value.customer }}, wanted
        <span class="mono" :class="{ late: order.data.value.late }">{{ order.data.value.wanted_on }}</span>,
        {{ order.data.value.carrier
        }}<template v-if="order.data.value.reference">, their number {{ order.data.value.reference }}</template
        >.
        <template v-if="order.data.value.owing"
          >Taken though the customer owes, by {{ order.data.value.owing_by }}: {{ order.data.value.owing }}.</template
        >
      </p>
      <table class="plain" data-order>
        <thead>
          <tr>
            <th>Line</th>
            <th>Item</th>
            <th class="r">Wanted</th>
            <th class="r">Open</th>
            <th class="r">On a round</th>
            <th class="r">In cartons</th>
            <th class="r">Sent</th>
            <th>Can go</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in order.data.value.lines" :key="l.id">
            <td class="mono">{{ l.line }}</td>
            <td>
              <b>{{ l.description }}</b>
              <router-link class="mono small" :to="`/stock/item/${l.item_id}`">{{ l.sku }}</router-link>
            </td>
            <td class="r mono">{{ l.quantity }}</td>
            <td class="r mono">{{ open(l) }}</td>
            <td class="r mono">{{ l.planned }}</td>
            <td class="r mono">{{ l.taken }}</td>
            <td class="r mono">{{ l.sent }}</td>
            <td class="mono small" :class="{ late: l.can_go === '' || (l.can_go ?? '') > order.data.value.wanted_on }">
              {{ l.can_go === null ? '' : l.can_go || 'no day known' }}
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="order.data.value.deliveries.length">
        Delivery notes:
        <router-link v-for="d in order.data.value.deliveries" :key="d.id" class="mono" :to="`/dispatch/${d.id}`"
          >{{ d.number }}&ensp;</router-link
        >
      </p>
      <div class="fields" style="margin-top: 14px">
        <button
          v-if="order.data.value.state === 'held'"
          class="btn go"
          data-primary
          :disabled="busy"
          @click="letGo([order.data.value])"
        >
          Let {{ order.data.value.number }} go to the floor
        </button>
        <router-link
          v-else-if="order.data.value.state === 'let go' && order.data.value.lines.some((l) => open(l) > 0)"
          class="btn"
          :to="`/pick?order=${order.data.value.id}`"
          >Plan a round for it</router-link
        >
        <template v-if="['lead', 'office'].includes(session.person?.role ?? '')">
          <button
            v-if="
              order.data.value.state === 'let go' && order.data.value.lines.every((l) => open(l) === Number(l.quantity))
            "
            class="btn"
            :disabled="busy"
            @click="hold([order.data.value])"
          >
            Hold it again
          </button>
          <button class="btn" :disabled="busy" @click="mail">Mail the confirmation</button>
        </template>
        <a
          class="btn"
          :href="`/api/v1/sales-orders/${order.data.value.id}/confirmation.pdf`"
          target="_blank"
          rel="noopener"
          >Print the confirmation</a
        >
      </div>
    </template>
    <template v-else>
      <h1>Held orders</h1>
      <p class="mute">An order reaches the floor when somebody lets it go. Tick those that may.</p>
      <table class="plain">
        <thead>
          <tr>
            <th><span class="skip">What to do</span></th>
            <th>Order</th>
            <th>Customer</th>
            <th>Wanted</th>
            <th class="r">Units</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="o in orders.data.value?.filter((x) => x.state === 'held')" :key="o.id">
            <td><input v-model="ticked" type="checkbox" :value="o.id" :aria-label="`Tick ${o.number}`" /></td>
            <td class="mono">
              <router-link :to="`/orders/${o.id}`">{{ o.number }}</router-link>
            </td>
            <td>{{ o.customer }}</td>
            <td class="mono" :class="{ late: o.late }">{{ o.wanted_on }}</td>
            <td class="r mono">{{ o.quantity }}</td>
          </tr>
        </tbody>
      </table>
      <div v-if="!orders.data.value?.some((x) => x.state === 'held')" class="empty">No order is held.</div>
      <button
        v-else
        class="btn go"
        style="margin-top: 12px"
        data-primary
        :disabled="!marked.length || busy"
        @click="letGo(marked)"
      >
        Let {{ plural(marked.length, 'order') }} go
      </button>
    </template>
    <div v-if="problem" class="note s" role="alert" style="margin-top: 12px">{{ problem.message }}</div>
    <div v-if="done" class="note g" role="status" style="margin-top: 12px">{{ done }}</div>
  </BenchLayout>
</template>
