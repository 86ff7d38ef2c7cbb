<script setup lang="ts">
import { computed } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can } from '@/api/session'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import CommandNotice from '@/parts/CommandNotice.vue'
import { useDraft } from '@/parts/draft'
import FormField from '@/parts/FormField.vue'
import ItemFinder from '@/parts/ItemFinder.vue'
import { usePreview } from '@/parts/preview'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import { codesOf } from '@/parts/serials'
import SheetTable from '@/parts/SheetTable.vue'
import TextEntry from '@/parts/TextEntry.vue'
import { byLots, byUnits } from '@/parts/tracking'
import UnitsEntry from '@/parts/UnitsEntry.vue'
import { money, plural, when } from '@/parts/words'
import { kinds, kindWords, outcomes, outcomeWords } from './cases'

/** What came otherwise than it was shipped: told, and settled, case by case. While one is open its goods stay in transit. */
const props = defineProps<{ order: Schemas['TransfersOrder'] }>()
const emit = defineEmits<{ changed: [] }>()
type Case = Schemas['TransfersCase']
interface Told {
  at: string
  kind: Schemas['TransfersNewCase']['kind']
  quantity: string
  came: string
  serials: string[]
  note: string
  /** What came besides: which item, with which shipment, and its units as they are typed. */
  item?: { id: number; sku: string; tracking: string }
  half?: number
  codes?: string
}
const keyOf = (e: Schemas['TransfersExpected']) => `${e.line_id}/${e.lot}`
const expected = computed(() => props.order.expected)
const told = useDraft<Told>(
  () => `transfer-case/${props.order.id}`,
  () => ({ at: '', kind: 'less', quantity: '', came: '', serials: [], note: '' }),
)
const d = computed(() => told.mine.value!)
const about = computed(() => expected.value.find((e) => keyOf(e) === d.value.at) ?? expected.value[0])
/** With nothing in transit, goods can only have come besides. */
const kind = computed(() => (about.value ? d.value.kind : 'more'))
const besides = computed(() => kind.value === 'more')
const byUnit = computed(() => about.value?.tracking === 'serial' && !besides.value)
const stray = computed(() => besides.value && !!d.value.item && byUnits(d.value.item))
const codes = computed(() => codesOf(d.value.codes ?? ''))
const half = computed(() => d.value.half ?? props.order.shipments.at(-1)?.inbound_id)
/** What came though it was not sent. */
function extra(): Schemas['TransfersNewCase'] | null {
  const quantity = stray.value ? String(codes.value.length) : d.value.quantity
  if (!d.value.item || !half.value || !Number(quantity)) return null
  return {
    kind: 'more',
    inbound_id: half.value,
    item_id: d.value.item.id,
    quantity,
    came_lot: (byLots(d.value.item) && d.value.came) || undefined,
    serials: stray.value ? codes.value : undefined,
    note: d.value.note || undefined,
  }
}
const body = computed<Schemas['TransfersNewCase'] | null>(() => {
  if (besides.value) return extra()
  const quantity = byUnit.value ? String(d.value.serials.length) : d.value.quantity
  if (!about.value || !Number(quantity)) return null
  return {
    line_id: about.value.line_id,
    kind: d.value.kind,
    quantity,
    lot: about.value.lot || undefined,
    came_lot: (d.value.kind === 'other_lot' && d.value.came) || undefined,
    serials: byUnit.value ? d.value.serials : undefined,
    note: d.value.note || undefined,
  }
})
const look = usePreview('open-case', body, (b) => ask(api.POST('/api/v1/transfer-cases/preview', { body: b })))
const command = useCommand()
const { busy, problem, run } = command
async function tell() {
  const b = body.value
  if (!b) return
  const made = await run(
    () => once((h) => ask(api.POST('/api/v1/transfer-cases', { headers: h, body: b }))),
    (c) => `${c.number} is open: its goods stay in transit until somebody settles it.`,
  )
  if (!made) return
  told.discard()
  emit('changed')
}

const open = computed(() => props.order.cases.filter((c) => !c.outcome))
interface Ending {
  of: number
  outcome: Schemas['TransfersSettling']['outcome']
  reason: string
}
const ending = useDraft<Ending>(
  () => `transfer-case/${props.order.id}/settle`,
  () => ({ of: 0, outcome: 'received', reason: '' }),
)
const e = computed(() => ending.mine.value!)
const chosen = computed(() => open.value.find((c) => c.id === e.value.of) ?? open.value[0])
const settling = usePreview(
  'settle-case',
  computed(() =>
    chosen.value && can('settle-case')
      ? { id: chosen.value.id, body: { outcome: e.value.outcome, reason: e.value.reason || undefined } }
      : null,
  ),
  (b) => ask(api.POST('/api/v1/transfer-cases/{id}/settle/preview', { params: { path: { id: b.id } }, body: b.body })),
)
async function settle() {
  const c = chosen.value
  if (!c) return
  const body = { outcome: e.value.outcome, reason: e.value.reason || undefined }
  const done = await run(
    () =>
      once((h) =>
        ask(api.POST('/api/v1/transfer-cases/{id}/settle', { headers: h, params: { path: { id: c.id } }, body })),
      ),
    (x) => `${x.number} is settled: ${outcomeWords(x)}.`,
  )
  if (!done) return
  ending.discard()
  emit('changed')
}
const columns: Column<Case>[] = [
  { name: 'number', label: 'Case', of: (c) => c.number, mono: true },
  { name: 'item', label: 'Item', of: (c) => c.sku, mono: true },
  {
    name: 'what',
    label: 'What differs',
    of: (c) =>
      [
        `${c.quantity} ${kindWords(c.kind)}`,
        c.lot && `lot ${c.lot}`,
        c.came_lot && `lot ${c.came_lot} came`,
        ...c.serials,
      ]
        .filter(Boolean)
        .join(', '),
  },
  { name: 'shipment', label: 'Sent with', of: (c) => c.shipment, to: (c) => `/dispatch/${c.shipment_id}`, mono: true },
  {
    name: 'arrival',
    label: 'Came with',
    of: (c) => c.arrival,
    to: (c) => (c.arrival && !c.arrival.includes(' ') ? `/go/${c.arrival}` : undefined),
    mono: true,
  },
  { name: 'note', label: 'Note', of: (c) => c.note },
  { name: 'opened', label: 'Told', of: (c) => `${c.opened_by}, ${when(c.opened_at)}` },
  {
    name: 'end',
    label: 'Became',
    of: (c) =>
      c.outcome
        ? [outcomeWords(c), Number(c.value) ? `worth ${money(c.value)}` : '', c.reason, c.settled_by]
            .filter(Boolean)
            .join(', ')
        : `open for ${plural(c.days, 'day')}`,
    late: (c) => !c.outcome,
  },
]
</script>

<template>
  <template v-if="order.cases.length">
    <h2><span>Differences</span></h2>
    <SheetTable data-cases label="Differences" :columns="columns" :rows="order.cases" :row-key="(c) => c.id" />
  </template>
  <CommandNotice :of="command" />
  <section v-if="chosen && can('settle-case')" data-settle-case aria-label="Settle a difference">
    <h2><span>Settle a difference</span></h2>
    <div class="fields">
      <FormField label="Case"
        ><ChoiceEntry
          :model-value="chosen.id"
          :options="open.map((c) => ({ value: c.id, label: `${c.number}, ${c.quantity} of ${c.sku}` }))"
          :width="220"
          @update:model-value="(id) => (e.of = id ?? 0)"
      /></FormField>
      <FormField label="The goods are"
        ><ChoiceEntry v-model="e.outcome" :options="outcomes(chosen)" :width="220"
      /></FormField>
      <FormField label="How you know" tip="Needed for what is lost or the carrier's; it stands in the trail."
        ><TextEntry v-model="e.reason" :width="280" :maxlength="200"
      /></FormField>
    </div>
    <p v-for="(m, i) in settling.plan.value?.moves" :key="i" class="small">
      <b class="mono">{{ m.quantity }}</b> of <span class="mono">{{ m.sku }} {{ m.lot }}</span> from {{ m.from }} to
      {{ m.to }}
    </p>
    <p v-for="w in settling.plan.value?.warnings" :key="w" class="note w">{{ w }}</p>
    <p v-for="n in settling.plan.value?.notes" :key="n" class="note g">{{ n }}</p>
    <p v-if="settling.problem.value && !problem" class="note s" data-problem>{{ settling.problem.value.message }}</p>
    <a-button type="primary" :disabled="!settling.plan.value || !settling.fresh.value || busy" @click="settle">
      {{ settling.plan.value?.button ?? `Settle ${chosen.number}` }}
    </a-button>
  </section>
  <section v-if="(about || order.shipments.length) && can('open-case')" data-tell-case aria-label="Something differs">
    <h2><span>Something differs from the delivery note</span></h2>
    <div class="fields">
      <FormField v-if="about" label="What happened"
        ><ChoiceEntry v-model="d.kind" :options="kinds" :width="170"
      /></FormField>
      <template v-if="besides">
        <FormField label="What came besides"
          ><ItemFinder
            label="Item"
            :width="230"
            @choose="({ item }) => (d.item = { id: item.id, sku: item.sku, tracking: item.tracking })"
        /></FormField>
        <FormField v-if="order.shipments.length > 1" label="With"
          ><ChoiceEntry
            :model-value="half"
            :options="order.shipments.map((s) => ({ value: s.inbound_id, label: s.shipment }))"
            :width="120"
            @update:model-value="(of) => (d.half = of)"
        /></FormField>
      </template>
      <FormField v-else-if="about" label="Of"
        ><ChoiceEntry
          :model-value="keyOf(about)"
          :options="
            expected.map((x) => ({
              value: keyOf(x),
              label: `${x.sku} ${x.lot}, ${x.quantity} in transit with ${x.shipment}`,
            }))
          "
          :width="300"
          @update:model-value="(at) => (d.at = at ?? '')"
      /></FormField>
      <FormField v-if="byUnit && about" label="Units"
        ><UnitsEntry v-model="d.serials" :units="about.serials"
      /></FormField>
      <FormField v-else-if="stray" :label="`Serials of ${d.item?.sku}`" tip="With blanks or commas between them."
        ><TextEntry v-model="d.codes" mono :width="220" :maxlength="4000"
      /></FormField>
      <FormField v-else :label="besides && d.item ? `How many of ${d.item.sku}` : 'How many'"
        ><QuantityEntry v-model="d.quantity"
      /></FormField>
      <FormField v-if="kind === 'other_lot' || (besides && d.item && byLots(d.item))" label="Lot that came"
        ><TextEntry v-model="d.came" mono :width="130" :maxlength="60"
      /></FormField>
      <FormField label="Note"><TextEntry v-model="d.note" :width="220" :maxlength="200" /></FormField>
    </div>
    <p v-if="look.problem.value && !problem" class="note s" data-problem>{{ look.problem.value.message }}</p>
    <a-button :disabled="!look.plan.value || !look.fresh.value || busy" @click="tell">Open a case</a-button>
  </section>
</template>

<style scoped>
section {
  margin-top: 18px;
}
</style>
