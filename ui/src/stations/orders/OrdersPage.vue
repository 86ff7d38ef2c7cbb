<script setup lang="ts">
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { can, session } from '@/api/session'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/command'
import QueueCard from '@/parts/QueueCard.vue'
import { plural, today, stateWords } from '@/parts/words'
import OrderForm from './OrderForm.vue'
import { onHoldWords } from './holds'
import OrderSheet from './OrderSheet.vue'
import OrdersStanding from './OrdersStanding.vue'
import RobbedList from './RobbedList.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import type { Column, Sort } from '@/parts/columns'
import CommandNotice from '@/parts/CommandNotice.vue'
import { hasDraft } from '@/parts/draft'
import PagedList from '@/parts/PagedList.vue'
import { useServerList } from '@/parts/serverList'
import QueryView from '@/parts/QueryView.vue'
import FormField from '@/parts/FormField.vue'
import TextEntry from '@/parts/TextEntry.vue'

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
type By = NonNullable<operations['page-sales-orders']['parameters']['query']>['sort']
const sort = ref<Sort | undefined>({ by: 'wanted', down: false })
const onHold = useServerList<Schemas['OrdersOrder']>(
  ['orders', 'on_hold', site],
  sort,
  async (at) => {
    const query = { site: site.value, state: 'on_hold', ...at, sort: at.sort as By } as const
    const page = await ask(api.GET('/api/v1/sales-orders/list', { params: { query } }))
    return { ...page, rows: page.orders }
  },
  500,
  computed(() => !id.value),
)
const { query: held, rows: heldOrders } = onHold
const changing = ref(false)
watch(id, () => (changing.value = hasDraft(`sales-order/${id.value}`)), { immediate: true })
const ticked = ref<(string | number)[]>([])
const command = useCommand()
const { busy, run } = command
async function release() {
  const list = heldOrders.value.filter((o) => ticked.value.includes(o.id))
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
const share = (o: Schemas['OrdersOrder']) => (Number(o.picked) + Number(o.shipped)) / Math.max(1, Number(o.quantity))
const shows = computed(() => {
  const c = counts.data.value
  const all: [Show, string, number | undefined][] = [
    ['open', 'all open', c && c.on_hold + c.released],
    ['blocked', 'late or blocked', c && c.late + c.blocked],
    ['today', 'due by today', c && c.late + c.today],
    ['on_hold', 'on hold', c?.on_hold],
    ['released', 'released', c?.released],
    ['quote', 'quotes', c?.quotes],
  ]
  return all.map(([value, words, n]) => ({ value, label: n ? `${words}, ${n}` : words }))
})
const columns: Column<Schemas['OrdersOrder']>[] = [
  {
    name: 'number',
    sort: true,
    label: 'Order',
    of: (o) => o.number,
    to: (o) => `/orders/${o.id}`,
    mono: true,
    width: 110,
  },
  { name: 'customer', sort: true, label: 'Customer', of: (o) => o.customer, width: 210 },
  { name: 'wanted', sort: true, label: 'Wanted', of: (o) => o.wanted_on, mono: true, late: (o) => o.late, width: 120 },
  { name: 'units', sort: true, label: 'Units', of: (o) => o.quantity, right: true, mono: true, width: 80 },
  { name: 'hold', label: 'On hold for', of: onHoldWords, width: 200 },
  { name: 'blockers', label: 'Blocked by', of: (o) => o.blockers, late: () => true, width: 300 },
]
</script>

<template>
  <BenchLayout waits="Open orders" :waiting="[orders]" :sheet="id ? [order] : []">
    <template #waiting>
      <h2>
        <span>Orders</span
        ><span class="nb"
          ><router-link to="/orders/list">table</router-link> ·
          <router-link to="/orders/reservations">reservations</router-link> ·
          <router-link v-if="can('create-sales-order')" to="/orders/new">New order</router-link></span
        >
      </h2>
      <FormField label="Show"><ChoiceEntry v-model="show" :options="shows" :width="245" /></FormField>
      <FormField label="Number, customer or reference" style="margin-bottom: 10px"
        ><TextEntry v-model="text" :width="245"
      /></FormField>
      <QueueCard v-for="o in listed" :key="o.id" :to="`/orders/${o.id}`" :selected="id === o.id" :share="share(o)">
        <span class="mono">{{ o.number }}</span><span :class="{ late: o.late }" class="mono">{{
          o.late ? `late ${o.wanted_on}` : o.wanted_on === today() ? 'today' : o.wanted_on
        }}</span>
        <template #more
          ><span>{{ o.customer }}</span
          ><span :class="{ late: o.blockers }">{{ o.blockers || stateWords(o.state) }}</span></template
        >
      </QueueCard>
      <a-button v-if="orders.hasNextPage.value" @click="orders.fetchNextPage()">Show more</a-button>
      <div v-if="orders.isSuccess.value && !listed.length" class="empty">
        No order is on this list. Take one with New order.
      </div>
    </template>

    <template v-if="id && order.data.value && changing">
      <h1>
        Change <span class="mono">{{ order.data.value.number }}</span>
        <span class="mute small">{{ order.data.value.customer }}, {{ stateWords(order.data.value.state) }}</span>
      </h1>
      <OrderForm :order="order.data.value" @saved="saved" @leave="changing = false" />
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
      <QueryView :query="held" :empty="() => !heldOrders.length">
        <template #default>
          <PagedList
            v-model:sort="sort"
            v-model:ticked="ticked"
            name="orders-on-hold"
            label="Orders on hold"
            style="--list-height: 34vh"
            :columns="columns"
            :list="onHold"
            :file="`/api/v1/sales-orders/export?site=${site}&state=on_hold`"
            :row-key="(o) => o.id"
            :to="(o) => `/orders/${o.id}`"
            :tick-label="(o) => `Tick ${o.number}`"
          />
          <a-button
            v-if="can('release-orders')"
            type="primary"
            class="under"
            data-primary
            :disabled="!ticked.length || busy"
            @click="release"
          >
            Release {{ plural(ticked.length, 'order') }}
          </a-button>
        </template>
        <template #empty>No order is on hold.</template>
      </QueryView>
      <CommandNotice :of="command" />
      <OrdersStanding :counts="counts" />
      <RobbedList />
      <p v-if="counts.data.value?.blocked" style="margin-top: 16px">
        <a-button @click="show = 'blocked'"> Show {{ plural(counts.data.value.blocked, 'blocked order') }} </a-button>
      </p>
    </template>
  </BenchLayout>
</template>

<style scoped>
.under {
  margin: 12px 0;
}
</style>
