<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Problem, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { useCommand } from '@/parts/preview'
import { byLots, byUnits, type useArrival } from './arrival'
import ArrivalReceipts from './ArrivalReceipts.vue'
import SerialEntry from './SerialEntry.vue'

/** One arrival at the dock, checked off line by line against its orders. */
const props = defineProps<{ step: ReturnType<typeof useArrival>; problem?: Problem }>()
const router = useRouter()
const a = computed(() => props.step.arrival.value!)
const open = computed(() => a.value.state === 'open')
const entries = props.step.entries
const pallet = props.step.pallet
const { busy, problem: refused, run } = useCommand()
const several = computed(() => a.value.orders.length > 1)
/** A non-stock line is on the order's page alone. */
const lines = computed(() => a.value.lines.filter((l) => l.item_id))

async function close() {
  const ok = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/arrivals/{id}/close', {
          headers: h,
          params: { path: { id: a.value.id } },
          body: { version: a.value.version },
        }),
      ),
    ),
  )
  if (ok) void router.push('/receive')
}

const adding = ref(false)
/** Other orders whose goods may be on the same lorry. */
const others = useQuery({
  queryKey: ['receive', 'orders', 'beside', computed(() => a.value.id)],
  queryFn: () => ask(api.GET('/api/v1/arrivals/{id}/beside', { params: { path: { id: a.value.id } } })),
  enabled: adding,
})
const joinable = computed(() => others.data.value ?? [])
async function join(order: number) {
  const ok = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/arrivals/{id}/orders', {
          headers: h,
          params: { path: { id: a.value.id } },
          body: { version: a.value.version, order_id: order },
        }),
      ),
    ),
  )
  if (!ok) return
  adding.value = false
  await props.step.query.refetch()
}

async function makeLot(l: Schemas['InboundLine'], i: number) {
  const made = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/arrivals/{id}/lots', {
          headers: h,
          params: { path: { id: a.value.id } },
          body: { item_id: l.item_id },
        }),
      ),
    ),
  )
  if (!made) return
  const lot = entries[l.id]!.lots[i]!
  lot.code = made.code
  lot.expires_on ||= made.expires_on
}

/** A line that is refused for what a lead may accept asks for the reason; so does one that has one. */
function asksWhy(l: Schemas['InboundLine']) {
  if (entries[l.id]?.reason) return true
  const p = props.problem
  const at = props.step.body.value?.lines.findIndex((x) => x.line_id === l.id) ?? -1
  return (
    at >= 0 &&
    !!p?.field?.startsWith(`lines[${at}]`) &&
    ['over_allowance', 'short_lived', 'lot_expired', 'lead_decides', 'reason_short'].includes(p.code)
  )
}

/** Enter goes to the next field a scan would go to. */
function next(e: KeyboardEvent) {
  if (e.ctrlKey) return
  e.preventDefault()
  const all = [...document.querySelectorAll<HTMLInputElement>('.sheet input:not(:disabled)')]
  all[all.indexOf(e.target as HTMLInputElement) + 1]?.focus()
}
/** The orders that wait for what stands here, for one round straight from the dock. */
const straight = computed(() => ({
  path: '/pick',
  query: { orders: [...new Set(a.value.wanted.map((w) => w.order_id))].join(','), from: String(a.value.dock_id) },
}))
const takes = (l: Schemas['InboundLine']) => open.value && !l.closed && !!entries[l.id]
</script>

<template>
  <h1>
    Arrival <span class="mono">{{ a.number }}</span>
  </h1>
  <p class="mute">
    {{ a.source }}, on
    <template v-for="(o, i) in a.orders" :key="o.id"
      >{{ i ? ', ' : ''
      }}<router-link class="mono" :to="`/receive/order/${o.id}`">{{ o.number }}</router-link></template
    >, at {{ a.dock }}. Enter what is here, or scan it on the line above: a GS1 code fills item, lot, serial and count.
    <b v-if="a.waits">What comes waits on the dock, not free, until its order is complete.</b>
  </p>
  <div v-if="open" class="fields">
    <label class="field"
      >Load unit<select v-model="pallet.kind" aria-label="Load unit">
        <option value="">nothing</option>
        <option value="pallet">one pallet</option>
        <option value="carton">one carton</option>
      </select></label
    >
    <label v-if="pallet.kind" class="field"
      >Number on its label<input
        v-model="pallet.sscc"
        class="mono"
        size="22"
        placeholder="none: a new one is made"
        aria-label="Number of the pallet or carton"
    /></label>
    <button v-if="!adding" class="btn" @click="adding = true">Another order is on this lorry</button>
    <template v-else>
      <button v-for="o in joinable" :key="o.id" class="btn mono" :disabled="busy" @click="join(o.id)">
        {{ o.number }}
      </button>
      <span v-if="others.isSuccess.value && !joinable.length" class="mute small"
        >No other order of {{ a.source }} is open.</span
      >
      <button class="btn bare" @click="adding = false">Discard</button>
    </template>
  </div>
  <div v-if="refused" class="note s" role="alert">{{ refused.message }}</div>
  <div v-if="a.wanted.length" class="note w wanted" data-wanted>
    <div>
      <b>Waiting orders want what stands at {{ a.dock }}:</b>
      <span v-for="w in a.wanted.slice(0, 4)" :key="w.line_id" class="w-line"
        ><span class="mono">{{ w.order }}</span> {{ w.customer }}:
        <span class="mono">{{ w.quantity }} {{ w.sku }}</span></span
      >
      <span v-if="a.wanted.length > 4" class="mute">and {{ a.wanted.length - 4 }} lines more</span>
    </div>
    <router-link v-if="session.person?.role === 'lead'" class="btn" :to="straight"
      >Take it straight to the bench</router-link
    >
  </div>
  <table class="plain" data-arrival>
    <thead>
      <tr>
        <th>Item</th>
        <th class="r">Ordered</th>
        <th class="r">Received</th>
        <th class="r">Here now</th>
        <th>Lot, expiry, units</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="l in lines" :key="l.id" :class="{ now: entries[l.id]?.quantity }">
        <td>
          <b>{{ l.description }}</b>
          <div class="mono mute small">
            {{ l.sku }}<template v-if="several">, {{ l.order }}</template>
          </div>
        </td>
        <td class="r mono">
          {{ l.quantity }}
          <div v-if="l.least !== l.most" class="mute small">{{ l.least }} to {{ l.most }}</div>
        </td>
        <td class="r mono">{{ l.received }}</td>
        <td class="r">
          <template v-if="takes(l)">
            <input
              v-model="entries[l.id]!.quantity"
              class="num mono"
              inputmode="decimal"
              :aria-label="`${l.sku} here now`"
              :readonly="byUnits(l)"
              @keydown.enter="next"
            />
            <select
              v-if="!byUnits(l) && l.packs.length > 1"
              v-model.number="entries[l.id]!.pack"
              class="entry small pack"
              :aria-label="`${l.sku} counted in`"
            >
              <option :value="0">{{ l.unit }}</option>
              <option v-for="p in l.packs.filter((x) => x.holds !== '1')" :key="p.id" :value="p.id">
                {{ p.name }}
              </option>
            </select>
          </template>
          <span v-else class="mute">{{
            l.cancelled === '0' ? (l.closed ? 'received' : 'not now') : `${l.cancelled} cancelled`
          }}</span>
        </td>
        <td>
          <SerialEntry
            v-if="takes(l) && byUnits(l)"
            :line="l"
            :serials="entries[l.id]!.serials"
            :said="step.said.value?.line === l.id ? step.said.value.text : ''"
            @add="(code) => step.addSerial(l, code)"
            @drop="(code) => step.dropSerial(l, code)"
          />
          <template v-else-if="takes(l) && byLots(l)">
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
              <button v-if="!lot.code" class="btn bare small" :disabled="busy" @click="makeLot(l, i)">make one</button>
            </div>
            <button
              class="btn bare small"
              @click="entries[l.id]!.lots.push({ code: '', expires_on: '', quantity: '' })"
            >
              another lot
            </button>
          </template>
          <span v-else-if="!byLots(l) && !byUnits(l)" class="mute small">{{
            l.tracking === 'serial_out' ? 'serials on the way out' : 'no lots'
          }}</span>
          <label v-if="asksWhy(l) && session.person?.role === 'lead'" class="why small"
            >Accept it all the same, because<input
              v-model="entries[l.id]!.reason"
              :aria-label="`${l.sku} accepted because`"
          /></label>
        </td>
      </tr>
    </tbody>
  </table>
  <ArrivalReceipts :arrival="a" @undone="step.query.refetch()" />
  <p v-if="open">
    <button class="btn" :disabled="busy" @click="close">Nothing more comes: close {{ a.number }}</button>
  </p>
</template>

<style scoped>
.why {
  display: block;
  margin-top: 4px;
}
.why input {
  display: block;
  width: 100%;
}
.lot {
  align-items: center;
  white-space: nowrap;
  display: flex;
  gap: 5px;
  margin-bottom: 4px;
}
.pack {
  display: block;
  margin: 3px 0 0 auto;
  max-width: 110px;
}
.wanted {
  display: flex;
  gap: 14px;
  align-items: center;
  justify-content: space-between;
  margin-bottom: 12px;
}
.w-line {
  display: block;
}
</style>
