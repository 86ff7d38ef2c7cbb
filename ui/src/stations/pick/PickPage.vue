<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import BenchLayout from '@/parts/BenchLayout.vue'
import FloorMap from '@/parts/FloorMap.vue'
import { useCommand, usePreview } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import { plural, since, today, when } from '@/parts/words'

const props = defineProps<{ id?: string }>()
const route = useRoute()
const router = useRouter()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
const rounds = useQuery({
  queryKey: ['pick', 'rounds', site],
  queryFn: () => ask(api.GET('/api/v1/rounds', { params: { query: { site: site.value } } })),
})
const orders = useQuery({
  queryKey: ['orders', 'list', site, 'let go'],
  queryFn: () => ask(api.GET('/api/v1/sales-orders', { params: { query: { site: site.value, state: 'let go' } } })),
})
const round = useQuery({
  queryKey: ['pick', 'round', id],
  queryFn: () => ask(api.GET('/api/v1/rounds/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
const floor = useQuery({
  queryKey: ['floor', site],
  queryFn: () => ask(api.GET('/api/v1/floor', { params: { query: { site: site.value } } })),
})
const pickable = computed(() =>
  (orders.data.value ?? []).filter((o) => Number(o.quantity) > Number(o.planned) + Number(o.taken) + Number(o.sent)),
)
const ticked = ref<number[]>([])
const emptyFirst = ref('')
const proposal = ref<Schemas['PickProposed']>()
const stops = ref<(Schemas['PickProposedStop'] & { text: string })[]>([])
const { busy, problem, done, run } = useCommand()

/** A dock that a round takes from, instead of bins. */
const from = ref(0)
watch(
  () => [route.query.order ?? route.query.orders, route.query.from],
  ([o, dock]) => {
    from.value = Number(dock) || 0
    if (o) {
      ticked.value = String(o).split(',').map(Number)
      void propose()
    }
  },
  { immediate: true },
)

async function propose() {
  const p = await run(() =>
    ask(
      api.POST('/api/v1/pick/plan', {
        body: {
          site_id: site.value,
          order_ids: ticked.value,
          empty_first: emptyFirst.value || undefined,
          from_id: from.value || undefined,
        },
      }),
    ),
  )
  proposal.value = p
  stops.value = p?.stops.map((s) => ({ ...s, text: s.quantity })) ?? []
}

const body = computed<Schemas['PickDraft'] | null>(() =>
  stops.value.length
    ? {
        site_id: site.value,
        stops: stops.value.map((s) => ({
          line_id: s.line_id,
          place_id: s.place_id,
          lot_id: s.lot_id ?? undefined,
          carton_id: s.carton_id ?? undefined,
          quantity: s.text,
        })),
      }
    : null,
)
const {
  plan,
  problem: refused,
  fresh,
} = usePreview('round', body, (b) => ask(api.POST('/api/v1/pick/preview', { body: b })))
const lacking = computed(() => [
  ...(proposal.value?.lacking ?? []),
  ...(plan.value?.lacking ?? []).filter(
    (l) => !proposal.value?.lacking.some((p) => p.order === l.order && p.sku === l.sku),
  ),
])

async function letGo() {
  const b = body.value
  if (!b) return
  const r = await run(
    () => once((h) => ask(api.POST('/api/v1/rounds', { headers: h, body: b }))),
    (x) => `${x.number} is let go.`,
  )
  if (r) {
    stops.value = []
    proposal.value = undefined
    ticked.value = []
    void router.push(`/pick/${r.id}`)
  }
}

/** Bins that hold more of a stop's item, to change it or to split it. */
const others = ref<Schemas['StockHolding'][]>([])
const changing = ref(-1)
async function change(i: number) {
  changing.value = changing.value === i ? -1 : i
  const s = stops.value[i]
  if (changing.value < 0 || !s) return
  const page = await ask(
    api.GET('/api/v1/items/{id}', { params: { path: { id: s.item_id }, query: { site: site.value } } }),
  )
  others.value = page.holdings.filter((h) => h.kind === 'bin' && Number(h.quantity) > Number(h.pinned))
}
function useBin(i: number, h: Schemas['StockHolding'], split: boolean) {
  const s = stops.value[i]
  if (!s) return
  const to = {
    ...s,
    place_id: h.place_id,
    bin: h.place,
    lot_id: h.lot_id,
    lot: h.lot ?? '',
    carton_id: h.carton_id,
    carton: h.carton ?? '',
    available: String(Number(h.quantity) - Number(h.pinned)),
    why: 'chosen by you',
  }
  if (split) stops.value.splice(i + 1, 0, { ...to, text: '1' })
  else stops.value[i] = to
  changing.value = -1
}
const path = computed(
  () => (id.value ? round.data.value?.path : plan.value?.path) as { x: number; y: number }[] | undefined,
)
</script>

<template>
  <BenchLayout waits="Rounds and open orders">
    <template #waiting>
      <h2>
        <span>Rounds</span><span>{{ rounds.data.value?.length ?? 0 }}</span>
      </h2>
      <QueueCard
        v-for="r in rounds.data.value"
        :key="r.id"
        :to="`/pick/${r.id}`"
        :selected="id === r.id"
        :share="r.done_count / Math.max(1, r.stop_count)"
      >
        <span class="mono">{{ r.number }}</span><span>{{ r.done_count }} of {{ r.stop_count }}</span>
        <template #more
          ><span>{{ r.picker || 'nobody yet' }}</span
          ><span v-if="r.ends_at">ends about {{ when(r.ends_at) }}</span
          ><span v-else>{{ r.metres }} m, {{ r.minutes }} min, waits {{ since(r.let_go_at) }}</span></template
        >
      </QueueCard>
      <div v-if="rounds.data.value?.length === 0" class="empty">Nobody walks. Plan a round from the orders below.</div>
      <h2><span>Let go, to be picked</span><router-link to="/pick">plan</router-link></h2>
      <label v-for="o in pickable" :key="o.id" class="tick">
        <input v-model="ticked" type="checkbox" :value="o.id" />
        <span
          ><b class="mono">{{ o.number }}</b> {{ o.customer
          }}<span class="mute small"
            ><br /><span :class="{ late: o.late }">{{
              o.late ? `late ${o.wanted_on}` : o.wanted_on === today() ? 'today' : o.wanted_on
            }}</span
            >, {{ o.carrier }}</span
          ></span
        >
      </label>
      <div v-if="!pickable.length" class="empty">No order that is let go waits for a round.</div>
      <label class="field" style="margin: 8px 0"
        >Empty this bin first<input v-model="emptyFirst" class="mono" placeholder="any"
      /></label>
      <button class="btn go" :disabled="!ticked.length || busy" @click="((from = 0), router.push('/pick'), propose())">
        Plan {{ plural(ticked.length, 'order') }}
      </button>
    </template>

    <template v-if="id && round.data.value">
      <h1>
        Round <span class="mono">{{ round.data.value.number }}</span>
        <span class="mute small"
          >{{ round.data.value.state
          }}<template v-if="round.data.value.picker">, {{ round.data.value.picker }}</template></span
        >
      </h1>
      <p class="mute">
        <b class="mono">{{ round.data.value.metres }} m</b> to walk; plain bin order would be
        {{ round.data.value.plain_metres }} m. Reckoned to take
        <b class="mono">{{ round.data.value.minutes }}</b> minutes<template v-if="round.data.value.ends_at"
          >, ends about <b class="mono">{{ when(round.data.value.ends_at) }}</b></template
        >. Walk it on a handheld at <router-link :to="`/hand/round/${id}`">/hand</router-link>.
      </p>
      <FloorMap
        v-if="floor.data.value"
        :plan="floor.data.value"
        :path="path"
        @open="(b) => router.push(`/stock/place/${b}`)"
      />
      <table class="plain">
        <thead>
          <tr>
            <th class="r">Stop</th>
            <th>Bin</th>
            <th>Item</th>
            <th>Lot</th>
            <th>Order</th>
            <th class="r">Wanted</th>
            <th class="r">Taken</th>
            <th class="r">Short</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in round.data.value.stops" :key="s.id" :class="{ now: s.done }">
            <td class="r mono">{{ s.seq }}</td>
            <td class="mono">
              <b>{{ s.bin }}</b>
            </td>
            <td>
              {{ s.description }} <span class="mono mute small">{{ s.sku }}</span>
            </td>
            <td class="mono">{{ s.lot }}</td>
            <td class="mono">
              <router-link :to="`/orders/${s.order_id}`">{{ s.order }}</router-link>
            </td>
            <td class="r mono">{{ s.quantity }}</td>
            <td class="r mono">{{ s.taken }}</td>
            <td class="r mono" :class="{ late: Number(s.short) }">{{ Number(s.short) ? s.short : '' }}</td>
          </tr>
        </tbody>
      </table>
    </template>
    <template v-else-if="stops.length || proposal">
      <h1>A round for {{ plural(new Set(stops.map((s) => s.order_id)).size, 'order') }}</h1>
      <p v-if="plan" class="mute">
        <b class="mono">{{ plan.metres }} m</b> by the shortest walk,
        {{ Math.max(0, Math.round((plan.plain_metres - plan.metres) * 10) / 10) }} m less than plain bin order.
        {{ plan.units }} units, {{ plan.weight_kg }} kg. About <b class="mono">{{ plan.time.minutes }}</b> minutes:
        {{ plan.time.set_up }} to set up, {{ plan.time.walking }} walking, {{ plan.time.handling }} at the bins.
      </p>
      <FloorMap
        v-if="floor.data.value"
        :plan="floor.data.value"
        :path="path"
        @open="(b) => router.push(`/stock/place/${b}`)"
      />
      <div v-for="l in lacking" :key="l.order + l.sku" class="note w">
        {{ l.order }} lacks {{ l.quantity }} of {{ l.sku }}: {{ l.why }}. It stays open.
      </div>
      <table class="plain" data-proposal>
        <thead>
          <tr>
            <th>Bin</th>
            <th>Item</th>
            <th>Lot</th>
            <th>Order</th>
            <th class="r">Free there</th>
            <th class="r">Take</th>
            <th><span class="skip">What to do</span></th>
          </tr>
        </thead>
        <tbody>
          <template v-for="(s, i) in stops" :key="i">
            <tr>
              <td class="mono">
                <b>{{ s.bin }}</b>
              </td>
              <td>
                {{ s.description }}
                <div class="mute small">
                  <span class="mono">{{ s.sku }}</span> {{ s.why }}
                </div>
              </td>
              <td class="mono">{{ s.lot }}</td>
              <td class="mono">{{ s.order }}</td>
              <td class="r mono">{{ s.available }}</td>
              <td class="r">
                <input
                  v-model="s.text"
                  class="num mono"
                  inputmode="decimal"
                  :aria-label="`Take from ${s.bin} for ${s.order}`"
                />
              </td>
              <td class="small nb">
                <button class="btn bare" @click="change(i)">bin</button
                ><button class="btn bare" @click="stops.splice(i, 1)">out</button>
              </td>
            </tr>
            <tr v-if="changing === i">
              <td colspan="7">
                <span v-for="h in others" :key="h.place + h.lot" class="small">
                  <b class="mono">{{ h.place }}</b> {{ h.lot }} has {{ Number(h.quantity) - Number(h.pinned) }}
                  <button class="btn bare" @click="useBin(i, h, false)">use it</button
                  ><button class="btn bare" @click="useBin(i, h, true)">add it</button>&ensp;
                </span>
              </td>
            </tr>
          </template>
        </tbody>
      </table>
    </template>
    <template v-else>
      <div class="empty">
        Tick orders on the left and plan a round: stock is chosen bin by bin, and the shortest walk is drawn here before
        anything is let go.
      </div>
      <FloorMap
        v-if="floor.data.value"
        :plan="floor.data.value"
        walks
        style="margin-top: 14px"
        @open="(b) => router.push(`/stock/place/${b}`)"
      />
    </template>

    <template v-if="stops.length || problem || done" #after>
      <h2>
        <span>Before and after</span><span>{{ plural(stops.length, 'pin') }}</span>
      </h2>
      <div class="grow">
        <div v-if="done" class="note g" role="status">{{ done }}</div>
        <div v-if="problem || refused" class="note s" role="alert">{{ (problem ?? refused)?.message }}</div>
        <template v-if="plan">
          <div class="note g">
            Letting it go moves nothing yet. It pins this stock to its orders: nobody else may take it.
          </div>
          <div v-for="(s, i) in plan.stops" :key="i" class="pin">
            <span class="mono"
              >{{ i + 1 }}&ensp;<b>{{ s.bin }}</b></span
            ><span class="mono">{{ s.quantity }}</span
            ><span class="mute small mono">{{ s.sku }} for {{ s.order }}</span>
          </div>
        </template>
      </div>
      <button class="btn go big" data-primary :disabled="!plan || !fresh || busy || !!refused" @click="letGo">
        {{ plan?.button ?? 'Let the round go' }}
      </button>
    </template>
  </BenchLayout>
</template>

<style scoped>
.tick {
  display: flex;
  gap: 8px;
  padding: 6px 4px;
  border-bottom: 1px solid var(--line);
  cursor: pointer;
}
.tick input {
  width: 20px;
  height: 20px;
  margin-top: 2px;
  accent-color: var(--act);
}
.grow {
  flex: 1;
  overflow-y: auto;
  margin-bottom: 10px;
}
.pin {
  display: grid;
  grid-template-columns: 1fr auto;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 5px 10px;
  margin-bottom: 5px;
}
.big {
  padding: 12px 16px;
  font-size: 17px;
}
</style>
