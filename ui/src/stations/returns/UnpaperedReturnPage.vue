<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
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
import ItemFinder from '@/parts/ItemFinder.vue'
import PartyFinder from '@/parts/PartyFinder.vue'
import { usePreview } from '@/parts/preview'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import { codesOf } from '@/parts/serials'
import SheetTable from '@/parts/SheetTable.vue'
import TextEntry from '@/parts/TextEntry.vue'
import { named, useKinds } from './kinds'
import { byLot, type LooseLine, looseLine, looseWish, unitwise } from './returning'
import WhyEntry from './WhyEntry.vue'

/** Goods that come back and that nobody has a paper of: a lead takes them, and says why. */
const router = useRouter()
const queries = useQueryClient()
const unwritten = looseWish()
const draft = useDraft(
  () => `return-without-paper/${session.site}`,
  () => unwritten,
)
const d = computed(() => draft.mine.value!)
const kinds = useKinds(false)
const kind = computed(() => d.value.kind ?? kinds.value[0]?.id)
const body = computed<Schemas['ReturnsUnpapered']>(() => ({
  site_id: session.site,
  kind_id: kind.value ?? 0,
  customer_id: d.value.customer?.id ?? 0,
  reason: d.value.reason,
  lines: d.value.lines.map((l) => ({
    item_id: l.item,
    lot: l.lot || undefined,
    quantity: unitwise(l.tracking) ? String(codesOf(l.serials).length) : l.quantity,
    serials: unitwise(l.tracking) ? codesOf(l.serials) : undefined,
    reason_id: l.reason ?? 0,
    said: l.said || undefined,
  })),
}))
const filled = (l: LooseLine) =>
  !!l.reason && (unitwise(l.tracking) ? codesOf(l.serials).length > 0 : !!l.quantity) && (!byLot(l.tracking) || !!l.lot)
const ready = computed(
  () => !!d.value.customer && !!d.value.reason && d.value.lines.length > 0 && d.value.lines.every(filled),
)
const look = usePreview(
  'return-without-paper',
  computed(() => (ready.value ? body.value : null)),
  (b) => ask(api.POST('/api/v1/returns/without-paper/preview', { body: b })),
)
const { busy, problem, run } = useCommand()
async function announce() {
  const made = await run(() =>
    once((h) => ask(api.POST('/api/v1/returns/without-paper', { headers: h, body: body.value }))),
  )
  if (!made) return
  draft.discard()
  void router.push(`/returns/${made.id}`)
  void queries.invalidateQueries({ queryKey: ['returns'] })
}
function discard() {
  draft.discard()
  void router.push('/returns')
}
const columns: Column<LooseLine>[] = [
  { name: 'item', label: 'Item', of: (l) => `${l.sku}, ${l.text}` },
  { name: 'quantity', label: 'Comes back' },
  { name: 'lot', label: 'Lot' },
  { name: 'reason', label: 'Why' },
  { name: 'said', label: 'Condition, as said' },
  { name: 'does', label: '' },
]
</script>

<template>
  <div class="page">
    <h1>Return without a paper</h1>
    <p v-if="!can('announce-return-without-paper')" class="empty">
      A lead takes goods that nobody has a paper of. Find what was shipped on a new return instead.
    </p>
    <template v-else>
      <p class="mute">
        What was shipped is found by delivery note, invoice, lot or serial on a
        <router-link to="/returns/new">new return</router-link>. Here are goods of which none of that is known.
      </p>
      <EntryForm :problem="problem">
        <DraftNotice :of="draft" :labels="(path) => (path.at(-1) === 'reason' ? 'the reason' : 'a line')" />
        <div class="fields">
          <FormField label="Customer" field="customer_id" required
            ><PartyFinder v-model="d.customer" kind="customer"
          /></FormField>
          <FormField v-if="kinds.length > 1" label="Kind of return" field="kind_id" required
            ><ChoiceEntry
              :model-value="kind"
              :options="named(kinds)"
              :width="200"
              @update:model-value="(k) => (d.kind = k ?? null)"
          /></FormField>
          <FormField label="Why without a paper" field="reason" required tip="It stays in the trail."
            ><TextEntry v-model="d.reason" :width="320" :maxlength="200"
          /></FormField>
        </div>
        <SheetTable data-lines label="Lines" :columns="columns" :rows="d.lines" :row-key="(l) => l.key">
          <template #quantity="{ row: l, index: i }">
            <TextEntry
              v-if="unitwise(l.tracking)"
              v-model="l.serials"
              mono
              :label="`Serials of ${l.sku}`"
              placeholder="serials"
              :field="`lines[${i}].serials`"
              :width="190"
            />
            <QuantityEntry
              v-else
              v-model="l.quantity"
              :label="`${l.sku} that come back`"
              :field="`lines[${i}].quantity`"
            />
          </template>
          <template #lot="{ row: l, index: i }">
            <TextEntry
              v-if="byLot(l.tracking)"
              v-model="l.lot"
              mono
              :label="`Lot of ${l.sku}`"
              :field="`lines[${i}].lot`"
              :width="120"
              :maxlength="60"
            />
          </template>
          <template #reason="{ row: l, index: i }">
            <WhyEntry v-model="l.reason" :sku="l.sku" :field="`lines[${i}].reason_id`" />
          </template>
          <template #said="{ row: l }">
            <TextEntry v-model="l.said" :label="`Condition of ${l.sku}`" :width="190" :maxlength="200" />
          </template>
          <template #does="{ index: i }">
            <a-button type="link" size="small" @click="d.lines.splice(i, 1)">Remove</a-button>
          </template>
          <template #empty>No lines yet. Find an item that comes back.</template>
          <template #foot><ItemFinder label="Add an item" @choose="(f) => d.lines.push(looseLine(f.item))" /></template>
        </SheetTable>
        <p v-for="n in look.plan.value?.notes" :key="n" class="note g">{{ n }}</p>
        <p v-if="look.problem.value && !problem" class="note s" data-problem>{{ look.problem.value.message }}</p>
      </EntryForm>
      <div class="fields under">
        <a-button type="primary" data-primary :disabled="!ready || !look.fresh.value || busy" @click="announce">
          {{ look.plan.value?.button ?? 'Announce the return' }}
        </a-button>
        <a-button @click="discard">Discard</a-button>
      </div>
    </template>
  </div>
</template>

<style scoped>
.under {
  margin-top: 14px;
}
</style>
