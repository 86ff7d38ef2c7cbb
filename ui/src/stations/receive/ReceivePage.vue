<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand, usePreview } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import { plural, today, when } from '@/parts/words'
import { takeScans } from '@/shell/scan'

const props = defineProps<{ kind?: string; id?: string }>()
const router = useRouter()
const site = computed(() => session.site)
const id = computed(() => Number(props.id) || 0)
const orders = useQuery({
  queryKey: ['receive', 'orders', site],
  queryFn: () => ask(api.GET('/api/v1/purchase-orders', { params: { query: { site: site.value } } })),
})
const arrivals = useQuery({
  queryKey: ['receive', 'arrivals', site],
  queryFn: () => ask(api.GET('/api/v1/arrivals', { params: { query: { site: site.value } } })),
})
const docks = useQuery({
  queryKey: ['places', 'dock', site],
  queryFn: () => ask(api.GET('/api/v1/places', { params: { query: { site: site.value, kind: 'dock' } } })),
})
const order = useQuery({
  queryKey: ['receive', 'order', id],
  queryFn: () => ask(api.GET('/api/v1/purchase-orders/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => props.kind === 'order'),
})
const arrival = useQuery({
  queryKey: ['receive', 'arrival', id],
  queryFn: () => ask(api.GET('/api/v1/arrivals/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => props.kind === 'arrival'),
})

const dock = ref(0)
const { busy, problem, done, run } = useCommand()

async function openArrival(o: Schemas['ReceiveOrder']) {
  const dockId = dock.value || docks.data.value?.[0]?.id || 0
  const a = await run(() =>
    once((h) => ask(api.POST('/api/v1/arrivals', { headers: h, body: { order_id: o.id, dock_id: dockId } }))),
  )
  if (a) void router.push(`/receive/arrival/${a.id}`)
}

async function placeOrder(o: Schemas['ReceiveOrder']) {
  await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/purchase-orders/{id}/place', {
            headers: h,
            params: { path: { id: o.id } },
            body: { version: o.version },
          }),
        ),
      ),
    () => `${o.number} is placed.`,
  )
  void order.refetch()
}

/** What is entered for each line of the arrival: a quantity, or lots with theirs. */
interface Entry {
  quantity: string
  lots: { code: string; expires_on: string; quantity: string }[]
}
const entries = reactive<Record<number, Entry>>({})
watch(
  () => arrival.data.value,
  (a) => {
    for (const l of a?.lines ?? [])
      entries[l.id] ??= {
        quantity: '',
        lots: l.tracking === 'none' ? [] : [{ code: '', expires_on: '', quantity: '' }],
      }
  },
  { immediate: true },
)
const openLines = computed(() =>
  (arrival.data.value?.lines ?? []).filter((l) => Number(l.received) < Number(l.quantity)),
)
const body = computed<Schemas['ReceiveBookIn'] | null>(() => {
  const a = arrival.data.value
  if (!a || a.state !== 'open') return null
  const lines = openLines.value
    .filter((l) => entries[l.id]?.quantity)
    .map((l) => ({
      line_id: l.id,
      quantity: entries[l.id]!.quantity,
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
    for (const l of arrival.data.value?.lines ?? [])
      entries[l.id] = { quantity: '', lots: l.tracking === 'none' ? [] : [{ code: '', expires_on: '', quantity: '' }] }
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
      <h2><span>Orders on their way</span><router-link to="/receive/new">New order</router-link></h2>
      <QueueCard
        v-for="o in orders.data.value"
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
            <td class="r mono">{{ l.quantity }}</td>
            <td class="r mono">{{ l.received }}</td>
            <td class="r">
              <input
                v-if="entries[l.id] && Number(l.received) < Number(l.quantity) && arrival.data.value.state === 'open'"
                v-model="entries[l.id]!.quantity"
                class="num mono"
                inputmode="decimal"
                :aria-label="`${l.sku} here now`"
                @keydown.enter="next"
              />
              <span v-else class="mute">all in</span>
            </td>
            <td>
              <span v-if="l.tracking === 'none'" class="mute small">no lots</span>
              <template v-else-if="entries[l.id] && Number(l.received) < Number(l.quantity)">
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
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="arrival.data.value.state === 'open'">
        <button class="btn" @click="close(arrival.data.value)">
          Nothing more comes: close {{ arrival.data.value.number }}
        </button>
      </p>
    </template>

    <template v-else-if="kind === 'order' && order.data.value">
      <h1>
        Order <span class="mono">{{ order.data.value.number }}</span>
        <span class="mute small">{{ order.data.value.state }}</span>
      </h1>
      <p class="mute">
        {{ order.data.value.supplier }}, expected
        <span class="mono" :class="{ late: order.data.value.late }">{{ order.data.value.expected_on }}</span>.
        {{ order.data.value.note }}
      </p>
      <table class="plain">
        <thead>
          <tr>
            <th>Line</th>
            <th>Item</th>
            <th class="r">Ordered</th>
            <th class="r">Already in</th>
            <th class="r">Price</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in order.data.value.lines" :key="l.id">
            <td class="mono">{{ l.line }}</td>
            <td>
              <b>{{ l.description }}</b> <span class="mono mute small">{{ l.sku }}</span>
            </td>
            <td class="r mono">{{ l.quantity }}</td>
            <td class="r mono">{{ l.received }}</td>
            <td class="r mono">{{ l.price }}</td>
          </tr>
        </tbody>
      </table>
      <div v-if="order.data.value.state === 'draft'" class="fields" style="margin-top: 14px">
        <button class="btn go" :disabled="busy" @click="placeOrder(order.data.value)">
          Place {{ order.data.value.number }} with {{ order.data.value.supplier }}
        </button>
      </div>
      <div v-else-if="order.data.value.state !== 'all in'" class="fields" style="margin-top: 14px">
        <label class="field"
          >Dock<select v-model.number="dock">
            <option :value="0">{{ docks.data.value?.[0]?.code }}</option>
            <option v-for="d in docks.data.value?.slice(1)" :key="d.id" :value="d.id">{{ d.code }}</option>
          </select></label
        >
        <button class="btn go" :disabled="busy" @click="openArrival(order.data.value)">
          Open an arrival for {{ order.data.value.number }}
        </button>
      </div>
      <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
    </template>

    <div v-else class="empty">
      Choose an arrival to check off what came, or an order to open one for it.
      {{ plural(orders.data.value?.length ?? 0, 'order') }} on the way,
      {{ orders.data.value?.filter((o) => o.late).length ?? 0 }} of them late.
    </div>

    <template v-if="kind === 'arrival'" #after>
      <BeforeAfter
        :plan="plan"
        :problem="problem ?? refused"
        :done="done"
        :busy="busy"
        :fresh="fresh"
        idle="Enter what is here. The moves it will make stand here before they are made."
        doing="Book in"
        @go="bookIn"
      >
        <router-link v-if="done" to="/putaway" class="btn">Put the goods away</router-link>
      </BeforeAfter>
    </template>
  </BenchLayout>
</template>

<style scoped>
.lot {
  display: flex;
  gap: 5px;
  margin-bottom: 4px;
}
</style>
