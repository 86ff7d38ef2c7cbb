<script setup lang="ts">
import { useInfiniteQuery, useQuery } from '@tanstack/vue-query'
import { useStorage } from '@vueuse/core'
import { computed } from 'vue'
import { api, ask } from '@/api/client'
import { can, session } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import QueueCard from '@/parts/QueueCard.vue'
import { plural, today, when, stateWords } from '@/parts/words'
import { takeScans } from '@/shell/scan'
import { labelsLeft } from '@/standin/labels'
import { useArrival } from './arrival'
import ArrivalSheet from './ArrivalSheet.vue'
import { useInspection } from './inspection'
import InspectionSheet from './InspectionSheet.vue'
import { type List, listOptions } from './lists'
import OrderSheet from './OrderSheet.vue'
import ReceiveDay from './ReceiveDay.vue'

const props = defineProps<{ kind?: string; id?: string }>()
const site = computed(() => session.site)
const id = computed(() => Number(props.id) || 0)
const list = useStorage<List>('receive-list', 'open')
const orders = useInfiniteQuery({
  queryKey: ['receive', 'orders', site, list],
  queryFn: ({ pageParam }) =>
    ask(
      api.GET('/api/v1/purchase-orders', {
        params: { query: { site: site.value, list: list.value, after: pageParam, limit: 60 } },
      }),
    ),
  initialPageParam: '',
  getNextPageParam: (page) => page.next || undefined,
})
const listed = computed(() => orders.data.value?.pages.flatMap((p) => p.orders) ?? [])
const arrivals = useQuery({
  queryKey: ['receive', 'arrivals', site],
  queryFn: () => ask(api.GET('/api/v1/arrivals', { params: { query: { site: site.value } } })),
})
const inspections = useQuery({
  queryKey: ['receive', 'inspections', site],
  queryFn: () => ask(api.GET('/api/v1/inspections', { params: { query: { site: site.value } } })),
})
const arrival = useArrival(
  id,
  computed(() => props.kind === 'arrival'),
)
const inspection = useInspection(
  id,
  computed(() => props.kind === 'inspection'),
)
const refused = computed(
  () => arrival.command.problem.value ?? (arrival.command.busy.value ? undefined : arrival.preview.problem.value),
)

/** The labels that came up with the receipt. */
const printer = useQuery({
  queryKey: computed(() => ['printer', site.value]),
  queryFn: () => ask(api.GET('/api/v1/printer', { params: { query: { site: site.value } } })),
  enabled: computed(() => !!arrival.command.done.value),
})
const labels = computed(() =>
  labelsLeft((printer.data.value?.waiting ?? []).filter((j) => j.document === arrival.arrival.value?.number)),
)

takeScans(
  (_, reading) => props.kind === 'arrival' && arrival.take(reading),
  () => props.kind === 'arrival' && arrival.arrival.value?.state === 'open',
)
</script>

<template>
  <BenchLayout
    waits="Arrivals and orders"
    :waiting="[arrivals, orders]"
    :sheet="kind === 'arrival' ? [arrival.query] : kind === 'inspection' ? [inspection.query] : []"
  >
    <template #waiting>
      <h2>
        <span>Arrivals open</span><span>{{ arrivals.data.value?.length ?? 0 }}</span>
      </h2>
      <QueueCard
        v-for="a in arrivals.data.value"
        :key="a.id"
        :to="`/receive/arrival/${a.id}`"
        :selected="kind === 'arrival' && id === a.id"
        :share="Number(a.received) / Number(a.ordered)"
      >
        <span class="mono">{{ a.number }}</span><span>{{ a.dock }}</span>
        <template #more
          ><span>{{ a.source }}</span
          ><span>{{ when(a.opened_at) }}</span></template
        >
      </QueueCard>
      <div v-if="arrivals.data.value?.length === 0" class="empty">
        No arrival is open. Open an arrival from an order below.
      </div>
      <template v-if="inspections.data.value?.length">
        <h2>
          <span>To be inspected</span><span>{{ inspections.data.value.length }}</span>
        </h2>
        <QueueCard
          v-for="x in inspections.data.value"
          :key="x.id"
          :to="`/receive/inspection/${x.id}`"
          :selected="kind === 'inspection' && id === x.id"
        >
          <span class="mono">{{ x.sku }}</span><span class="mono">{{ x.quantity }}</span>
          <template #more
            ><span>{{ x.lot ?? x.description }}</span
            ><span>{{ x.arrival }}</span></template
          >
        </QueueCard>
      </template>
      <h2>
        <span>Orders</span
        ><span class="nb"
          ><router-link to="/receive/list">table</router-link>,
          <router-link to="/receive/suggestions">suggested</router-link>,
          <router-link v-if="can('request-purchase') || can('create-purchase-order')" to="/receive/new"
            >new</router-link
          ></span
        >
      </h2>
      <ChoiceEntry v-model="list" label="Which orders" :options="listOptions" :width="245" class="which" />
      <QueueCard
        v-for="o in listed"
        :key="o.id"
        :to="`/receive/order/${o.id}`"
        :selected="kind === 'order' && id === o.id"
      >
        <span class="mono">{{ o.number }}</span><span :class="{ late: o.late }">{{
          o.late ? `late, ${o.expected_on}` : o.expected_on === today() ? 'today' : o.expected_on
        }}</span>
        <template #more
          ><span>{{ o.supplier }}</span
          ><span>{{ stateWords(o.state) }}</span></template
        >
      </QueueCard>
      <div v-if="orders.isSuccess.value && !listed.length" class="empty">No order is on this list.</div>
      <a-button v-if="orders.hasNextPage.value" @click="orders.fetchNextPage()">Show more</a-button>
    </template>

    <ArrivalSheet v-if="kind === 'arrival' && arrival.arrival.value" :key="id" :step="arrival" :problem="refused" />

    <OrderSheet v-else-if="kind === 'order'" :id="id" />
    <InspectionSheet
      v-else-if="kind === 'inspection' && inspection.goods.value"
      v-model:passed="inspection.verdict.passed"
      v-model:reason="inspection.verdict.reason"
      :goods="inspection.goods.value"
      :bad="inspection.verdict.serials"
      @toggle="inspection.toggle"
    />

    <ReceiveDay v-else-if="!kind" />

    <template v-if="kind === 'inspection'" #after>
      <BeforeAfter
        by="decide-inspection"
        :plan="inspection.preview.plan.value"
        :problem="inspection.command.problem.value ?? inspection.preview.problem.value"
        :done="inspection.command.done.value"
        :busy="inspection.command.busy.value"
        :fresh="inspection.preview.fresh.value"
        idle="Say how many are fine. Where the goods go stands here before they are moved."
        doing="Decide"
        @go="inspection.decide"
      />
    </template>
    <template v-else-if="kind === 'arrival'" #after>
      <BeforeAfter
        by="receive"
        :plan="arrival.preview.plan.value"
        :problem="refused"
        :done="arrival.command.done.value"
        :busy="arrival.command.busy.value"
        :fresh="arrival.preview.fresh.value"
        idle="Enter what is here. The moves it will make stand here before they are made."
        doing="Receive"
        @go="arrival.receive"
      >
        <template v-if="arrival.command.done.value">
          <router-link to="/putaway" class="btn">Put the goods away</router-link>
          <router-link v-if="labels" to="/printer" class="btn">{{ plural(labels, 'label') }} to print</router-link>
        </template>
      </BeforeAfter>
    </template>
  </BenchLayout>
</template>

<style scoped>
.which {
  margin-bottom: 10px;
}
</style>
