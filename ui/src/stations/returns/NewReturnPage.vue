<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import { usePreview } from '@/parts/preview'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import QueryState from '@/parts/QueryState.vue'
import SheetTable from '@/parts/SheetTable.vue'
import { useSure } from '@/parts/sure'
import TextEntry from '@/parts/TextEntry.vue'
import UnitsEntry from '@/parts/UnitsEntry.vue'
import { named, useKinds } from './kinds'
import { blank, type Line, lineOf, unitwise } from './returning'
import WhyEntry from './WhyEntry.vue'

/** A return, out of what was shipped: what may come back of it is said beside it. */
const router = useRouter()
const queries = useQueryClient()
const unwritten = blank()
const draft = useDraft(
  () => `return/${session.site}`,
  () => unwritten,
)
const d = computed(() => draft.mine.value!)
const kinds = useKinds(true)

const words = ref('')
const sought = refDebounced(
  computed(() => words.value.trim()),
  250,
)
const found = useQuery({
  queryKey: ['returns', 'returnable', sought],
  queryFn: () => ask(api.GET('/api/v1/returnable', { params: { query: { q: sought.value } } })),
  enabled: computed(() => sought.value.length > 1),
})
type Sold = Schemas['ReturnsSold']
const keyOf = (s: Pick<Sold, 'shipment_id' | 'line_id' | 'lot'>) => `${s.shipment_id}/${s.line_id}/${s.lot}`
const taken = (s: Sold) => d.value.lines.some((l) => keyOf(l.sold) === keyOf(s))
const soldColumns: Column<Sold>[] = [
  { name: 'shipment', label: 'Delivery note', of: (s) => s.shipment, mono: true },
  { name: 'on', label: 'Shipped', of: (s) => s.shipped_on, mono: true },
  { name: 'customer', label: 'Customer', of: (s) => s.customer },
  { name: 'item', label: 'Item', of: (s) => `${s.sku}, ${s.description}` },
  { name: 'lot', label: 'Lot', of: (s) => s.lot, mono: true },
  { name: 'shipped', label: 'Shipped', of: (s) => s.shipped, right: true, mono: true },
  { name: 'returnable', label: 'May come back', of: (s) => s.returnable, right: true, mono: true },
  { name: 'does', label: '' },
]

const { sure, asking, yes } = useSure(() => draft.mine.value)
const body = computed<Schemas['ReturnsNew']>(() => ({
  site_id: session.site,
  kind_id: d.value.kind ?? 0,
  note: d.value.note || undefined,
  sure: sure.value.length ? (sure.value as never) : undefined,
  lines: d.value.lines.map((l) => ({
    shipment_id: l.sold.shipment_id,
    line_id: l.sold.line_id,
    lot_id: l.sold.lot_id ?? undefined,
    quantity: unitwise(l.sold.tracking) ? String(l.serials.length) : l.quantity,
    serials: l.serials.length ? l.serials : undefined,
    reason_id: l.reason ?? 0,
    said: l.said || undefined,
  })),
}))
const filled = (l: Line) => !!l.reason && (unitwise(l.sold.tracking) ? l.serials.length > 0 : !!l.quantity)
const ready = computed(() => !!d.value.kind && d.value.lines.length > 0 && d.value.lines.every(filled))
const look = usePreview(
  'return',
  computed(() => (ready.value ? body.value : null)),
  (b) => ask(api.POST('/api/v1/returns/preview', { body: b })),
)
const { busy, problem, run } = useCommand()
async function announce() {
  asking(announce)
  const made = await run(() => once((h) => ask(api.POST('/api/v1/returns', { headers: h, body: body.value }))))
  if (!made) return
  draft.discard()
  void router.push(`/returns/${made.id}`)
  void queries.invalidateQueries({ queryKey: ['returns'] })
}
function discard() {
  draft.discard()
  void router.push('/returns')
}
const columns: Column<Line>[] = [
  { name: 'item', label: 'Item', of: (l) => `${l.sold.sku}, ${l.sold.description}` },
  { name: 'from', label: 'Delivery note', of: (l) => l.sold.shipment, mono: true },
  { name: 'lot', label: 'Lot', of: (l) => l.sold.lot, mono: true },
  { name: 'quantity', label: 'Comes back' },
  { name: 'reason', label: 'Why' },
  { name: 'said', label: 'Condition, as said' },
  { name: 'does', label: '' },
]
</script>

<template>
  <div class="page">
    <h1>New return</h1>
    <p v-if="!can('announce-return')" class="empty">Your role looks only: returns are announced by the office.</p>
    <template v-else>
      <EntryForm :problem="problem" @sure="yes">
        <DraftNotice :of="draft" :labels="(path) => (path.at(-1) === 'note' ? 'the note' : 'a line')" />
        <div class="fields">
          <FormField label="Kind of return" field="kind_id" required
            ><ChoiceEntry
              :model-value="d.kind ?? undefined"
              :options="named(kinds)"
              :width="200"
              @update:model-value="(k) => (d.kind = k ?? null)"
          /></FormField>
          <FormField label="Note" field="note"><TextEntry v-model="d.note" :width="320" :maxlength="200" /></FormField>
        </div>
        <SheetTable
          v-if="d.lines.length"
          data-lines
          label="Lines"
          :columns="columns"
          :rows="d.lines"
          :row-key="(l) => l.key"
        >
          <template #quantity="{ row: l, index: i }">
            <UnitsEntry
              v-if="unitwise(l.sold.tracking)"
              v-model="l.serials"
              :units="l.sold.serials"
              :label="`Units of ${l.sold.sku} that come back`"
              :field="`lines[${i}].serials`"
            />
            <QuantityEntry
              v-else
              v-model="l.quantity"
              :label="`${l.sold.sku} that come back`"
              :field="`lines[${i}].quantity`"
            />
          </template>
          <template #reason="{ row: l, index: i }">
            <WhyEntry v-model="l.reason" :sku="l.sold.sku" :field="`lines[${i}].reason_id`" />
          </template>
          <template #said="{ row: l }">
            <TextEntry v-model="l.said" :label="`Condition of ${l.sold.sku}`" :width="190" :maxlength="200" />
          </template>
          <template #does="{ index: i }">
            <a-button type="link" size="small" @click="d.lines.splice(i, 1)">Remove</a-button>
          </template>
        </SheetTable>
        <template v-if="look.plan.value">
          <p v-for="n in look.plan.value.notes" :key="n" class="note g">{{ n }}</p>
        </template>
        <p v-if="look.problem.value && !problem" class="note s" data-problem>{{ look.problem.value.message }}</p>
      </EntryForm>
      <div class="fields under">
        <a-button type="primary" data-primary :disabled="!ready || !look.fresh.value || busy" @click="announce">
          {{ look.plan.value?.button ?? 'Announce the return' }}
        </a-button>
        <a-button @click="discard">Discard</a-button>
      </div>
      <h2><span>What was shipped</span></h2>
      <div class="fields">
        <FormField
          label="Find what was shipped"
          tip="By delivery note, order, invoice, serial, lot, carton, item, or part of the customer's name."
          ><TextEntry v-model="words" :width="320" mono data-sought
        /></FormField>
      </div>
      <QueryState v-if="sought.length > 1 && !found.data.value" :query="found" />
      <SheetTable
        v-if="found.data.value"
        data-sold
        label="What was shipped"
        :columns="soldColumns"
        :rows="found.data.value"
        :row-key="keyOf"
      >
        <template #does="{ row: s }">
          <a-button
            type="link"
            size="small"
            :disabled="taken(s) || Number(s.returnable) === 0"
            @click="d.lines.push(lineOf(s))"
            >{{ taken(s) ? 'On the return' : 'Comes back' }}</a-button
          >
        </template>
        <template #empty>Nothing that was shipped is called {{ sought }}.</template>
      </SheetTable>
    </template>
  </div>
</template>

<style scoped>
.under {
  margin: 14px 0 22px;
}
</style>
