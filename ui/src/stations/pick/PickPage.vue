<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session, worksAs } from '@/api/session'
import BenchLayout from '@/parts/BenchLayout.vue'
import FloorMap from '@/parts/FloorMap.vue'
import { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import QueueCard from '@/parts/QueueCard.vue'
import { codesOf } from '@/parts/serials'
import { plural, since, when } from '@/parts/words'
import AddToRound from './AddToRound.vue'
import PickDay from './PickDay.vue'
import OpenOrders, { type Bounds, type Chosen } from './OpenOrders.vue'
import RobbedOrders from './RobbedOrders.vue'
import { asked, type Stop, useProposedRound } from './proposedRound'
import WavePlan from './WavePlan.vue'
import LabelEntry from '@/parts/LabelEntry.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import TextEntry from '@/parts/TextEntry.vue'
import type { Column } from '@/parts/columns'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import FormField from '@/parts/FormField.vue'
import SheetTable from '@/parts/SheetTable.vue'

const props = defineProps<{ id?: string }>()
const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
const rounds = useQuery({
  queryKey: ['pick', 'rounds', site],
  queryFn: () => ask(api.GET('/api/v1/rounds', { params: { query: { site: site.value } } })),
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
const command = useCommand()
const { busy, problem, done, run } = command
const proposed = useProposedRound(command)
const { draft, proposal, stops, next } = proposed
function useBin(i: number, h: Schemas['StockHolding'], split: boolean) {
  proposed.useBin(i, h, split)
  changing.value = 0
}

watch(
  () => [route.query.order ?? route.query.orders, route.query.from],
  ([o, dock]) => {
    const orders = o ? String(o).split(',').map(Number) : []
    const from = Number(dock) || 0
    if (orders.length) proposed.open({ orders, left: [], first: '', dock: from })
  },
  { immediate: true },
)

const wave = ref<Schemas['PickWave']>()
async function planWave(chosen: Chosen, bounds: Bounds, first: string) {
  done.value = ''
  const w = await run(() =>
    ask(
      api.POST('/api/v1/waves/plan', {
        body: {
          site_id: site.value,
          order_ids: chosen.orders,
          without: chosen.left.length ? chosen.left : undefined,
          split: bounds.split,
          max_cartons: bounds.max_cartons,
          max_lines: bounds.max_lines,
          max_kg: bounds.max_kg,
          zone: bounds.zone || undefined,
          from_bin: bounds.from_bin || undefined,
          to_bin: bounds.to_bin || undefined,
          empty_first: first || undefined,
        },
      }),
    ),
  )
  wave.value = w
  inWave.value = undefined
  proposed.leave()
}
/** The round of the wave that is being changed, which then goes back into it. */
const inWave = ref<number>()
function changeRound(i: number) {
  const r = wave.value?.rounds[i]
  if (!r) return
  inWave.value = i
  proposed.take(r)
}
async function intoWave() {
  const stops = proposed.stops.value.map((s) => asked(s, s.text))
  const rounds = (wave.value?.rounds ?? [])
    .map((r, i) => ({ stops: i === inWave.value ? stops : r.stops.map((s) => asked(s, s.quantity)) }))
    .filter((r) => r.stops.length)
  const w = await run(() => ask(api.POST('/api/v1/waves/preview', { body: { site_id: site.value, rounds } })))
  if (!w) return
  wave.value = w
  leaveRound()
}
function leaveRound() {
  inWave.value = undefined
  proposed.leave()
}
function planOne(chosen: Chosen, first = '') {
  wave.value = inWave.value = undefined
  void proposed.propose({ ...chosen, first, dock: 0 })
}
async function gone(rounds: Schemas['PickRound'][]) {
  wave.value = undefined
  done.value = `${plural(rounds.length, 'round')} released, ${rounds[0]?.number} to ${rounds.at(-1)?.number}.`
  await queries.invalidateQueries({ queryKey: ['pick'] })
}

/** Who may walk a round, to reassign it. */
const people = useQuery({
  queryKey: ['people', 'pickers'],
  queryFn: () => ask(api.GET('/api/v1/pickers')),
  enabled: computed(() => id.value > 0 && worksAs('lead')),
})
const pickers = computed(() => people.data.value ?? [])
async function onRound<T>(call: (h: { 'Idempotency-Key': string }) => Promise<T>, say: (x: T) => string) {
  const x = await run(() => once(call), say)
  if (x !== undefined) await queries.invalidateQueries({ queryKey: ['pick'] })
  return x
}
const at = () => ({ params: { path: { id: id.value } } })
const reassign = (person: number) =>
  onRound(
    (h) =>
      ask(api.POST('/api/v1/rounds/{id}/reassign', { headers: h, ...at(), body: { person_id: person || undefined } })),
    (r) => (r.picker ? `${r.picker} walks ${r.number} now.` : `${r.number} waits for whoever starts it next.`),
  )
const setEach = (each: boolean) =>
  onRound(
    (h) => ask(api.POST('/api/v1/rounds/{id}/each-unit', { headers: h, ...at(), body: { each_unit: each } })),
    (r) => (r.each_unit ? 'Each unit is scanned from now on.' : 'A quantity is entered from now on.'),
  )
const openStops = computed(() => round.data.value?.stops.filter((s) => s.state === 'open').length ?? 0)
/** What becomes of a round that is ended early. */
const leaves = computed(() => {
  const cartons = round.data.value?.cartons.filter((c) => c.state === 'open').length ?? 0
  const open = `${plural(openStops.value, 'stop')} ${openStops.value === 1 ? 'is' : 'are'} open again on the orders, and free to be planned.`
  return cartons ? `${open} ${plural(cartons, 'carton')} ${cartons === 1 ? 'goes' : 'go'} to the bench.` : open
})
const dissolve = () =>
  onRound(
    (h) => ask(api.POST('/api/v1/rounds/{id}/dissolve', { headers: h, ...at() })),
    (r) => `${r.number} is ended; what was not picked is open again.`,
  )
const takeOff = (stop: Schemas['PickRoundStop']) =>
  onRound(
    (h) => ask(api.POST('/api/v1/rounds/{id}/take-off', { headers: h, ...at(), body: { stop_ids: [stop.id] } })),
    (r) => `Stop ${stop.seq} is off ${r.number}; its ${stop.quantity} of ${stop.sku} are open again.`,
  )
async function planAgain() {
  const orders = round.data.value?.orders.map((o) => o.id) ?? []
  if (await dissolve()) void router.push({ path: '/pick', query: { orders: orders.join() } })
}
/** Orders are being added to the round. */
const adding = ref(false)
watch(id, () => (adding.value = false))
async function added(r: Schemas['PickRound']) {
  adding.value = false
  done.value = `${r.number} has ${plural(r.stops.length, 'stop')} now.`
  await queries.invalidateQueries({ queryKey: ['pick'] })
}
/** What was walked on paper is confirmed in one step, line by line where it differed. */
const paper = ref(false)
const differs = useDraft<Record<string, { picked: string; serials: string; lot?: string }>>(
  () => `round/${id.value}/paper`,
  () => ({}),
)
watch(id, () => (paper.value = false))
watch(
  () => differs.changed.value,
  (typed) => typed && (paper.value = true),
  { immediate: true },
)
const differing = computed(() => differs.mine.value ?? {})
async function confirmPaper() {
  const list = Object.entries(differing.value)
    .filter(([, d]) => d.picked !== '' || d.serials || d.lot)
    .map(([stop, d]) => {
      const s = round.data.value?.stops.find((x) => x.id === Number(stop))
      const serials = codesOf(d.serials)
      return {
        stop_id: Number(stop),
        picked: d.picked !== '' ? d.picked : serials.length ? String(serials.length) : (s?.quantity ?? '0'),
        serials: serials.length ? serials : undefined,
        lot: d.lot || undefined,
      }
    })
  const r = await onRound(
    (h) => ask(api.POST('/api/v1/rounds/{id}/confirm', { headers: h, ...at(), body: { differing: list } })),
    (x) => `${x.number} is confirmed; its cartons stand at the bench.`,
  )
  if (!r) return
  differs.discard()
  paper.value = false
}
const differ = (stop: number) => differing.value[stop] ?? { picked: '', serials: '' }
function setDiffer(stop: number, change: { picked?: string; serials?: string; lot?: string }) {
  if (differs.mine.value) differs.mine.value[stop] = { ...differ(stop), ...change }
}

/** A round is stuck when nobody takes it up, or nothing was taken for long. */
function stuck(r: Schemas['PickRound']): string {
  const quiet = (iso: string) => (Date.now() - new Date(iso).getTime()) / 60_000
  if (r.state === 'released' && quiet(r.released_at) > 60) return `nobody walks it for ${since(r.released_at)}`
  if (r.state === 'walking' && r.last_pick && quiet(r.last_pick) > 20) return `nothing picked for ${since(r.last_pick)}`
  if (Number(r.short)) return `${r.short} short`
  return ''
}

/** Stuck ones first, then those on the floor. */
const sorted = computed(() =>
  [...(rounds.data.value ?? [])].sort((a, b) => Number(!!stuck(b)) - Number(!!stuck(a)) || a.id - b.id),
)

const { plan, problem: refused, fresh } = proposed.preview
const short = computed(() => [
  ...(proposal.value?.shortages ?? []),
  ...(plan.value?.shortages ?? []).filter(
    (l) => !proposal.value?.shortages.some((p) => p.order === l.order && p.sku === l.sku),
  ),
])

async function release() {
  const r = await proposed.release()
  if (r) void router.push(`/pick/${r.id}`)
}

/** Bins that hold more of a stop's item, to change it or to split it. */
const others = ref<Schemas['StockHolding'][]>([])
const changing = ref(0)
async function change(s: Stop) {
  changing.value = changing.value === s.key ? 0 : s.key
  if (!changing.value) return
  const page = await ask(
    api.GET('/api/v1/items/{id}', { params: { path: { id: s.item_id }, query: { site: site.value } } }),
  )
  others.value = page.holdings.filter((h) => h.kind === 'bin' && Number(h.quantity) > Number(h.reserved))
}
const path = computed(
  () => (id.value ? round.data.value?.path : plan.value?.path) as { x: number; y: number }[] | undefined,
)
const stopColumns = computed<Column<Schemas['PickRoundStop']>[]>(() => [
  { name: 'seq', label: 'Stop', of: (s) => s.seq, right: true, mono: true },
  { name: 'bin', label: 'Bin', mono: true },
  { name: 'item', label: 'Item' },
  { name: 'lot', label: 'Lot or units', mono: true },
  { name: 'order', label: 'Order', of: (s) => s.order, to: (s) => `/go/${s.order}`, mono: true },
  { name: 'quantity', label: 'Wanted', of: (s) => s.quantity, right: true, mono: true },
  { name: 'picked', label: 'Picked', of: (s) => s.picked, right: true, mono: true },
  {
    name: 'short',
    label: 'Short',
    of: (s) => (Number(s.short) ? s.short : ''),
    right: true,
    mono: true,
    late: (s) => Number(s.short) > 0,
  },
  ...(round.data.value?.state !== 'done' && can('take-stops-off') && !paper.value ? [{ name: 'off', label: '' }] : []),
  ...(paper.value
    ? [
        { name: 'differs', label: 'Picked, where it differs', right: true },
        { name: 'serials', label: 'Lot or serials' },
      ]
    : []),
])
const proposalColumns: Column<Stop>[] = [
  { name: 'bin', label: 'Bin', mono: true },
  { name: 'item', label: 'Item' },
  { name: 'lot', label: 'Lot or units', mono: true },
  { name: 'order', label: 'Order', of: (s) => s.order, mono: true },
  { name: 'available', label: 'Free there', of: (s) => s.available, right: true, mono: true },
  { name: 'pick', label: 'Pick', right: true },
  { name: 'does', label: '' },
]
</script>

<template>
  <BenchLayout waits="Rounds and open orders" :waiting="[rounds]" :sheet="id ? [round] : []">
    <template #waiting>
      <h2>
        <span>Rounds</span><span>{{ rounds.data.value?.length ?? 0 }}</span>
      </h2>
      <QueueCard
        v-for="r in sorted"
        :key="r.id"
        :to="`/pick/${r.id}`"
        :selected="id === r.id"
        :share="r.done_count / Math.max(1, r.stop_count)"
      >
        <span class="mono">{{ r.number }}</span><span>{{ r.done_count }} of {{ r.stop_count }}</span>
        <template #more
          ><span
            >{{ r.picker || 'nobody yet'
            }}<template v-if="r.next_bin && r.state === 'walking'"
              >, to <span class="mono nb">{{ r.next_bin }}</span></template
            ></span
          ><span v-if="stuck(r)" class="late">{{ stuck(r) }}</span
          ><span v-else-if="r.ends_at">ends about {{ when(r.ends_at) }}</span
          ><span v-else>{{ r.metres }} m, {{ r.minutes }} min</span></template
        >
      </QueueCard>
      <div v-if="rounds.data.value?.length === 0" class="empty">Nobody walks. Plan rounds from the orders beside.</div>
      <p><router-link to="/pick">Plan rounds</router-link></p>
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
        {{ round.data.value.plain_metres }} m. Expected to take
        <b class="mono">{{ round.data.value.minutes }}</b> minutes<template v-if="round.data.value.ends_at"
          >, ends about <b class="mono">{{ when(round.data.value.ends_at) }}</b></template
        >. Walk it on a handheld at <router-link :to="`/hand/round/${id}`">/hand</router-link>.<template
          v-if="round.data.value.each_unit"
        >
          Each unit is scanned.</template
        >
      </p>
      <div v-if="stuck(round.data.value)" class="note w">It needs a decision: {{ stuck(round.data.value) }}.</div>
      <div v-if="worksAs('lead') && round.data.value.state !== 'done'" class="fields" style="margin-bottom: 10px">
        <FormField label="Reassign to"
          ><ChoiceEntry
            :model-value="round.data.value.picker_id ?? 0"
            :options="[{ value: 0, label: 'nobody yet' }, ...pickers.map((p) => ({ value: p.id, label: p.name }))]"
            :width="180"
            @update:model-value="(p) => reassign(p ?? 0)"
        /></FormField>
        <a-button :disabled="busy" @click="setEach(!round.data.value.each_unit)">
          {{ round.data.value.each_unit ? 'Enter quantities' : 'Scan each unit' }}
        </a-button>
        <a class="btn" :href="`/api/v1/rounds/${id}/list.pdf`" target="_blank" rel="noopener">Print the list</a>
        <a-button :aria-expanded="paper" @click="paper = !paper">Confirm from paper</a-button>
        <ConfirmButton
          :label="round.data.value.done_count ? 'End it early' : 'Dissolve'"
          :title="`End ${round.data.value.number} early?`"
          :happens="leaves"
          :does="`Open ${plural(openStops, 'stop')} again`"
          :busy="busy"
          @confirm="dissolve"
        />
        <ConfirmButton
          v-if="round.data.value.state === 'released'"
          label="Change it"
          :title="`Plan ${round.data.value.number} anew?`"
          :happens="`It is dissolved, and its orders are planned again, stop by stop, for you to change and release.`"
          does="Dissolve it and plan again"
          :busy="busy"
          @confirm="planAgain"
        />
        <a-button v-if="can('add-stops')" :aria-expanded="adding" @click="adding = !adding">Add orders</a-button>
        <a-button v-if="paper" type="primary" :disabled="busy" @click="confirmPaper">
          Confirm {{ round.data.value.number }} as planned but what differs
        </a-button>
      </div>
      <AddToRound
        v-if="adding && round.data.value.state !== 'done'"
        :key="id"
        :round="round.data.value"
        @added="added"
        @leave="adding = false"
      />
      <DraftNotice v-if="paper" :of="differs" :labels="(path) => path.join(' ')" />
      <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
      <div v-if="done" class="note g" role="status">{{ done }}</div>
      <FloorMap
        v-if="floor.data.value"
        :plan="floor.data.value"
        :path="path"
        @open="(b) => router.push(`/stock/location/${b}`)"
      />
      <SheetTable
        label="Stops"
        :columns="stopColumns"
        :rows="round.data.value.stops"
        :row-key="(s) => s.id"
        :now="(s) => s.state !== 'open'"
      >
        <template #bin="{ row: s }"
          ><b>{{ s.bin }}</b></template
        >
        <template #item="{ row: s }">
          {{ s.description }} <span class="mono mute small">{{ s.sku }}</span>
        </template>
        <template #lot="{ row: s }">
          {{ s.lot }}<span v-if="s.planned_lot" class="mute small"> for {{ s.planned_lot }}</span>
          {{ s.units.map((u) => u.serial).join(', ') }}
        </template>
        <template #off="{ row: s }">
          <ConfirmButton
            v-if="s.state === 'open'"
            link
            label="Take it off"
            :title="`Take stop ${s.seq} off ${round.data.value.number}?`"
            :happens="`${s.quantity} of ${s.sku} at ${s.bin} are not picked on it, and are open for another round.`"
            does="Take it off"
            :busy="busy"
            @confirm="takeOff(s)"
          />
        </template>
        <template #differs="{ row: s }">
          <QuantityEntry
            v-if="s.state === 'open'"
            :model-value="differ(s.id).picked"
            :placeholder="s.quantity"
            :label="`Picked at stop ${s.seq}`"
            @update:model-value="(q) => setDiffer(s.id, { picked: q ?? '' })"
          />
        </template>
        <template #serials="{ row: s }">
          <TextEntry
            v-if="s.state === 'open' && ['serial', 'serial_out'].includes(s.tracking)"
            :model-value="differ(s.id).serials"
            mono
            :width="170"
            :label="`Serials at stop ${s.seq}`"
            @update:model-value="(text) => setDiffer(s.id, { serials: text ?? '' })"
          />
          <LabelEntry
            v-else-if="s.state === 'open' && s.ask_lot"
            :item="s.item_id"
            :model-value="differ(s.id).lot ?? ''"
            :width="170"
            :label="`Lot at stop ${s.seq}`"
            @update:model-value="(text: string | undefined) => setDiffer(s.id, { lot: text ?? '' })"
          />
        </template>
      </SheetTable>
    </template>
    <WavePlan
      v-else-if="wave && inWave === undefined"
      :wave="wave"
      :floor="floor.data.value"
      @gone="gone"
      @leave="wave = undefined"
      @change="changeRound"
    />
    <template v-else-if="stops.length || proposal">
      <p>
        <a-button type="link" size="small" @click="leaveRound">{{
          inWave === undefined ? 'Back to what waits' : 'Back to the wave, unchanged'
        }}</a-button>
      </p>
      <DraftNotice :of="draft" :labels="() => 'the round'" />
      <div v-if="next" class="note w" role="status">
        The round that you changed is not released yet.
        <a-button size="small" @click="proposed.propose(next)"
          >Discard it and plan {{ plural(next.orders.length, 'other order') }}</a-button
        >
      </div>
      <h1>
        {{ inWave === undefined ? 'A round' : `Round ${inWave + 1} of the wave` }} for
        {{ plural(new Set(stops.map((s) => s.order_id)).size, 'order') }}
      </h1>
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
        @open="(b) => router.push(`/stock/location/${b}`)"
      />
      <div v-for="l in short" :key="l.order + l.sku" class="note w">
        {{ l.order }} is {{ l.quantity }} short of {{ l.sku }}: {{ l.why }}. It stays open.
      </div>
      <RobbedOrders :of="(plan ?? proposal)?.robbed ?? []" />
      <SheetTable
        data-proposal
        label="Stops proposed"
        :columns="proposalColumns"
        :rows="stops"
        :row-key="(s) => s.key"
        :opened="changing ? [changing] : []"
      >
        <template #bin="{ row: s }"
          ><b>{{ s.bin }}</b></template
        >
        <template #item="{ row: s }">
          {{ s.description }}
          <div class="mute small">
            <span class="mono">{{ s.sku }}</span> {{ s.why }}
          </div>
        </template>
        <template #lot="{ row: s }">{{ s.lot }} {{ s.serials.join(', ') }}</template>
        <template #pick="{ row: s }">
          <QuantityEntry v-model="s.text" :label="`Take from ${s.bin} for ${s.order}`" />
        </template>
        <template #does="{ row: s, index: i }">
          <a-button type="link" size="small" @click="change(s)">Bin</a-button>
          <a-button type="link" size="small" @click="stops.splice(i, 1)">Remove</a-button>
        </template>
        <template #more="{ index: i }">
          <span v-for="h in others" :key="h.location + h.lot" class="small">
            <b class="mono">{{ h.location }}</b> {{ h.lot }} has {{ Number(h.quantity) - Number(h.reserved) }}
            <a-button type="link" size="small" @click="useBin(i, h, false)">Use it</a-button>
            <a-button type="link" size="small" @click="useBin(i, h, true)">Add it</a-button>&ensp;
          </span>
        </template>
      </SheetTable>
    </template>
    <template v-else>
      <div v-if="done" class="note g" role="status">{{ done }}</div>
      <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
      <OpenOrders :busy="busy" @plan="planOne" @wave="planWave" />
      <PickDay />
      <FloorMap
        v-if="floor.data.value"
        :plan="floor.data.value"
        walks
        style="margin-top: 14px"
        @open="(b) => router.push(`/stock/location/${b}`)"
      />
    </template>

    <template v-if="!id && stops.length" #after>
      <h2>
        <span>Before and after</span><span>{{ plural(stops.length, 'stop') }}</span>
      </h2>
      <div class="grow">
        <div v-if="done" class="note g" role="status">{{ done }}</div>
        <div v-if="problem || refused" class="note s" role="alert">{{ (problem ?? refused)?.message }}</div>
        <template v-if="plan">
          <div v-if="inWave !== undefined" class="note g">
            Nothing is released yet: the round goes back into its wave.
          </div>
          <div v-else class="note g">
            Releasing it moves nothing yet. It reserves this stock for its orders: nobody else may take it.
          </div>
          <div v-for="(s, i) in plan.stops" :key="i" class="reservation">
            <span class="mono"
              >{{ i + 1 }}&ensp;<b>{{ s.bin }}</b></span
            ><span class="mono">{{ s.quantity }}</span
            ><span class="mute small mono">{{ s.sku }} for {{ s.order }}</span>
          </div>
        </template>
      </div>
      <a-button
        type="primary"
        class="big"
        data-primary
        :disabled="!plan || !fresh || busy || !!refused"
        @click="inWave === undefined ? release() : intoWave()"
      >
        {{ inWave === undefined ? (plan?.button ?? 'Release the round') : 'Put it back into the wave' }}
      </a-button>
    </template>
  </BenchLayout>
</template>

<style scoped>
.grow {
  flex: 1;
  overflow-y: auto;
  margin-bottom: 10px;
}
.reservation {
  display: grid;
  grid-template-columns: 1fr auto;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 5px 10px;
  margin-bottom: 5px;
}
.big {
  height: auto;
  padding: 12px 16px;
  font-size: 17px;
  white-space: normal;
}
</style>
