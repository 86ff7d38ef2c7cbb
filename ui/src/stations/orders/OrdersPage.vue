<script setup lang="ts">
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import { plural, today, stateWords } from '@/parts/words'
import OrderForm from './OrderForm.vue'
import OrderSheet from './OrderSheet.vue'

const props = defineProps<{ id?: string }>()
const queries = useQueryClient()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
type Show = 'open' | 'blocked' | 'today' | 'on_hold' | 'released' | 'quote'
const show = ref<Show>('open')
const text = ref('')
const rested = refDebounced(text, 250)
const filter = computed(() => ({
  site: site.value,
  text: rested.value || undefined,
  state: (show.value === 'blocked' || show.value === 'today' ? 'open' : show.value) as 'open',
  blocked: show.value === 'blocked' || undefined,
  until: show.value === 'today' ? today() : undefined,
}))
const orders = useInfiniteQuery({
  queryKey: ['orders', 'list', filter],
  queryFn: ({ pageParam }) =>
    ask(api.GET('/api/v1/sales-orders/list', { params: { query: { ...filter.value, after: pageParam, limit: 60 } } })),
  initialPageParam: '',
  getNextPageParam: (page) => page.next || undefined,
})
const listed = computed(() => orders.data.value?.pages.flatMap((p) => p.orders) ?? [])
const counts = useQuery({
  queryKey: ['orders', 'counts', site],
  queryFn: () => ask(api.GET('/api/v1/sales-orders/counts', { params: { query: { site: site.value } } })),
})
const order = useQuery({
  queryKey: ['orders', 'one', id],
  queryFn: () => ask(api.GET('/api/v1/sales-orders/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
const onHold = useQuery({
  queryKey: ['orders', 'on_hold', site],
  queryFn: () => ask(api.GET('/api/v1/sales-orders', { params: { query: { site: site.value, state: 'on_hold' } } })),
  enabled: computed(() => !id.value),
})
const changing = ref(false)
watch(id, () => {
  changing.value = false
})
const ticked = ref<number[]>([])
const { busy, problem, done, run } = useCommand()
async function release() {
  const list = (onHold.data.value ?? []).filter((o) => ticked.value.includes(o.id))
  const gone = await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/sales-orders/release', {
            headers: h,
            body: { orders: list.map((o) => ({ id: o.id, version: o.version })) },
          }),
        ),
      ),
    (x) => `${x.map((o) => o.number).join(', ')} released.`,
  )
  ticked.value = []
  if (gone) await queries.invalidateQueries({ queryKey: ['orders'] })
}
const released = ref<string[]>([])
function saved(o: Schemas['OrdersOrder']) {
  changing.value = false
  released.value = o.freed
  queries.setQueryData(['orders', 'one', id.value], o)
}
const all = computed(() => ticked.value.length > 0 && ticked.value.length === onHold.data.value?.length)
function tickAll() {
  ticked.value = all.value ? [] : (onHold.data.value ?? []).map((o) => o.id)
}
const share = (o: Schemas['OrdersOrder']) => (Number(o.picked) + Number(o.shipped)) / Math.max(1, Number(o.quantity))
const shows = computed(() => {
  const c = counts.data.value
  return [
    ['open', 'all open', c && c.on_hold + c.released],
    ['blocked', 'late or blocked', c && c.late + c.blocked],
    ['today', 'due by today', c && c.late + c.today],
    ['on_hold', 'on hold', c?.on_hold],
    ['released', 'released', c?.released],
    ['quote', 'quotes', c?.quotes],
  ] as [Show, string, number | undefined][]
})
</script>

<template>
  <BenchLayout waits="Open orders">
    <template #waiting>
      <h2>
        <span>By wanted date</span
        ><span class="nb"
          ><router-link to="/orders/list">table</router-link> ·
          <router-link to="/orders/reservations">reservations</router-link> ·
          <router-link to="/orders/new">New order</router-link></span
        >
      </h2>
      <label class="field" style="margin-bottom: 6px"
        >Show<select v-model="show">
          <option v-for="[key, words, n] in shows" :key="key" :value="key">{{ words }}{{ n ? `, ${n}` : '' }}</option>
        </select></label
      >
      <label class="field" style="margin-bottom: 10px"
        >Number, customer or reference<input v-model="text" aria-label="Find an order"
      /></label>
      <QueueCard v-for="o in listed" :key="o.id" :to="`/orders/${o.id}`" :selected="id === o.id" :share="share(o)">
        <span class="mono">{{ o.number }}</span><span :class="{ late: o.late }" class="mono">{{
          o.late ? `late ${o.wanted_on}` : o.wanted_on === today() ? 'today' : o.wanted_on
        }}</span>
        <template #more
          ><span>{{ o.customer }}</span
          ><span :class="{ late: o.blockers }">{{ o.blockers || stateWords(o.state) }}</span></template
        >
      </QueueCard>
      <button v-if="orders.hasNextPage.value" class="btn" @click="orders.fetchNextPage()">Show more</button>
      <div v-if="orders.isSuccess.value && !listed.length" class="empty">
        No order is on this list. Take one with New order.
      </div>
    </template>

    <template v-if="id && order.data.value && changing">
      <h1>
        Change <span class="mono">{{ order.data.value.number }}</span>
        <span class="mute small">{{ order.data.value.customer }}, {{ stateWords(order.data.value.state) }}</span>
      </h1>
      <OrderForm :key="order.data.value.version" :order="order.data.value" @saved="saved" @leave="changing = false" />
    </template>
    <template v-else-if="id && order.data.value">
      <OrderSheet :order="order.data.value" :released="released" @change="((released = []), (changing = true))" />
    </template>
    <template v-else>
      <h1>Orders on hold</h1>
      <p class="mute">
        An order reaches the floor when somebody releases it. Tick those that may, or have them released
        <router-link to="/schedules">on schedule</router-link>.
      </p>
      <table class="plain">
        <thead>
          <tr>
            <th>
              <button class="btn bare" @click="tickAll">{{ all ? 'none' : 'all' }}</button>
            </th>
            <th>Order</th>
            <th>Customer</th>
            <th>Wanted</th>
            <th class="r">Units</th>
            <th>Blocked by</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="o in onHold.data.value" :key="o.id">
            <td><input v-model="ticked" type="checkbox" :value="o.id" :aria-label="`Tick ${o.number}`" /></td>
            <td class="mono">
              <router-link :to="`/orders/${o.id}`">{{ o.number }}</router-link>
            </td>
            <td>{{ o.customer }}</td>
            <td class="mono" :class="{ late: o.late }">{{ o.wanted_on }}</td>
            <td class="r mono">{{ o.quantity }}</td>
            <td class="late">{{ o.blockers }}</td>
          </tr>
        </tbody>
      </table>
      <div v-if="onHold.data.value?.length === 0" class="empty">No order is on hold.</div>
      <button
        v-else
        class="btn go"
        style="margin-top: 12px"
        data-primary
        :disabled="!ticked.length || busy"
        @click="release"
      >
        Release {{ plural(ticked.length, 'order') }}
      </button>
      <div v-if="problem" class="note s" role="alert" style="margin-top: 12px">{{ problem.message }}</div>
      <div v-if="done" class="note g" role="status" style="margin-top: 12px">{{ done }}</div>
      <p v-if="counts.data.value?.blocked" style="margin-top: 16px">
        <button class="btn" @click="show = 'blocked'">
          {{ plural(counts.data.value.blocked, 'order') }} blocked: show them
        </button>
      </p>
    </template>
  </BenchLayout>
</template>
