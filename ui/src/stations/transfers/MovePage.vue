<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import { usePreview } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import { takeScans } from '@/shell/scan'
import FormField from '@/parts/FormField.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import TextEntry from '@/parts/TextEntry.vue'
import BinEntry from '@/parts/BinEntry.vue'

const fromId = ref(0)
const from = useQuery({
  queryKey: ['stock', 'location', fromId],
  queryFn: () => ask(api.GET('/api/v1/locations/{id}', { params: { path: { id: fromId.value } } })),
  enabled: computed(() => fromId.value > 0),
})
/** What moves, and where to; units where they are known by serial. */
interface Typed {
  chosen: Schemas['StockHolding'] | null
  quantity: string
  to: string
  units: string[]
  note: string
  /** All that lies in this bin moves; 0 for one kind of goods. */
  all: number
  /** A carton or pallet that moves as it is, by its number; empty for none. */
  carton: string
}
const nothing = (): Typed => ({ chosen: null, quantity: '', to: '', units: [], note: '', all: 0, carton: '' })
const draft = useDraft<Typed>(() => `transfer/${session.site}`, nothing)
const part = <K extends keyof Typed>(name: K) =>
  computed<Typed[K]>({
    get: () => (draft.mine.value ?? nothing())[name],
    set: (v) => (draft.mine.value = { ...(draft.mine.value ?? nothing()), [name]: v }),
  })
const [chosen, quantity, to, units, note] = [part('chosen'), part('quantity'), part('to'), part('units'), part('note')]
const [all, carton] = [part('all'), part('carton')]
watch(chosen, (h) => h && (fromId.value = h.location_id), { immediate: true })
watch(all, (bin) => bin && (fromId.value = bin), { immediate: true })
const isChosen = (h: Schemas['StockHolding']) =>
  chosen.value?.item_id === h.item_id &&
  chosen.value.lot_id === h.lot_id &&
  chosen.value.carton_id === h.carton_id &&
  chosen.value.condition === h.condition
function choose(h: Schemas['StockHolding']) {
  chosen.value = h
  units.value = []
  all.value = 0
  carton.value = ''
}
function chooseAll() {
  chosen.value = null
  all.value = fromId.value
  carton.value = ''
}
/** Cartons and pallets that stand there, each with what is in it. */
const standing = computed(() => {
  const by = new Map<string, Schemas['StockHolding'][]>()
  for (const h of from.data.value?.holdings ?? []) if (h.carton) by.set(h.carton, [...(by.get(h.carton) ?? []), h])
  return [...by].map(([sscc, holds]) => ({ sscc, holds }))
})
const moving = computed(() => standing.value.find((c) => c.sscc === carton.value))
const holdsWords = (of: { holds: Schemas['StockHolding'][] }) =>
  of.holds.map((h) => `${h.quantity} ${h.sku}`).join(', ')
function chooseCarton(sscc: string) {
  chosen.value = null
  all.value = 0
  carton.value = sscc
}
function toggle(code: string) {
  units.value = units.value.includes(code) ? units.value.filter((c) => c !== code) : [...units.value, code]
  quantity.value = units.value.length ? String(units.value.length) : ''
}
const fromCode = ref('')
const command = useCommand()
const { busy, problem, done, run } = command

function moveFrom(location: Schemas['CatalogLocation']) {
  chosen.value = null
  all.value = 0
  carton.value = ''
  fromId.value = location.id
}
const body = computed<Schemas['TransfersTransfer'] | null>(() =>
  chosen.value && quantity.value && to.value
    ? {
        from_id: fromId.value,
        item_id: chosen.value.item_id,
        lot_id: chosen.value.lot_id ?? undefined,
        carton_id: chosen.value.carton_id ?? undefined,
        serials: units.value.length ? units.value : undefined,
        quantity: quantity.value,
        to: to.value,
        note: note.value,
      }
    : null,
)
const one = usePreview('transfer', body, (b) => ask(api.POST('/api/v1/transfers/preview', { body: b })))
const emptying = computed<Schemas['TransfersEmptying'] | null>(() =>
  all.value && to.value ? { from_id: all.value, to: to.value, note: note.value } : null,
)
const whole = usePreview('empty', emptying, (b) => ask(api.POST('/api/v1/transfers/empty/preview', { body: b })))
const cartonMove = computed<Schemas['TransfersCartonMove'] | null>(() =>
  moving.value && to.value ? { carton_id: moving.value.holds[0]!.carton_id!, to: to.value, note: note.value } : null,
)
const asItIs = usePreview('move-carton', cartonMove, (b) =>
  ask(api.POST('/api/v1/transfers/carton/preview', { body: b })),
)
const shown = computed(() => (carton.value ? asItIs : all.value ? whole : one))
async function moveCarton() {
  const b = cartonMove.value
  if (!b) return
  const home = from.data.value?.location.code ?? ''
  const post = (body: Schemas['TransfersCartonMove']) =>
    run(
      () => once((h) => ask(api.POST('/api/v1/transfers/carton', { headers: h, body }))),
      (x) => `${x.done}.`,
    )
  if (!(await post(b))) return
  command.offerUndo(async () => {
    if (await post({ ...b, to: home })) void from.refetch()
  })
  draft.discard()
  void from.refetch()
}
async function empty() {
  const b = emptying.value
  if (!b) return
  const moved = await run(
    () => once((h) => ask(api.POST('/api/v1/transfers/empty', { headers: h, body: b }))),
    (x) => `${x.done}.`,
  )
  if (!moved) return
  draft.discard()
  void from.refetch()
}

async function move() {
  const b = body.value
  if (!b) return
  const moved = await run(
    () => once((h) => ask(api.POST('/api/v1/transfers', { headers: h, body: b }))),
    (x) => `${x.done}.`,
  )
  if (moved) {
    const home = from.data.value?.location.code ?? ''
    command.offerUndo(() => moveBack(b, home))
    draft.discard()
    void from.refetch()
  }
}

/** The counter-move: the same goods from where they went to where they were. */
async function moveBack(b: Schemas['TransfersTransfer'], home: string) {
  const back = await run(
    async () => {
      const code = b.to ?? ''
      const there = await ask(api.GET('/api/v1/location', { params: { query: { site: session.site, code } } }))
      const body = { ...b, from_id: there.id, to: home }
      return once((h) => ask(api.POST('/api/v1/transfers', { headers: h, body })))
    },
    (x) => `${x.done}.`,
  )
  if (back) void from.refetch()
}

takeScans((text, reading) => {
  const unit = reading?.found.find((f) => f.kind === 'serial' && chosen.value?.serials.includes(f.code))
  if (unit) {
    toggle(unit.code)
    return true
  }
  const box = reading?.found.find((f) => f.kind === 'carton' && standing.value.some((c) => c.sscc === f.code))
  if (box) {
    chooseCarton(box.code)
    return true
  }
  const location = reading?.found.find((f) => f.kind === 'bin' && f.code.toUpperCase() === text.toUpperCase())
  if (!location) return false
  if (chosen.value || all.value || carton.value) to.value = location.code
  else {
    fromId.value = location.id
    fromCode.value = location.code
  }
  return true
})
</script>

<template>
  <BenchLayout waits="Where from" :waiting="[]" :sheet="fromId ? [from] : []">
    <template #waiting>
      <FormField label="From bin"
        ><BinEntry v-model="fromCode" placeholder="scan or type, then Enter" :width="230" @found="moveFrom"
      /></FormField>
      <h2><span>What lies there</span></h2>
      <QueueCard
        v-for="(h, i) in from.data.value?.holdings.filter((x) => !x.carton_id)"
        :key="i"
        :selected="isChosen(h)"
        @click="choose(h)"
      >
        <span>{{ h.description }}</span><span class="mono">{{ h.quantity }}</span>
        <template #more
          ><span class="mono">{{ h.sku }}</span
          ><span class="mono">{{ h.lot }}</span></template
        >
      </QueueCard>
      <QueueCard v-for="c in standing" :key="c.sscc" :selected="carton === c.sscc" @click="chooseCarton(c.sscc)">
        <span
          >Carton <span class="mono">…{{ c.sscc.slice(-4) }}</span> as it is</span
        >
        <template #more
          ><span>{{ holdsWords(c) }}</span></template
        >
      </QueueCard>
      <QueueCard v-if="(from.data.value?.holdings.length ?? 0) > 0" :selected="all > 0" @click="chooseAll">
        <span>All of it, into another bin</span>
        <template #more><span>cartons and pallets as they are</span></template>
      </QueueCard>
      <div v-if="from.data.value?.holdings.length === 0" class="empty">
        {{ from.data.value.location.code }} is empty.
      </div>
    </template>
    <h1>Move within the site</h1>
    <p class="mute">
      From a bin to another, with a note. It is refused beyond what is there or what fits.
      <router-link to="/transfers">Transfers between sites</router-link>
    </p>
    <DraftNotice :of="draft" :labels="() => 'what moves'" />
    <template v-if="chosen">
      <p v-if="chosen.carton">It is taken off …{{ chosen.carton.slice(-4) }}.</p>
      <template v-if="chosen.serials.length">
        <p>Press the units that move, or scan them:</p>
        <div class="units">
          <a-button
            v-for="code in chosen.serials"
            :key="code"
            class="mono"
            :class="{ go: units.includes(code) }"
            :aria-pressed="units.includes(code)"
            @click="toggle(code)"
          >
            {{ code }}
          </a-button>
        </div>
      </template>
      <div class="fields">
        <FormField :label="`How many of ${chosen.sku} (of ${chosen.quantity})`"
          ><QuantityEntry v-model="quantity" :width="98"
        /></FormField>
        <FormField label="To bin"><BinEntry v-model="to" :width="134" /></FormField>
        <FormField label="Note"><TextEntry v-model="note" :width="278" /></FormField>
      </div>
    </template>
    <template v-else-if="all || moving">
      <p v-if="moving">
        Carton <b class="mono">…{{ moving.sscc.slice(-4) }}</b> moves as it is: {{ holdsWords(moving) }}.
      </p>
      <p v-else>
        All that lies good in <b class="mono">{{ from.data.value?.location.code }}</b> moves at once.
      </p>
      <div class="fields">
        <FormField label="To bin"><BinEntry v-model="to" :width="134" /></FormField>
        <FormField label="Note"><TextEntry v-model="note" :width="278" /></FormField>
      </div>
    </template>
    <div v-else class="empty">Scan the bin to move from, then choose what lies there.</div>
    <template #after>
      <BeforeAfter
        by="transfer"
        :plan="shown.plan.value"
        :problem="problem ?? shown.problem.value"
        :done="done"
        :undo="command.undo.value"
        :busy="busy"
        :fresh="shown.fresh.value"
        idle="Say what moves, and where to."
        doing="Move"
        @go="carton ? moveCarton() : all ? empty() : move()"
      />
    </template>
  </BenchLayout>
</template>

<style scoped>
.units {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-bottom: 12px;
}
</style>
