<script setup lang="ts">
import { useInfiniteQuery, useQuery } from '@tanstack/vue-query'
import { useStorage } from '@vueuse/core'
import { computed, reactive, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand, usePreview } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import { plural, today, when } from '@/parts/words'
import { takeScans } from '@/shell/scan'
import { labelsLeft } from '@/standin/labels'
import ArrivalBookings from './ArrivalBookings.vue'
import InspectionSheet from './InspectionSheet.vue'
import OrderSheet from './OrderSheet.vue'

const props = defineProps<{ kind?: string; id?: string }>()
const router = useRouter()
const site = computed(() => session.site)
const id = computed(() => Number(props.id) || 0)
/** The lists of orders that people live by. */
const lists = {
  open: 'open',
  late: 'late',
  today: 'due today',
  week: 'due within a week',
  'part in': 'part in',
  unbilled: 'in, not billed',
  all: 'all',
} as const
type List = keyof typeof lists
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
const arrival = useQuery({
  queryKey: ['receive', 'arrival', id],
  queryFn: () => ask(api.GET('/api/v1/arrivals/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => props.kind === 'arrival'),
})

const { busy, problem, done, run } = useCommand()

/** What is entered for each line of the arrival: a quantity, or lots with theirs. */
interface Entry {
  quantity: string
  reason: string
  lots: { code: string; expires_on: string; quantity: string }[]
}
const entries = reactive<Record<number, Entry>>({})
const blank = (l: Schemas['ReceiveOrderLine']): Entry => ({
  quantity: '',
  reason: '',
  lots: l.tracking === 'none' ? [] : [{ code: '', expires_on: '', quantity: '' }],
})
watch(
  () => arrival.data.value,
  (a) => {
    for (const l of a?.lines ?? []) entries[l.id] ??= blank(l)
  },
  { immediate: true },
)
const openLines = computed(() => (arrival.data.value?.lines ?? []).filter((l) => !l.closed))
const body = computed<Schemas['ReceiveBookIn'] | null>(() => {
  const a = arrival.data.value
  if (!a || a.state !== 'open') return null
  const lines = openLines.value
    .filter((l) => entries[l.id]?.quantity)
    .map((l) => ({
      line_id: l.id,
      quantity: entries[l.id]!.quantity,
      reason: entries[l.id]!.reason || undefined,
      lots: entries[l.id]!.lots.filter((x) => x.code || x.expires_on || x.quantity).map((x) => ({
        code: x.code,
        expires_on: x.expires_on || undefined,
        quantity: x.quantity || entries[l.id]!.quantity,
      })),
    }))
  return lines.length ? { version: a.version, lines } : null
})
const {
  plan,
  problem: refused,
  fresh,
} = usePreview('book-in', body, (b) =>
  ask(api.POST('/api/v1/arrivals/{id}/book-in/preview', { params: { path: { id: id.value } }, body: b })),
)

/** The labels that came up with the booking. */
const printer = useQuery({
  queryKey: computed(() => ['printer', site.value]),
  queryFn: () => ask(api.GET('/api/v1/printer', { params: { query: { site: site.value } } })),
  enabled: computed(() => !!done.value),
})
const labels = computed(() =>
  labelsLeft((printer.data.value?.waiting ?? []).filter((j) => j.document === arrival.data.value?.number)),
)

async function bookIn() {
  const b = body.value
  if (!b) return
  const a = await run(
    () =>
      once((h) =>
        ask(api.POST('/api/v1/arrivals/{id}/book-in', { headers: h, params: { path: { id: id.value } }, body: b })),
      ),
    (x) => `Booked in on ${x.number}. The goods stand at ${x.dock} and wait for bins.`,
  )
  if (a) {
    for (const key of Object.keys(entries)) delete entries[Number(key)]
    await arrival.refetch()
    for (const l of arrival.data.value?.lines ?? []) entries[l.id] = blank(l)
  }
}

async function close(a: Schemas['ReceiveArrival']) {
  if (
    await run(() =>
      once((h) =>
        ask(
          api.POST('/api/v1/arrivals/{id}/close', {
            headers: h,
            params: { path: { id: a.id } },
            body: { version: a.version },
          }),
        ),
      ),
    )
  )
    void router.push('/receive')
}

const inspections = useQuery({
  queryKey: ['receive', 'inspections', site],
  queryFn: () => ask(api.GET('/api/v1/inspections', { params: { query: { site: site.value } } })),
})
const inspection = useQuery({
  queryKey: ['receive', 'inspection', id],
  queryFn: () => ask(api.GET('/api/v1/inspections/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => props.kind === 'inspection'),
})
const verdict = reactive({ passed: '', reason: '' })
watch(id, () => Object.assign(verdict, { passed: '', reason: '' }))
const judged = usePreview(
  'inspection',
  computed(() =>
    props.kind === 'inspection' && verdict.passed && inspection.data.value?.state === 'waiting' ? { ...verdict } : null,
  ),
  (b) => ask(api.POST('/api/v1/inspections/{id}/decide/preview', { params: { path: { id: id.value } }, body: b })),
)

async function decide() {
  await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/inspections/{id}/decide', {
            headers: h,
            params: { path: { id: id.value } },
            body: { ...verdict },
          }),
        ),
      ),
    (x) => `${x.passed} passed, ${x.failed} failed.`,
  )
  await inspection.refetch()
}

takeScans((_, reading) => {
  const g = reading?.goods
  const line = g && openLines.value.find((l) => l.item_id === g.item.id)
  if (props.kind !== 'arrival' || !g || !line) return false
  const e = entries[line.id]!
  const add = (a: string, b: string) => String(Number(a || 0) + Number(b))
  e.quantity = add(e.quantity, g.quantity)
  if (line.tracking !== 'none') {
    let lot = e.lots.find((x) => x.code === g.lot) ?? e.lots.find((x) => !x.code)
    if (!lot) e.lots.push((lot = { code: '', expires_on: '', quantity: '' }))
    lot.code = g.lot
    lot.expires_on = g.expires || lot.expires_on
    lot.quantity = add(lot.quantity, g.quantity)
  }
  return true
})

/** A line that is refused for what a lead may accept asks for the reason; so does one that has one. */
function asksWhy(l: Schemas['ReceiveOrderLine']) {
  if (entries[l.id]?.reason) return true
  const p = problem.value ?? refused.value
  const at = body.value?.lines.findIndex((x) => x.line_id === l.id) ?? -1
  return (
    at >= 0 &&
    !!p?.field?.startsWith(`lines[${at}]`) &&
    ['over_allowance', 'short_lived', 'lead_decides', 'reason_short'].includes(p.code)
  )
}

/** Enter goes to the next field a scan would go to. */
function next(e: KeyboardEvent) {
  if (e.ctrlKey) return
  e.preventDefault()
  const all = [...document.querySelectorAll<HTMLInputElement>('.sheet input:not(:disabled)')]
  all[all.indexOf(e.target as HTMLInputElement) + 1]?.focus()
}
</script>

<template>
  <BenchLayout waits="Arrivals and orders">
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
          ><span>{{ a.supplier }}</span
          ><span>{{ when(a.opened_at) }}</span></template
        >
      </QueueCard>
      <div v-if="arrivals.data.value?.length === 0" class="empty">
        No lorry is being unloaded. Open an arrival from an order below.
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
        <label class="pick-list"
          >Orders
          <select v-model="list" class="entry" aria-label="Which orders">
            <option v-for="(words, key) in lists" :key="key" :value="key">{{ words }}</option>
          </select></label
        ><router-link to="/receive/new">New order</router-link>
      </h2>
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
          ><span>{{ o.state }}</span></template
        >
      </QueueCard>
      <div v-if="orders.isSuccess.value && !listed.length" class="empty">No order is on this list.</div>
      <button v-if="orders.hasNextPage.value" class="btn" @click="orders.fetchNextPage()">Show more</button>
    </template>

    <template v-if="kind === 'arrival' && arrival.data.value">
      <h1>
        Arrival <span class="mono">{{ arrival.data.value.number }}</span>
      </h1>
      <p class="mute">
        {{ arrival.data.value.supplier }}, on order
        <router-link class="mono" :to="`/receive/order/${arrival.data.value.order_id}`">{{
          arrival.data.value.order
        }}</router-link>, at {{ arrival.data.value.dock }}. Enter what is here, or scan it on the line above: a GS1 code
        fills item, lot and count.
      </p>
      <table class="plain" data-arrival>
        <thead>
          <tr>
            <th>Item</th>
            <th class="r">Ordered</th>
            <th class="r">Already in</th>
            <th class="r">Here now</th>
            <th>Lot, expiry, quantity</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in arrival.data.value.lines" :key="l.id" :class="{ now: entries[l.id]?.quantity }">
            <td>
              <b>{{ l.description }}</b>
              <div class="mono mute small">{{ l.sku }}</div>
            </td>
            <td class="r mono">
              {{ l.quantity }}
              <div v-if="l.least !== l.most" class="mute small">{{ l.least }} to {{ l.most }}</div>
            </td>
            <td class="r mono">{{ l.received }}</td>
            <td class="r">
              <input
                v-if="entries[l.id] && !l.closed && arrival.data.value.state === 'open'"
                v-model="entries[l.id]!.quantity"
                class="num mono"
                inputmode="decimal"
                :aria-label="`${l.sku} here now`"
                @keydown.enter="next"
              />
              <span v-else class="mute">{{
                l.cancelled === '0' ? (l.closed ? 'all in' : 'not now') : `${l.cancelled} cancelled`
              }}</span>
            </td>
            <td>
              <span v-if="l.tracking === 'none'" class="mute small">no lots</span>
              <template v-else-if="entries[l.id] && !l.closed && arrival.data.value.state === 'open'">
                <div v-for="(lot, i) in entries[l.id]!.lots" :key="i" class="lot">
                  <input
                    v-model="lot.code"
                    class="mono"
                    size="11"
                    placeholder="lot"
                    :aria-label="`${l.sku} lot ${i + 1}`"
                    @keydown.enter="next"
                  />
                  <input
                    v-if="l.tracking === 'lot_expiry'"
                    v-model="lot.expires_on"
                    class="mono"
                    size="10"
                    placeholder="2027-12-31"
                    :aria-label="`${l.sku} lot ${i + 1} expires`"
                    @keydown.enter="next"
                  />
                  <input
                    v-if="entries[l.id]!.lots.length > 1"
                    v-model="lot.quantity"
                    class="num mono"
                    :aria-label="`${l.sku} lot ${i + 1} quantity`"
                    @keydown.enter="next"
                  />
                </div>
                <button
                  class="btn bare small"
                  @click="entries[l.id]!.lots.push({ code: '', expires_on: '', quantity: '' })"
                >
                  another lot
                </button>
              </template>
              <label v-if="asksWhy(l) && session.person?.role === 'lead'" class="why small"
                >Accept it all the same, because<input
                  v-model="entries[l.id]!.reason"
                  :aria-label="`${l.sku} accepted because`"
              /></label>
            </td>
          </tr>
        </tbody>
      </table>
      <ArrivalBookings :arrival="arrival.data.value" @undone="arrival.refetch()" />
      <p v-if="arrival.data.value.state === 'open'">
        <button class="btn" @click="close(arrival.data.value)">
          Nothing more comes: close {{ arrival.data.value.number }}
        </button>
      </p>
    </template>

    <OrderSheet v-else-if="kind === 'order'" :id="id" />
    <InspectionSheet
      v-else-if="kind === 'inspection' && inspection.data.value"
      v-model:passed="verdict.passed"
      v-model:reason="verdict.reason"
      :goods="inspection.data.value"
    />

    <div v-else class="empty">Choose an arrival to check off what came, or an order to open one for it.</div>

    <template v-if="kind === 'inspection'" #after>
      <BeforeAfter
        :plan="judged.plan.value"
        :problem="problem ?? judged.problem.value"
        :done="done"
        :busy="busy"
        :fresh="judged.fresh.value"
        idle="Say how many are fine. Where the goods go stands here before they are moved."
        doing="Decide"
        @go="decide"
      />
    </template>
    <template v-else-if="kind === 'arrival'" #after>
      <BeforeAfter
        :plan="plan"
        :problem="problem ?? (busy ? undefined : refused)"
        :done="done"
        :busy="busy"
        :fresh="fresh"
        idle="Enter what is here. The moves it will make stand here before they are made."
        doing="Book in"
        @go="bookIn"
      >
        <template v-if="done">
          <router-link to="/putaway" class="btn">Put the goods away</router-link>
          <router-link v-if="labels" to="/printer" class="btn">{{ plural(labels, 'label') }} to print</router-link>
        </template>
      </BeforeAfter>
    </template>
  </BenchLayout>
</template>

<style scoped>
.pick-list {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.pick-list + a {
  align-self: center;
}
.pick-list select {
  font: inherit;
  font-weight: 400;
  max-width: 130px;
}
.why {
  display: block;
  margin-top: 4px;
}
.why input {
  display: block;
  width: 100%;
}
.lot {
  display: flex;
  gap: 5px;
  margin-bottom: 4px;
}
</style>
