<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, Problem, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { serialOf } from '@/parts/serials'
import { plural, since } from '@/parts/words'
import { useGuarded } from './guarded'
import ScanBox from './ScanBox.vue'
import ScannerStandIn from './ScannerStandIn.vue'

const router = useRouter()
const site = computed(() => session.site)
const waiting = useQuery({
  queryKey: ['putaway', 'waiting', site],
  queryFn: () => ask(api.GET('/api/v1/put-away/waiting', { params: { query: { site: site.value } } })),
})
const goods = ref<Schemas['PutawayWaiting']>()
const proposal = ref<Schemas['PutawayProposal']>()
const { wrong, done, guarded } = useGuarded()
const location = computed(() => proposal.value?.locations[0])

/** Cartons and pallets that are put away as one. */
const pallets = useQuery({
  queryKey: ['putaway', 'pallets', site],
  queryFn: () => ask(api.GET('/api/v1/put-away/pallets', { params: { query: { site: site.value } } })),
})
const pallet = ref<Schemas['CartonsPallet']>()
const palletBins = ref<Schemas['PutawayOffer'][]>([])
const holds = (p: Schemas['CartonsPallet']) => p.holds.map((h) => `${h.quantity} ${h.sku}`).join(', ')

async function takePallet(p: Schemas['CartonsPallet']) {
  palletBins.value = await ask(api.GET('/api/v1/put-away/pallets/{id}/bins', { params: { path: { id: p.id } } }))
  pallet.value = p
}

async function putPallet(bin: string) {
  const p = pallet.value!
  const said = await once((h) =>
    ask(api.POST('/api/v1/put-away/pallets', { headers: h, body: { carton_id: p.id, bin } })),
  )
  done.value = `${p.kind} …${p.sscc.slice(-4)} is in ${said.moves[0]?.to}.`
  pallet.value = undefined
  await pallets.refetch()
}

/** Units that go into the bin told, where not all of them do. */
const units = ref<string[]>([])
const picksUnits = computed(
  () => goods.value?.tracking === 'serial' && Number(location.value?.quantity ?? 0) < Number(goods.value.quantity),
)
async function takeUnit(text: string) {
  const code = await serialOf(text, goods.value!.item_id)
  if (units.value.includes(code)) throw new Problem(409, 'serial_twice', `Serial ${code} is scanned already.`)
  units.value.push(code)
}
const unitsDone = computed(() => !picksUnits.value || units.value.length >= Number(location.value?.quantity ?? 0))

/** What goes onto a trolley for one walk, instead of one by one. */
const loading = ref(false)
const loaded = ref<Schemas['PutawayWaiting'][]>([])
/** Whether two lines are of the same goods, however many. */
const same = (a: Schemas['PutawayWaiting']) => (b: Schemas['PutawayWaiting']) =>
  a.location_id === b.location_id && a.item_id === b.item_id && a.lot_id === b.lot_id
const isLoaded = (w: Schemas['PutawayWaiting']) => loaded.value.some(same(w))

function load(w: Schemas['PutawayWaiting']) {
  if (isLoaded(w)) throw new Problem(409, 'loaded', `${w.sku} is on the trolley already.`)
  loaded.value.push(w)
}

/** A second tap leaves it on the dock after all. */
function leave(w: Schemas['PutawayWaiting']) {
  loaded.value = loaded.value.filter((l) => !same(w)(l))
}

const beginWalk = () =>
  guarded(async () => {
    const walk = await once((h) =>
      ask(
        api.POST('/api/v1/put-away/walks', {
          headers: h,
          body: {
            site_id: session.site,
            goods: loaded.value.map((w) => ({
              location_id: w.location_id,
              item_id: w.item_id,
              lot_id: w.lot_id ?? undefined,
              quantity: w.quantity,
            })),
          },
        }),
      ),
    )
    void router.push(`/hand/walk/${walk.id}`)
  })

async function propose(w: Schemas['PutawayWaiting']) {
  proposal.value = await ask(
    api.POST('/api/v1/put-away/propose', {
      body: { location_id: w.location_id, item_id: w.item_id, lot_id: w.lot_id ?? undefined, quantity: w.quantity },
    }),
  )
  goods.value = w
  units.value = []
}

async function takeGoods(text: string) {
  const reading = await ask(api.GET('/api/v1/scan', { params: { query: { site: site.value, text } } }))
  const whole = pallets.data.value?.find((p) => reading.found.some((f) => f.kind === 'carton' && f.code === p.sscc))
  if (whole && !loading.value) return takePallet(whole)
  const g = reading.goods
  if (!g) throw new Problem(409, 'wrong_item', `You scanned ${text}, which is no item. Scan the label on the goods.`)
  const line = waiting.data.value?.find((w) => w.item_id === g.item.id && (!g.lot || w.lot === g.lot))
  if (!line)
    throw new Problem(
      409,
      'wrong_item',
      `${g.item.sku}${g.lot ? ` lot ${g.lot}` : ''} does not stand on a dock here. Look at the list below.`,
    )
  if (loading.value) load(line)
  else await propose(line)
}

/** The bin that was told, or another that can take it: the server judges. */
async function putGoods(text: string) {
  const g = goods.value
  const p = location.value
  if (!g || !p) return
  const quantity = p.quantity
  const said = await once((h) =>
    ask(
      api.POST('/api/v1/put-away', {
        headers: h,
        body: {
          location_id: g.location_id,
          item_id: g.item_id,
          lot_id: g.lot_id ?? undefined,
          quantity,
          locations: [{ bin: text, quantity, serials: units.value.length ? units.value : undefined }],
        },
      }),
    ),
  )
  done.value = `${quantity} put away in ${said.moves[0]?.to}.`
  const list = (await waiting.refetch()).data
  const rest = list?.find(same(g))
  goods.value = undefined
  proposal.value = undefined
  if (rest) await propose(rest)
}

/** A scan meets the question that stands when its turn comes. */
const scan = (text: string) =>
  guarded(() => {
    if (pallet.value) return putPallet(text)
    if (!goods.value) return takeGoods(text)
    return unitsDone.value ? putGoods(text) : takeUnit(text)
  })

const labels = computed(() =>
  goods.value
    ? [
        ...(picksUnits.value && !unitsDone.value
          ? (location.value?.serials ?? [])
              .filter((c) => !units.value.includes(c))
              .slice(0, 1)
              .map((code) => ({ name: 'A unit', code }))
          : []),
        ...(location.value ? [{ name: 'The bin told', code: location.value.bin }] : []),
        ...(proposal.value?.others.slice(0, 1).map((o) => ({ name: 'Another bin', code: o.bin })) ?? []),
      ]
    : pallet.value
      ? palletBins.value.slice(0, 2).map((o, i) => ({ name: i ? 'Another bin' : 'The bin told', code: o.bin }))
      : [
          ...(pallets.data.value ?? []).slice(0, 2).map((p) => ({ name: `A ${p.kind}`, code: `]C100${p.sscc}` })),
          ...(waiting.data.value ?? [])
            .slice(0, 4)
            .map((w) => ({ name: `${w.quantity} ${w.description}`, code: w.sku })),
        ],
)
</script>

<template>
  <div class="top">
    <router-link to="/hand">Back</router-link><span>Put away</span
    ><span>{{ waiting.data.value?.length ?? 0 }} to go</span>
  </div>
  <div v-if="done" class="ask" style="border-color: #2f8a74" role="status">{{ done }}</div>
  <template v-if="goods">
    <template v-if="location">
      <div class="go">Bring it to</div>
      <div class="bin mono" data-go>{{ location.bin }}</div>
      <div class="it">
        <div class="n">{{ goods.description }}</div>
        <div class="m">
          <span class="mono">{{ goods.sku }}</span><template v-if="goods.lot"
            >, lot <span class="mono">{{ goods.lot }}</span></template
          >, from {{ goods.location }}
        </div>
      </div>
      <div class="take">
        <div class="q">
          <small>Put in</small><b class="mono">{{ location.quantity }}</b
          ><small>of {{ goods.quantity }}; {{ location.why[0] }}</small>
        </div>
      </div>
      <ScanBox
        v-if="!unitsDone"
        :step="'unit' + units.length"
        :question="`Scan the units that go there, ${units.length} of ${location.quantity}`"
        hint="Not all of them fit, so that it is known which are where."
        :wrong="wrong"
        @scan="scan"
      />
      <ScanBox
        v-else
        step="bin"
        question="Scan the bin"
        hint="Another bin is fine if it can take them."
        :wrong="wrong"
        @scan="scan"
      />
    </template>
    <div v-else class="ask wrong" role="alert">No bin can take {{ goods.description }}. Ask the lead.</div>
    <div class="alt">
      <button v-if="units.length && !unitsDone" @click="units.pop()">Remove {{ units.at(-1) }}</button>
      <button @click="goods = undefined">Other goods</button>
    </div>
  </template>
  <template v-else-if="pallet">
    <template v-if="palletBins.length">
      <div class="go">Bring the {{ pallet.kind }} to</div>
      <div class="bin mono" data-go>{{ palletBins[0]!.bin }}</div>
      <div class="it">
        <div class="n">
          {{ pallet.kind }} <span class="mono">…{{ pallet.sscc.slice(-4) }}</span>
        </div>
        <div class="m">{{ holds(pallet) }}, from {{ pallet.location }}; {{ palletBins[0]!.why[0] }}</div>
      </div>
      <ScanBox
        step="pallet"
        question="Scan the bin"
        hint="All that stands on it is put away in one scan."
        :wrong="wrong"
        @scan="scan"
      />
    </template>
    <div v-else class="ask wrong" role="alert">No bin takes it as one. Ask the lead.</div>
    <div class="alt"><button @click="pallet = undefined">Other goods</button></div>
  </template>
  <template v-else>
    <ScanBox
      step="goods"
      :question="loading ? 'Scan what goes on the trolley' : 'Scan the goods'"
      hint="Their label tells item and lot."
      :wrong="wrong"
      @scan="scan"
    />
    <button
      v-for="w in waiting.data.value"
      :key="w.location_id + '/' + w.item_id + '/' + w.lot_id"
      class="job"
      style="border: 0; text-align: left; font: inherit"
      :aria-pressed="loading ? isLoaded(w) : undefined"
      :class="{ on: isLoaded(w) }"
      @click="guarded(async () => (isLoaded(w) ? leave(w) : loading ? load(w) : propose(w)))"
    >
      <b>{{ w.description }}</b><span class="mono">{{ w.quantity }}</span
      ><span>{{ w.location }}, {{ since(w.since) }}</span>
    </button>
    <button
      v-for="p in loading ? [] : pallets.data.value"
      :key="p.id"
      class="job"
      style="border: 0; text-align: left; font: inherit"
      @click="guarded(() => takePallet(p))"
    >
      <b
        >{{ p.kind }} <span class="mono">…{{ p.sscc.slice(-4) }}</span></b
      ><span>{{ holds(p) }}, {{ p.location }}</span>
    </button>
    <p v-if="waiting.data.value?.length === 0 && !pallets.data.value?.length" class="none">The docks are clear.</p>
    <div v-else class="alt">
      <button v-if="!loading" @click="loading = true">Load a trolley</button>
      <template v-else>
        <button @click="((loading = false), (loaded = []))">One by one</button>
        <button class="walk" :disabled="!loaded.length" data-walk @click="beginWalk">
          Walk with {{ plural(loaded.length, 'line') }}
        </button>
      </template>
    </div>
  </template>
  <ScannerStandIn v-if="labels.length" :labels="labels" />
</template>
