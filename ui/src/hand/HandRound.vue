<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, onMounted, ref, toRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, Problem, type Schemas } from '@/api/client'
import { session, worksAs } from '@/api/session'
import { looksGS1, serialOf } from '@/parts/serials'
import { useGuarded } from './guarded'
import { lookLocally, stepAfter, unitOn } from './look'
import { usePlace } from './place'
import { away, loaded, mine, sendOrQueue, withQueued } from './queue'
import ScanBox from './ScanBox.vue'
import ScannerStandIn from './ScannerStandIn.vue'
import ShipRound from './ShipRound.vue'
import { type Step } from './steps'
import { forgetRound, keepRound, keptRound, type Place } from './store'

const props = defineProps<{ id: number }>()
const router = useRouter()
const round = useQuery({
  queryKey: ['pick', 'round', computed(() => props.id)],
  queryFn: () => ask(api.GET('/api/v1/rounds/{id}', { params: { path: { id: props.id } } })),
})
const blank = useQuery({
  queryKey: ['pick', 'blank'],
  queryFn: () => ask(api.GET('/api/v1/cartons', { params: { query: { site: session.site, state: 'blank' } } })),
})
const now = ref<Schemas['PickRound']>()
/** What the device kept is read; without a connection there is nothing else. */
const looked = ref(false)
const left = computed(() => (now.value?.stops ?? []).filter((s) => s.state === 'open'))
const stop = computed(() => left.value.find((s) => !skipped.value.includes(s.id)) ?? left.value[0])
const wanted = computed(() =>
  stop.value ? Number(stop.value.quantity) - Number(stop.value.picked) - Number(stop.value.short) : 0,
)
const open = (order: number) => now.value?.cartons.filter((c) => c.state === 'open' && c.order_id === order) ?? []
const carton = computed(() => (stop.value ? open(stop.value.order_id).at(-1) : undefined))
/** The order that needs a carton before the next take; what goes on its pallet as it is needs none. */
const needs = computed(() =>
  now.value?.orders.find((o) => !open(o.id).length && left.value.some((s) => s.order_id === o.id && !s.whole_carton)),
)
const another = ref(false)

watch(
  () => mine.value.length,
  (n) => {
    if (!n) void round.refetch()
  },
)

const { place, begin, move, scans, units, step, quantity, skipped } = usePlace(
  toRef(props, 'id'),
  computed(() => stop.value?.id),
  () => {
    const scans = sameBin()
    const last = scans?.lot ? 'lot' : scans?.item ? 'item' : scans?.bin ? 'bin' : undefined
    const step = now.value && stop.value ? stepAfter(now.value, stop.value, last) : 'bin'
    return { step, quantity: step === 'quantity' ? String(wanted.value) : '', ...(scans ? { scans } : {}) }
  },
)
/** The stop that was taken last, with what was scanned there. */
let taken: { stop: Schemas['PickRoundStop']; scans: Place['scans'] } | undefined
/**
 * What is taken from a bin in parts, into several cartons or unit by unit as reserved, is one walk to it: its label and
 * the item's are scanned once. The item's label is scanned again where it counts a unit or may say another lot.
 */
function sameBin(): Place['scans'] | undefined {
  const [before, s] = [taken?.stop, stop.value]
  if (!before || !s || before.line_id !== s.line_id || before.location_id !== s.location_id) return
  if (before.id !== s.id && !(unitwise.value && before.lot_id === s.lot_id)) return
  const { bin, item, lot } = taken!.scans
  return s.tracking === 'lot_out' || now.value?.each_unit ? { bin } : { bin, item, lot }
}
/** What stays to be taken here when fewer go into the carton. */
const rest = computed(() => Math.round((wanted.value - Number(quantity.value || wanted.value)) * 1000) / 1000)
/** The units that are reserved for the order by name, and not scanned yet. */
const named = computed(() =>
  (stop.value?.units ?? []).map((u) => u.serial).filter((serial) => !units.value.includes(serial)),
)
const unitwise = computed(() => ['serial', 'serial_out'].includes(stop.value?.tracking ?? ''))
const { busy, wrong, refused, guarded } = useGuarded()
const shorting = ref(false)
watch(
  () => stop.value?.id,
  () => {
    wrong.value = ''
    shorting.value = false
  },
)

const path = computed(() => ({ path: { id: props.id } }))

const start = () => guarded(() => make({ what: 'start' }, `${now.value?.number} begun`))

/** Opens the round as the device kept it, until the server answers. */
onMounted(async () => {
  const [kept] = await Promise.all([keptRound(session.person?.id ?? 0, props.id).catch(() => undefined), loaded])
  if (kept?.place) place.value = kept.place
  if (kept && !now.value) now.value = withQueued(kept.round)
  looked.value = true
})
watch(
  [round.data, looked],
  ([r]) => {
    if (!r || !looked.value) return
    now.value = withQueued(r)
    const person = session.person?.id ?? 0
    const over = r.state === 'done' && !mine.value.some((k) => k.round === r.id)
    void (over ? forgetRound(person, r.id) : keepRound(person, r)).catch(() => undefined)
  },
  { immediate: true },
)

/** Makes a step: what the server answers stands here, or the step as it was made, until the server has it. */
async function make(step: Step, words: string) {
  if (!now.value) return
  const after = await sendOrQueue(now.value, step, words)
  // With nothing queued it is the server's answer: what a reload without a connection begins from.
  if (!mine.value.length) await keepRound(session.person?.id ?? 0, after).catch(() => undefined)
  now.value = after
}

async function openCarton(scan: string, order: number) {
  const number = now.value?.orders.find((o) => o.id === order)?.number
  await make({ what: 'cartons', body: { scan, order_id: order } }, `a carton opened for ${number}`)
  another.value = false
  // What was scanned to go into the carton that is full goes into this one.
  if (scans.value.carton || step.value === 'quantity')
    await move({ scans: { ...scans.value, carton: undefined }, step: now.value?.scan_carton ? 'carton' : 'quantity' })
  void blank.refetch()
}

/** A scan meets the question that stands when its turn comes: one for a carton, or the stop's. */
function scan(text: string) {
  return guarded(async () => {
    const order = needs.value?.id ?? (another.value ? stop.value?.order_id : undefined)
    await (order ? openCarton(text, order) : atStop(text))
  })
}

async function atStop(text: string) {
  const s = stop.value
  if (!s || step.value === 'quantity') return
  if (s.whole_carton && s.off_carton && text.includes(s.off_carton)) return takeWhole(s, text)
  const tried = { ...scans.value }
  const counted = [...units.value]
  if (step.value === 'serial') counted.push(...(await unitOf(s, text)))
  else if (step.value === 'each') tried.each = [...(tried.each ?? []), text]
  else tried[step.value as 'bin'] = text
  // The item's own scan is that of the first unit.
  if (step.value === 'item' && now.value?.each_unit && !unitwise.value) tried.each = [text]
  if ((tried.each?.length ?? 0) > wanted.value)
    throw new Problem(409, 'over_wanted', `${wanted.value} are wanted here, and all are scanned. Put this one back.`)
  // A label that says item and serial is the item's scan and the first unit's.
  if (step.value === 'item' && unitwise.value && looksGS1(text)) counted.push(...(await unitOf(s, text)))
  const next = await check(s, tried, counted, text)
  // Unit by unit: the next one is asked for until all are there, or somebody said that these are all.
  const behind = step.value !== 'carton' && ['carton', 'quantity'].includes(next)
  const more = unitwise.value && counted.length < wanted.value && behind
  const each = !!tried.each && tried.each.length < wanted.value && behind
  const amount = unitwise.value ? counted.length : tried.each ? tried.each.length : wanted.value
  await move({
    scans: tried,
    units: counted,
    step: more ? 'serial' : each ? 'each' : next,
    quantity: next === 'quantity' ? String(amount) : quantity.value,
  })
}

/** Asks the server whether what is scanned is right; without a connection it only looks whether it seems so. */
async function check(s: Schemas['PickRoundStop'], tried: typeof scans.value, counted: string[], text: string) {
  const body = { stop_id: s.id, ...tried, serials: counted.length ? counted : undefined }
  try {
    // Behind what is queued the server knows less than this device.
    if (!mine.value.length)
      return (
        await ask(
          api.POST('/api/v1/rounds/{id}/check', { params: path.value, body, signal: AbortSignal.timeout(4000) }),
        )
      ).next
  } catch (e) {
    if (!away(e)) throw e
  }
  return lookLocally(now.value!, s, step.value, text, carton.value)
}

/** The whole carton or pallet in one scan. */
async function takeWhole(s: Schemas['PickRoundStop'], text: string) {
  await make(
    { what: 'whole', body: { stop_id: s.id, bin: scans.value.bin, scan: text } },
    `all ${s.quantity} of ${s.sku} from ${s.bin} on …${s.off_carton?.slice(-4)}, for ${s.order}`,
  )
  begin()
}

/** Another lot than planned, where the rule allows it. */
const otherLot = computed(() => (refused.value?.code === 'wrong_lot' ? (refused.value.facts.scanned ?? '') : ''))
function takeOtherLot() {
  const s = stop.value
  const lot = otherLot.value
  if (!s || !lot) return
  return guarded(async () => {
    await make({ what: 'other_lot', body: { stop_id: s.id, lot } }, `lot ${lot} instead of ${s.lot} from ${s.bin}`)
    const bin = scans.value.bin
    begin()
    if (bin && now.value && stop.value) await move({ scans: { bin }, step: stepAfter(now.value, stop.value, 'bin') })
  })
}
function reassign() {
  return guarded(async () => {
    await once((h) => ask(api.POST('/api/v1/rounds/{id}/reassign', { headers: h, params: path.value, body: {} })))
    void router.push('/hand')
  })
}
/** Somebody else walks it: that is said before anything is scanned. */
const others = computed(() => {
  const picker = now.value?.picker_id
  return now.value?.state === 'walking' && !!picker && picker !== session.person?.id
})
function takeOver() {
  return guarded(async () => {
    const body = { person_id: session.person?.id }
    now.value = await once((h) =>
      ask(api.POST('/api/v1/rounds/{id}/reassign', { headers: h, params: path.value, body })),
    )
  })
}
function toggleEach() {
  return guarded(async () => {
    const each = !now.value?.each_unit
    await make({ what: 'each_unit', body: { each_unit: each } }, each ? 'scan each unit' : 'enter quantities')
    scans.value = { ...scans.value, each: undefined }
  })
}
const more = ref(false)

/** The serial that a label says: in a GS1 code of this item, or the text itself. */
async function unitOf(s: Schemas['PickRoundStop'], text: string): Promise<string[]> {
  if (units.value.length >= wanted.value)
    throw new Problem(409, 'over_wanted', `${wanted.value} are wanted here, and all are scanned. Put this one back.`)
  try {
    return [await serialOf(text, s.item_id)]
  } catch (e) {
    const unit = away(e) && unitOn(s, text)
    if (unit) return [unit]
    throw e
  }
}

/** The unit scanned last was the wrong one. */
const takeOut = () => guarded(() => move({ scans: scans.value, units: units.value.slice(0, -1) }))

/** Fewer units than wanted are taken now. */
function enough() {
  const counted = units.value.length || scans.value.each?.length || 0
  return move({ step: stepAfter(now.value!, stop.value!, 'serial'), quantity: String(counted) })
}

function take() {
  const s = stop.value
  if (!s) return
  taken = { stop: s, scans: scans.value }
  return guarded(async () => {
    await make(
      {
        what: 'pick',
        body: {
          stop_id: s.id,
          ...scans.value,
          serials: units.value.length ? units.value : undefined,
          quantity: quantity.value,
        },
      },
      `${quantity.value} of ${s.sku} from ${s.bin}, into carton ${carton.value?.letter} for ${s.order}`,
    )
    begin()
  })
}

function short() {
  const s = stop.value
  if (!s) return
  return guarded(async () => {
    const found = quantity.value || '0'
    await make({ what: 'short', body: { stop_id: s.id, found } }, `only ${found} of ${s.sku} in ${s.bin}`)
    shorting.value = false
  })
}

function toggleShort() {
  shorting.value = !shorting.value
  quantity.value = ''
}

/** A bin that should be empty now: one look says whether it is. */
const nought = computed(() => now.value?.stops.find((s) => s.ask_nought && !unlooked.value.includes(s.id)))
const unlooked = ref<number[]>([])
const still = ref<string>()
function lookedInto(left: string) {
  const s = nought.value!
  return guarded(async () => {
    const words = left === '0' ? `${s.bin} is empty of ${s.sku}` : `${left} of ${s.sku} are left in ${s.bin}`
    await make({ what: 'nought', body: { stop_id: s.id, left } }, words)
    still.value = undefined
  })
}

/** The round is ended here: what is not picked is open again. */
const leaving = ref(false)
function leaveRest() {
  return guarded(async () => {
    leaving.value = false
    await make({ what: 'stage', body: { leave_rest: true } }, `${now.value?.number} is ended; the rest is open again`)
  })
}

function stage() {
  return guarded(async () => {
    await make({ what: 'stage', body: {} }, `${now.value?.number} is at the bench`)
  })
}

/** What was shipped from here, where it did not go to the bench. */
const shipped = ref<Schemas['ShippingShipment'][]>([])
async function wasShipped(shipments: Schemas['ShippingShipment'][]) {
  shipped.value = shipments
  await round.refetch()
}

const ask2 = computed(
  () =>
    ({
      bin: 'Scan the bin',
      item: 'Scan the item',
      lot: 'Scan the lot',
      each: `Scan each unit, ${scans.value.each?.length ?? 0} of ${wanted.value}`,
      serial: named.value.length
        ? `Scan the very ${named.value.length === 1 ? 'unit' : 'units'} ${named.value.join(', ')}`
        : `Scan the serial of each, ${units.value.length} of ${wanted.value}`,
      carton: `Scan carton ${carton.value?.letter ?? ''}`,
      quantity: '',
    })[step.value],
)
const right = computed(
  () =>
    [
      scans.value.bin && `bin ${stop.value?.bin}`,
      scans.value.item && `item ${stop.value?.sku}`,
      scans.value.lot && `lot ${stop.value?.lot ?? scans.value.lot}`,
      ...units.value.map((u) => `serial ${u}`),
      scans.value.carton && `carton ${carton.value?.letter}`,
    ].filter(Boolean) as string[],
)
const labels = computed(() => {
  const s = stop.value
  const out: { name: string; code: string }[] = []
  if (needs.value || another.value) {
    for (const c of blank.data.value?.slice(0, 2) ?? [])
      out.push({ name: 'Blank carton label', code: `]C100${c.sscc}` })
    return out
  }
  if (!s) return out
  out.push({ name: 'This bin', code: s.bin })
  const other = left.value.find((x) => x.bin !== s.bin)
  out.push({ name: 'Another bin', code: other?.bin ?? 'A-01-1-A' })
  out.push({ name: 'This item', code: s.gtin ? `]C101${s.gtin}${s.lot ? `10${s.lot}` : ''}` : s.sku })
  if (s.whole_carton && s.off_carton) out.push({ name: 'The whole pallet', code: `]C100${s.off_carton}` })
  if (s.ask_lot) out.push({ name: s.lot ? 'This lot' : 'A lot', code: s.lot ?? `HL-${s.id}` })
  if (s.tracking === 'serial')
    for (const u of s.serials.filter((x) => !units.value.includes(x)).slice(0, 3)) out.push({ name: 'A unit', code: u })
  if (s.tracking === 'serial_out')
    out.push({
      name: 'A unit',
      code: `${s.sku.replaceAll('-', '')}-${String(Date.now()).slice(-7)}${units.value.length}`,
    })
  for (const c of now.value?.cartons ?? []) out.push({ name: `Carton ${c.letter}`, code: `]C100${c.sscc}` })
  return out
})
</script>

<template>
  <template v-if="now">
    <div class="top">
      <router-link to="/hand">Back</router-link
      ><span
        >Round <span class="mono">{{ now.number }}</span></span
      ><span>stop {{ Math.min(now.stops.length, now.stops.length - left.length + 1) }} of {{ now.stops.length }}</span>
    </div>
    <div class="dots" aria-hidden="true">
      <i v-for="s in now.stops" :key="s.id" :class="{ d: s.state !== 'open', n: s.id === stop?.id }" />
    </div>

    <template v-if="now.state === 'released'">
      <h1>{{ now.stops.length }} stops, {{ now.metres }} m</h1>
      <p class="none">
        For {{ now.orders.map((o) => o.number).join(', ') }}. Take {{ now.orders.length }} empty
        {{ now.orders.length === 1 ? 'carton' : 'cartons' }} and blank labels.
      </p>
      <div v-if="wrong" class="ask wrong" role="alert">{{ wrong }}</div>
      <button class="press" :disabled="busy" @click="start">Start walking</button>
    </template>

    <template v-else-if="now.state === 'done'">
      <h1>{{ shipped.length ? 'Shipped' : 'At the bench' }}</h1>
      <p v-for="d in shipped" :key="d.id" class="none">
        {{ d.order }} went with <span class="mono">{{ d.number }}</span><template v-if="d.invoiced"
          >, invoiced with {{ d.invoiced }}</template
        >. Bring its cartons to the gate.
        <a :href="`/api/v1/shipments/${d.id}/note.pdf`" target="_blank" rel="noopener">Delivery note</a>
      </p>
      <p v-if="!shipped.length" class="none">{{ now.number }} is done. Its cartons stand at the bench.</p>
      <button class="press" @click="router.push('/hand')">What now?</button>
    </template>

    <template v-else-if="others">
      <h1>{{ now.picker }} walks {{ now.number }}</h1>
      <p class="none" role="status">
        Nothing that is scanned here goes into it. Ask {{ now.picker }} to hand it over, or a lead.
      </p>
      <div v-if="wrong" class="ask wrong" role="alert">{{ wrong }}</div>
      <button v-if="worksAs('lead')" class="press" :disabled="busy" @click="takeOver">Take it over</button>
      <div class="alt"><button @click="router.push('/hand')">What now?</button></div>
    </template>

    <template v-else-if="nought">
      <div class="go">One look into</div>
      <div class="bin mono" data-go>{{ nought.bin }}</div>
      <div class="it">
        <div class="n">{{ nought.description }}</div>
        <div class="m mono">{{ nought.sku }}</div>
      </div>
      <form class="ask" :class="{ wrong }" data-nought @submit.prevent="lookedInto(still || '0')">
        <div v-if="wrong" role="alert" data-wrong>{{ wrong }}</div>
        <span>You took the last there should be. Is any of it left there?</span>
        <label v-if="still !== undefined"
          >How many {{ nought.unit }} are left?<input v-model="still" inputmode="decimal" autocomplete="off" data-left
        /></label>
        <button class="press" style="margin: 8px 0 0; width: 100%" :disabled="busy || still === ''" data-press>
          {{ still === undefined ? 'It is empty' : `${still || 'So many'} are left` }}
        </button>
      </form>
      <div class="alt">
        <button @click="still = still === undefined ? '' : undefined">
          {{ still === undefined ? 'Some are left' : 'Back' }}
        </button>
        <button @click="unlooked = [...unlooked, nought.id]">I cannot look</button>
      </div>
    </template>

    <template v-else-if="needs || (another && stop)">
      <div class="go">Open a carton for</div>
      <div class="bin mono">{{ (needs ?? { number: stop?.order }).number }}</div>
      <ScanBox
        step="open"
        question="Scan a blank carton label"
        hint="Stick it on an empty carton first."
        :wrong="wrong"
        @scan="scan"
      />
    </template>

    <template v-else-if="stop">
      <div class="go">Go to</div>
      <div class="bin mono" data-go>{{ stop.bin }}</div>
      <div class="it">
        <div class="n">{{ stop.description }}</div>
        <div class="m">
          <span class="mono">{{ stop.sku }}</span><template v-if="stop.lot"
            >, lot <span class="mono">{{ stop.lot }}</span></template
          ><template v-if="stop.expires_on">, expires {{ stop.expires_on }}</template
          ><template v-if="stop.off_carton"
            >, off pallet <span class="mono">…{{ stop.off_carton.slice(-4) }}</span></template
          >
        </div>
      </div>
      <div class="take">
        <div class="q">
          <small>Pick</small><b class="mono" data-take>{{ wanted }}</b
          ><small>of {{ stop.here }} here, {{ Number(stop.here) - wanted }} stay</small>
        </div>
        <div v-if="carton" class="ct">
          <small>into carton</small><b>{{ carton.letter }}</b
          ><small class="mono">…{{ carton.sscc.slice(-4) }}</small>
        </div>
        <div v-else class="ct">
          <small>goes</small><b class="as">as it is</b><small class="mono">…{{ stop.off_carton?.slice(-4) }}</small>
        </div>
      </div>
      <form v-if="shorting" class="ask" @submit.prevent="short">
        <label>How many are there?<input v-model="quantity" data-scan inputmode="decimal" /></label>
        <span>Another bin is put on the round where there is one, and this bin is to be counted.</span>
        <button class="press" style="margin: 8px 0 0; width: 100%" :disabled="busy">
          Only {{ quantity || 0 }} here
        </button>
        <div v-if="wrong" role="alert" data-wrong>{{ wrong }}</div>
      </form>
      <ScanBox
        v-else-if="step !== 'quantity'"
        :step="step + stop.id + units.length + '/' + (scans.each?.length ?? 0)"
        :question="ask2 ?? ''"
        :hint="
          stop.whole_carton
            ? `All on it is wanted: scan …${stop.off_carton?.slice(-4)} to take it whole.`
            : 'A wrong scan stops here and says why.'
        "
        :wrong="wrong"
        :right="right"
        @scan="scan"
      />
      <form v-else class="ask" :class="{ wrong }" @submit.prevent="take">
        <div v-for="r in right" :key="r" class="ok">✓ {{ r }}</div>
        <div v-if="wrong" role="alert" data-wrong>{{ wrong }}</div>
        <label v-if="!unitwise"
          >How many did you take?<input v-model="quantity" inputmode="decimal" data-quantity
        /></label>
        <button class="press" style="margin: 8px 0 0; width: 100%" :disabled="busy" data-press>
          Take {{ quantity }}, into carton {{ carton?.letter }}
        </button>
        <span v-if="rest > 0" data-rest
          >{{ rest }} more {{ rest === 1 ? 'comes' : 'come' }} next, into this carton or another.</span
        >
      </form>
      <div class="alt">
        <button @click="toggleShort">
          {{ shorting ? 'Back' : 'Not enough here' }}
        </button>
        <button v-if="(step === 'serial' && units.length) || (step === 'each' && scans.each?.length)" @click="enough">
          Only these
        </button>
        <button v-if="step === 'serial' && units.length" @click="takeOut">Remove {{ units.at(-1) }}</button>
        <button v-if="otherLot" class="walk" @click="takeOtherLot">Take lot {{ otherLot }}</button>
        <button @click="another = true">Carton is full</button>
        <button :aria-expanded="more" @click="more = !more">More</button>
      </div>
      <div v-if="more" class="alt more">
        <button @click="toggleEach">{{ now.each_unit ? 'Enter quantities' : 'Scan each unit' }}</button>
        <button @click="reassign">Reassign it</button>
        <button v-if="!leaving" @click="leaving = true">Leave the rest</button>
        <button v-else :disabled="busy" data-leave @click="leaveRest">
          End it, leave {{ left.length }} {{ left.length === 1 ? 'stop' : 'stops' }}
        </button>
        <button :disabled="left.length < 2" @click="skipped = [...skipped.filter((x) => x !== stop!.id), stop!.id]">
          Skip for now
        </button>
      </div>
    </template>

    <template v-else>
      <h1>All stops made</h1>
      <p class="none">
        Bring {{ now.cartons.length }} {{ now.cartons.length === 1 ? 'carton' : 'cartons' }} to the bench.
      </p>
      <div v-if="wrong" class="ask wrong" role="alert">{{ wrong }}</div>
      <button class="press" :disabled="busy" @click="stage">Bring to the bench</button>
      <ShipRound v-if="!mine.length" :id="id" @shipped="wasShipped" />
    </template>
    <ScannerStandIn v-if="now.state === 'walking' && labels.length" :labels="labels" />
  </template>
  <template v-else-if="looked && (round.isError.value || round.isPaused.value)">
    <div class="top"><router-link to="/hand">Back</router-link><span>Round</span></div>
    <div class="ask wrong" role="alert">
      {{ round.error.value?.message ?? 'This round is not on this device. Open it where there is a connection.' }}
    </div>
    <button class="press" @click="round.refetch()">Try again</button>
  </template>
  <p v-else class="none" role="status">Opening the round</p>
</template>
