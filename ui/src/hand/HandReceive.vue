<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, Problem, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import { byLots, byUnits } from '@/parts/tracking'
import { useArrival } from '@/stations/receive/arrival'
import { asksFound, foundOptions } from '@/parts/found'
import { readLabel } from '@/parts/serials'
import { useGuarded } from './guarded'
import HandDiffers from './HandDiffers.vue'
import ScanBox from './ScanBox.vue'
import ScannerStandIn from './ScannerStandIn.vue'

/** An arrival is checked off at the dock: goods are scanned, and what a line still needs is asked for. */
const props = defineProps<{ id: number }>()
const site = computed(() => session.site)
const arrivals = useQuery({
  queryKey: ['receive', 'arrivals', site],
  queryFn: () => ask(api.GET('/api/v1/arrivals', { params: { query: { site: site.value } } })),
  enabled: computed(() => !props.id),
})
const step = useArrival(
  computed(() => props.id),
  computed(() => props.id > 0),
)
const a = step.arrival
const { wrong, guarded } = useGuarded()
/** Something that another site shipped came otherwise. */
const differing = ref(false)
const told = ref('')
const router = useRouter()

/** A vehicle that nobody has opened yet: its order is scanned, then the dock is chosen. */
const order = ref<Schemas['ResolvingFound']>()
/** What a customer sends back comes in at the returns corner. */
const entrance = computed(() => (order.value?.kind === 'customer_return' ? 'returns' : 'dock'))
const docks = useQuery({
  queryKey: ['locations', entrance, site],
  queryFn: () => ask(api.GET('/api/v1/locations', { params: { query: { site: site.value, kind: entrance.value } } })),
  enabled: computed(() => !!order.value),
})
const scanOrder = (text: string) =>
  guarded(async () => {
    const reading = await ask(api.GET('/api/v1/scan', { params: { query: { site: site.value, text } } }))
    order.value = reading.found.find((f) => f.kind === 'purchase' || f.kind === 'customer_return')
    if (!order.value)
      throw new Problem(409, 'wrong_order', `You scanned ${text}, which is no purchase order and no return here.`)
    const query = { site: site.value, order: order.value.id }
    const [standing] = await ask(api.GET('/api/v1/arrivals', { params: { query } }))
    if (!standing) return
    order.value = undefined
    void router.push(`/hand/receive/${standing.id}`)
  })
const openAt = (dock: number) =>
  guarded(async () => {
    const made = await once((h) =>
      ask(api.POST('/api/v1/arrivals', { headers: h, body: { order_ids: [order.value!.id], dock_id: dock } })),
    )
    order.value = undefined
    void router.push(`/hand/receive/${made.id}`)
  })

/** The line that was scanned last: its lot, its date or its next serial is asked for. */
const current = ref(0)
const line = computed(() => step.openLines.value.find((l) => l.id === current.value))
const entry = computed(() => (line.value ? step.entries.value[line.value.id] : undefined))
const lot = computed(() => (line.value && byLots(line.value) ? entry.value?.lots.at(-1) : undefined))
/** The supplier's own number of the lot is asked for, where it is another one. */
const suppliers = ref(false)
const wants = computed<'goods' | 'lot' | 'suppliers' | 'expiry' | 'serial'>(() => {
  if (lot.value?.code && suppliers.value) return 'suppliers'
  if (lot.value && entry.value?.quantity && !lot.value.code) return 'lot'
  if (lot.value?.code && line.value?.tracking === 'lot_expiry' && !lot.value.expires_on) return 'expiry'
  if (line.value && byUnits(line.value)) return 'serial'
  return 'goods'
})
const question = computed(
  () =>
    ({
      goods: 'Scan what is here',
      lot: `Scan the lot of ${line.value?.sku}`,
      suppliers: `What does its supplier call lot ${lot.value?.code}?`,
      expiry: `When does lot ${lot.value?.code} expire?`,
      serial: `Scan the serials of ${line.value?.sku}, ${entry.value?.serials.length ?? 0} so far`,
    })[wants.value],
)
const hint = computed(
  () =>
    ({
      goods: current.value
        ? `Or the bin that ${line.value?.sku} goes into at once.`
        : 'A GS1 code tells item, lot, date, serial and count.',
      lot: 'Or type what stands on the label.',
      suppliers: 'Scan their label, or type what stands on it: a supplier calls goods back by it.',
      expiry: 'As 2027-12-31.',
      serial: 'Or the label of other goods, or the bin it goes into.',
    })[wants.value],
)

const scan = (text: string) =>
  guarded(async () => {
    if (wants.value === 'lot') {
      const said = await readLabel(line.value!.item_id, 'lot', text)
      lot.value!.code = said.lot
      if (said.expires) lot.value!.expires_on = said.expires
      return
    }
    if (wants.value === 'suppliers') {
      lot.value!.supplier = (await readLabel(line.value!.item_id, 'lot', text)).lot
      suppliers.value = false
      return
    }
    if (wants.value === 'expiry') {
      lot.value!.expires_on = (await readLabel(line.value!.item_id, 'expiry', text)).expires
      return
    }
    const reading = await ask(api.GET('/api/v1/scan', { params: { query: { site: site.value, text } } }))
    const bin = reading.found.find((f) => f.kind === 'bin')
    if (bin && !reading.goods) return putIn(bin.code)
    const known = reading.goods && step.openLines.value.find((l) => l.item_id === reading.goods!.item.id)
    if (known) current.value = known.id
    if (step.take(reading)) {
      if (step.said.value?.line === 0) throw new Problem(409, 'wrong_carton', step.said.value.text)
      if (step.said.value && !(known && byUnits(known) && !reading.goods?.serial))
        throw new Problem(409, 'serial_twice', step.said.value.text)
      return
    }
    if (wants.value === 'serial' && !reading.goods) {
      step.addSerial(line.value!, (await readLabel(line.value!.item_id, 'serial', text)).serial)
      if (step.said.value) throw new Problem(409, 'serial_twice', step.said.value.text)
      return
    }
    throw new Problem(409, 'wrong_item', `You scanned ${text}, which is on no open line of ${a.value?.number}.`)
  })

/** Whoever stands at a bin with the goods scans it: they go into it at once, and not by way of the dock. */
function putIn(bin: string) {
  if (!entry.value?.quantity)
    throw new Problem(409, 'scan_missing', `Scan the goods first, then ${bin}, the bin they go into.`)
  entry.value.bin = bin
  step.straight.value = true
}
const entered = computed(() => step.openLines.value.filter((l) => step.entries.value[l.id]?.quantity))
const detail = (l: Schemas['InboundLine']) => {
  const e = step.entries.value[l.id]!
  if (e.serials.length) return e.serials.slice(-2).join(' ')
  return e.lots.map((x) => (x.supplier ? `${x.code} (theirs: ${x.supplier})` : x.code)).join(' ')
}
const book = () =>
  guarded(async () => {
    await step.receive()
    const p = step.command.problem.value
    if (p) throw p
    current.value = 0
  })
const labels = computed(() => {
  const out: { name: string; code: string }[] = []
  if (wants.value === 'lot' || wants.value === 'suppliers') out.push({ name: 'A lot', code: `HL-${String(props.id)}` })
  else if (wants.value === 'expiry') out.push({ name: 'A date', code: '2028-06-30' })
  else {
    if (wants.value === 'serial')
      out.push({ name: 'A unit', code: `HR-${props.id}-${(entry.value?.serials.length ?? 0) + 1}` })
    for (const l of step.openLines.value.slice(0, 4)) out.push({ name: l.description, code: l.sku })
    if (entry.value?.quantity) out.push({ name: 'A bin', code: 'A-01-1-A' })
  }
  return out
})
</script>

<template>
  <div class="top">
    <router-link :to="id ? '/hand/receive' : '/hand'">Back</router-link><span v-if="a" class="mono">{{ a.number }}</span
    ><span v-else>Receive</span><span>{{ a?.dock ?? '' }}</span>
  </div>
  <template v-if="!id">
    <h1>Which arrival?</h1>
    <template v-if="order">
      <p class="none">
        <span class="mono">{{ order.code }}</span> {{ order.label }}.
        {{ entrance === 'dock' ? 'Which dock does it stand at?' : 'Bring it to the returns corner.' }}
      </p>
      <div v-if="wrong" class="ask wrong" role="alert">{{ wrong }}</div>
      <button v-for="d in docks.data.value" :key="d.id" class="press" @click="openAt(d.id)">{{ d.code }}</button>
    </template>
    <ScanBox
      v-else
      step="order"
      question="Scan the order on the delivery note"
      hint="Or choose an arrival that is open."
      :wrong="wrong"
      @scan="scanOrder"
    />
    <router-link v-for="x in arrivals.data.value" :key="x.id" :to="`/hand/receive/${x.id}`" class="job">
      <b
        ><span class="mono">{{ x.number }}</span> {{ x.source }}</b
      ><span>{{ x.dock }}, {{ x.received }} of {{ x.ordered }} in</span>
    </router-link>
    <p v-if="arrivals.data.value?.length === 0" class="none">No arrival is open.</p>
  </template>
  <template v-else-if="a">
    <div v-if="step.command.done.value" class="ask" style="border-color: #2f8a74" role="status">
      {{ step.command.done.value }}
    </div>
    <div v-if="told" class="ask" style="border-color: #2f8a74" role="status" data-told>{{ told }}</div>
    <HandDiffers
      v-if="differing"
      :lines="step.openLines.value"
      @back="differing = false"
      @told="(words) => ((told = words), (differing = false))"
    />
    <p v-else-if="a.state !== 'open'" class="none">{{ a.number }} is closed: nothing more is expected on it.</p>
    <template v-else>
      <ScanBox
        :step="wants + current + (entry?.serials.length ?? '')"
        :question="question"
        :hint="hint"
        :wrong="wrong"
        @scan="scan"
      />
      <div v-for="l in entered" :key="l.id" class="it line" :data-line="l.sku">
        <div>
          <div class="n">{{ l.description }}</div>
          <div class="m">
            <span class="mono">{{ l.sku }} {{ detail(l) }}</span
            ><br />{{ l.received }} of {{ l.quantity }} came before<template v-if="step.straight.value">
              <br />into
              <span class="mono" data-bin>{{
                step.entries.value[l.id]!.bin || a.homes[l.item_id!] || 'no bin yet'
              }}</span></template
            >
          </div>
        </div>
        <label
          ><span class="skip">{{ l.sku }} here now</span
          ><input
            v-model="step.entries.value[l.id]!.quantity"
            class="mono"
            inputmode="decimal"
            :readonly="byUnits(l)"
            @input="step.entries.value[l.id]!.lots.length === 1 && (step.entries.value[l.id]!.lots[0]!.quantity = '')"
        /></label>
        <div v-if="asksFound(a, l)" class="choices found" role="group" :aria-label="`Condition that ${l.sku} came in`">
          <button
            v-for="f in foundOptions"
            :key="f.value"
            :aria-pressed="step.entries.value[l.id]!.found === f.value"
            @click="step.entries.value[l.id]!.found = f.value"
          >
            {{ f.label }}
          </button>
        </div>
      </div>
      <p v-for="n in step.preview.plan.value?.notes" :key="n" class="none">{{ n }}</p>
      <p v-for="n in step.preview.plan.value?.warnings" :key="n" class="none warn">{{ n }}</p>
      <div
        v-if="
          step.preview.problem.value && entered.length && wants !== 'lot' && wants !== 'suppliers' && wants !== 'expiry'
        "
        class="ask wrong"
        role="alert"
        data-refused
      >
        {{ step.preview.problem.value.message }}
      </div>
      <button
        v-if="entered.length"
        class="press"
        :disabled="!step.preview.plan.value || !step.preview.fresh.value || step.command.busy.value"
        data-press
        @click="book"
      >
        {{ step.preview.plan.value?.button ?? 'Receive' }}
      </button>
      <p v-else class="none">
        {{ step.openLines.value.length }} lines are open. What is scanned stands here before it is received.
      </p>
      <div v-if="entered.length" class="alt">
        <button :aria-pressed="step.straight.value" @click="step.straight.value = !step.straight.value">
          {{ step.straight.value ? `Leave at ${a.dock} instead` : 'Into bins at once' }}
        </button>
      </div>
      <div v-if="a.from_site_id && can('open-case')" class="alt">
        <button @click="((differing = true), (told = ''))">Something differs</button>
      </div>
      <div v-if="current" class="alt">
        <button v-if="line && entry?.serials.length" @click="step.dropSerial(line, entry.serials.at(-1)!)">
          Remove {{ entry.serials.at(-1) }}
        </button>
        <button v-if="lot?.code" @click="suppliers = !suppliers">
          {{ suppliers ? 'No other number' : 'Their own lot number' }}
        </button>
        <button @click="current = 0">Other goods</button>
      </div>
    </template>
  </template>
  <ScannerStandIn v-if="a && a.state === 'open'" :labels="labels" />
</template>

<style scoped>
.found {
  flex-basis: 100%;
  margin: 0;
}
.line {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 12px;
  align-items: center;
  margin: 0 18px 10px;
}
.line input {
  font-family: 'Atkinson Hyperlegible Mono', monospace;
  font-size: 26px;
  width: 96px;
  min-height: 48px;
  text-align: right;
  background: #120e0a;
  color: #fff6e4;
  border: 1px solid #8a7657;
  border-radius: 8px;
  padding: 4px 10px;
}
.warn {
  color: #f2c877;
}
</style>
