<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { can, session } from '@/api/session'
import BenchLayout from '@/parts/BenchLayout.vue'
import type { Column, Sort } from '@/parts/columns'
import PagedList from '@/parts/PagedList.vue'
import QueryView from '@/parts/QueryView.vue'
import QueueCard from '@/parts/QueueCard.vue'
import SheetTable from '@/parts/SheetTable.vue'
import { useServerList } from '@/parts/serverList'
import { stateWords, when } from '@/parts/words'
import { kindWords } from './cases'
import TransferSheet from './TransferSheet.vue'

/** Transfers from and to this site, and what is in transit. */
const props = defineProps<{ id?: string }>()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
type Order = Schemas['TransfersOrder']
type Transit = Schemas['TransfersTransit']

const queue = useQuery({
  queryKey: ['transfers', 'open', site],
  queryFn: () =>
    ask(
      api.GET('/api/v1/transfer-orders', {
        params: { query: { site: site.value, open: true, sort: 'expected', limit: 60 } },
      }),
    ),
})
const chosen = useQuery({
  queryKey: ['transfers', 'one', id],
  queryFn: () => ask(api.GET('/api/v1/transfer-orders/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
const asked = computed(() => ({ site: site.value }))
/** Differences that nobody settled, the oldest first. */
const cases = useQuery({
  queryKey: ['transfers', 'cases', site],
  queryFn: () => ask(api.GET('/api/v1/transfer-cases', { params: { query: { site: site.value } } })),
})
const differences: Column<Schemas['TransfersCase']>[] = [
  { name: 'number', label: 'Case', of: (c) => c.number, mono: true },
  { name: 'order', label: 'Transfer', of: (c) => c.order, to: (c) => `/transfers/${c.order_id}`, mono: true },
  { name: 'from', label: 'From', of: (c) => c.from },
  { name: 'to', label: 'To', of: (c) => c.to },
  { name: 'what', label: 'What differs', of: (c) => `${c.quantity} of ${c.sku} ${kindWords(c.kind)}` },
  { name: 'days', label: 'Days open', of: (c) => c.days, right: true, mono: true, late: (c) => c.days > 7 },
]
const idle = computed(() => !id.value)
type TransitBy = NonNullable<operations['list-in-transit']['parameters']['query']>['sort']
const transitSort = ref<Sort | undefined>({ by: 'since', down: false })
const transit = useServerList<Transit>(
  ['transfers', 'transit', asked],
  transitSort,
  (at) =>
    ask(api.GET('/api/v1/in-transit', { params: { query: { ...asked.value, ...at, sort: at.sort as TransitBy } } })),
  100,
  idle,
)
type By = NonNullable<operations['list-transfer-orders']['parameters']['query']>['sort']
const sort = ref<Sort | undefined>({ by: 'number', down: true })
const all = useServerList<Order>(
  ['transfers', 'all', asked],
  sort,
  (at) =>
    ask(api.GET('/api/v1/transfer-orders', { params: { query: { ...asked.value, ...at, sort: at.sort as By } } })),
  100,
  idle,
)
const figure = <R,>(name: string, label: string, of: (r: R) => string, sort = true): Column<R> => ({
  name,
  label,
  of,
  sort,
  right: true,
  mono: true,
  width: 80,
})
const inTransit: Column<Transit>[] = [
  {
    name: 'order',
    sort: true,
    label: 'Transfer',
    of: (t) => t.order,
    to: (t) => `/transfers/${t.order_id}`,
    mono: true,
    width: 84,
  },
  { name: 'shipment', sort: true, label: 'Delivery note', of: (t) => t.shipment, mono: true, width: 96 },
  { name: 'from', sort: true, label: 'From', of: (t) => t.from, width: 100 },
  { name: 'to', sort: true, label: 'To', of: (t) => t.to, width: 92 },
  { name: 'item', sort: true, label: 'Item', of: (t) => `${t.sku} ${t.item}`, width: 150 },
  figure('quantity', 'Quantity', (t) => t.quantity),
  { name: 'since', sort: true, label: 'Left', of: (t) => when(t.since), mono: true, width: 176 },
  figure('days', 'Days', (t) => String(t.days), false),
  { name: 'expected', sort: true, label: 'Due', of: (t) => t.expected_on, late: (t) => t.late, mono: true, width: 112 },
]
const columns: Column<Order>[] = [
  {
    name: 'number',
    sort: true,
    label: 'Transfer',
    of: (o) => o.number,
    to: (o) => `/transfers/${o.id}`,
    mono: true,
    width: 80,
  },
  { name: 'from', sort: true, label: 'From', of: (o) => o.from, width: 100 },
  { name: 'to', sort: true, label: 'To', of: (o) => o.to, width: 100 },
  { name: 'state', label: 'State', of: (o) => stateWords(o.state), width: 118 },
  { name: 'wanted', sort: true, label: 'Leaves', of: (o) => o.wanted_on, mono: true, width: 116 },
  { name: 'expected', sort: true, label: 'Due', of: (o) => o.expected_on, late: (o) => o.late, mono: true, width: 116 },
  figure('units', 'Wanted', (o) => o.wanted),
  figure('shipped', 'Shipped', (o) => o.shipped),
  figure('in_transit', 'In transit', (o) => o.in_transit),
  figure('received', 'Received', (o) => o.received),
]
const share = (o: Order) => (Number(o.wanted) ? Number(o.received) / Number(o.wanted) : 0)
const goes = (o: Order) => (o.from_site_id === site.value ? `to ${o.to}` : `from ${o.from}`)
</script>

<template>
  <BenchLayout waits="Open transfers" :waiting="[queue]" :sheet="id ? [chosen] : []">
    <template #waiting>
      <h2>
        <span>Transfers</span>
        <span
          ><router-link to="/transfers/move">move within</router-link> ·
          <router-link to="/transfers/refills">refills</router-link
          ><template v-if="can('create-transfer-order')">
            · <router-link to="/transfers/new">New transfer</router-link></template
          ></span
        >
      </h2>
      <QueueCard
        v-for="o in queue.data.value?.rows"
        :key="o.id"
        :to="`/transfers/${o.id}`"
        :selected="o.id === id"
        :share="share(o)"
      >
        <span class="mono">{{ o.number }}</span><span :class="{ late: o.late }">{{
          o.late ? `due ${o.expected_on}` : stateWords(o.state)
        }}</span>
        <template #more
          ><span>{{ goes(o) }}</span
          ><span class="mono">{{ o.received }} of {{ o.wanted }}</span></template
        >
      </QueueCard>
      <div v-if="queue.data.value?.rows.length === 0" class="empty">
        No transfer is open. Write one to another site, or move goods within this one.
      </div>
      <router-link v-if="(queue.data.value?.total ?? 0) > 60" to="/transfers" class="small"
        >{{ queue.data.value!.total! - 60 }} more in the list</router-link
      >
    </template>
    <TransferSheet v-if="id && chosen.data.value" :key="id" :order="chosen.data.value" @changed="chosen.refetch()" />
    <template v-else-if="!id">
      <h1>In transit</h1>
      <p class="mute">Left one site and not received at the other yet: on neither site's shelves, and still ours.</p>
      <QueryView :query="transit.query">
        <div v-if="!transit.total.value" class="empty">Nothing is in transit from or to this site.</div>
        <PagedList
          v-else
          v-model:sort="transitSort"
          data-transit
          name="in-transit"
          label="In transit"
          style="--list-height: 34vh"
          :columns="inTransit"
          :list="transit"
          :file="`/api/v1/in-transit/export?site=${site}`"
          :row-key="(t) => `${t.shipment}/${t.item_id}`"
          :to="(t) => `/transfers/${t.order_id}`"
        />
      </QueryView>
      <template v-if="cases.data.value?.length">
        <h2 style="margin-top: 18px">
          <span>Differences to be settled</span
          ><span
            >all of them as <a :href="`/api/v1/transfer-cases/export?site=${site}&format=xlsx`">XLSX</a> ·
            <a :href="`/api/v1/transfer-cases/export?site=${site}`">CSV</a></span
          >
        </h2>
        <SheetTable
          data-open-cases
          label="Differences to be settled"
          :columns="differences"
          :rows="cases.data.value"
          :row-key="(c) => c.id"
        />
      </template>
      <h2 style="margin-top: 18px"><span>All transfers</span></h2>
      <QueryView :query="all.query">
        <div v-if="!all.total.value" class="empty">No transfer was written yet.</div>
        <PagedList
          v-else
          v-model:sort="sort"
          data-transfers
          name="transfers"
          label="Transfers"
          style="--list-height: 34vh"
          :columns="columns"
          :list="all"
          :file="`/api/v1/transfer-orders/export?site=${site}`"
          :row-key="(o) => o.id"
          :to="(o) => `/transfers/${o.id}`"
        />
      </QueryView>
    </template>
  </BenchLayout>
</template>
