<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import CarrierEntry from '@/parts/CarrierEntry.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import DateEntry from '@/parts/DateEntry.vue'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import ItemFinder from '@/parts/ItemFinder.vue'
import { usePreview } from '@/parts/preview'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import { useSites } from '@/parts/sites'
import { useSure } from '@/parts/sure'
import TextEntry from '@/parts/TextEntry.vue'
import { blank, type Line, lineOf } from './between'
import WhichGoods from './WhichGoods.vue'

/** A transfer from this site to another: what is free at both ends is said before it is written. */
const router = useRouter()
const queries = useQueryClient()
const unwritten = blank()
const draft = useDraft(
  () => `transfer-order/${session.site}`,
  () => unwritten,
)
const d = computed(() => draft.mine.value!)
const sites = useSites()
const here = computed(() => sites.data.value?.find((s) => s.id === session.site)?.name ?? 'this site')
const others = computed(() =>
  (sites.data.value ?? []).filter((s) => s.id !== session.site).map((s) => ({ value: s.id, label: s.name })),
)
const there = computed(() => others.value.find((s) => s.value === d.value.to)?.label ?? '')
const { sure, asking, yes } = useSure(() => draft.mine.value)
const body = computed<Schemas['TransfersNew']>(() => ({
  from_site_id: session.site,
  to_site_id: d.value.to ?? 0,
  wanted_on: d.value.wanted,
  expected_on: d.value.expected,
  carrier: d.value.carrier || undefined,
  reason: d.value.reason || undefined,
  sure: sure.value.length ? sure.value : undefined,
  lines: d.value.lines.map((l) => ({
    item_id: l.item,
    pack_id: l.pack || undefined,
    quantity: l.serials?.length ? String(l.serials.length) : l.quantity,
    lot_id: l.lot || undefined,
    serials: l.serials?.length ? l.serials : undefined,
  })),
}))
const ready = computed(() => !!d.value.to && d.value.lines.length > 0)
const look = usePreview(
  'transfer-order',
  computed(() => (ready.value && d.value.lines.every((l) => l.quantity || l.serials?.length) ? body.value : null)),
  (b) => ask(api.POST('/api/v1/transfer-orders/preview', { body: b })),
)
const outlook = (i: number) => {
  const lines = look.plan.value?.lines
  return lines?.length === d.value.lines.length ? lines[i] : undefined
}
const { busy, problem, run } = useCommand()
async function create(release: boolean) {
  asking(() => create(release))
  const made = await run(() =>
    once((h) => ask(api.POST('/api/v1/transfer-orders', { headers: h, body: { ...body.value, release } }))),
  )
  if (!made) return
  draft.discard()
  void router.push(`/transfers/${made.id}`)
  void queries.invalidateQueries({ queryKey: ['transfers'] })
}
function discard() {
  draft.discard()
  void router.push('/transfers')
}
const columns = computed<Column<Line>[]>(() => [
  { name: 'item', label: 'Item', of: (l) => `${l.sku}, ${l.text}` },
  { name: 'quantity', label: 'Quantity', right: true },
  { name: 'pack', label: 'Pack' },
  { name: 'chosen', label: 'Lot or units' },
  { name: 'base', label: 'In base units', right: true, mono: true },
  { name: 'from', label: `Free at ${here.value}`, right: true, mono: true },
  { name: 'fromAfter', label: 'After', right: true, mono: true },
  { name: 'to', label: there.value ? `Free at ${there.value}` : 'Free there', right: true, mono: true },
  { name: 'toAfter', label: 'After', right: true, mono: true },
  { name: 'does', label: '' },
])
const packOptions = (l: Line) => [{ value: 0, label: l.unit }, ...l.packs.map((p) => ({ value: p.id, label: p.name }))]
const named: Record<string, string> = {
  to: 'the site',
  wanted: 'the day it leaves',
  expected: 'the day it is due',
  carrier: 'the carrier',
  reason: 'the reason',
}
</script>

<template>
  <div class="page">
    <h1>New transfer from {{ here }}</h1>
    <p v-if="!can('create-transfer-order')" class="empty">Your role looks only: transfers are written by the office.</p>
    <template v-else>
      <EntryForm :problem="problem" @sure="yes">
        <DraftNotice :of="draft" :labels="(path) => named[path.at(-1)!] ?? 'a line'" />
        <div class="fields">
          <FormField label="To site" field="to_site_id" required
            ><ChoiceEntry
              :model-value="d.to ?? undefined"
              :options="others"
              :width="200"
              @update:model-value="(to) => (d.to = to ?? null)"
          /></FormField>
          <FormField label="Leaves" field="wanted_on" required><DateEntry v-model="d.wanted" /></FormField>
          <FormField label="Due there" field="expected_on" required tip="The other site counts on it from this day."
            ><DateEntry v-model="d.expected"
          /></FormField>
          <FormField label="Carrier" field="carrier"
            ><CarrierEntry v-model="d.carrier" :width="188" none="our own vehicle"
          /></FormField>
          <FormField label="Reason" field="reason" tip="It stands on the papers of both sites."
            ><TextEntry v-model="d.reason" :width="230" :maxlength="200"
          /></FormField>
        </div>
        <SheetTable data-lines label="Lines" :columns="columns" :rows="d.lines" :row-key="(l) => l.key">
          <template #quantity="{ row: l, index: i }">
            <QuantityEntry
              v-if="!l.serials?.length"
              v-model="l.quantity"
              :label="`${l.sku} quantity`"
              :field="`lines[${i}].quantity`"
            />
            <b v-else class="mono">{{ l.serials.length }}</b>
          </template>
          <template #pack="{ row: l, index: i }">
            <ChoiceEntry
              v-model="l.pack"
              :label="`${l.sku} pack`"
              :field="`lines[${i}].pack_id`"
              :options="packOptions(l)"
              :width="130"
            />
          </template>
          <template #chosen="{ row: l, index: i }"
            ><WhichGoods v-model:lot="l.lot" v-model:serials="l.serials" :line="l" :field="`lines[${i}]`"
          /></template>
          <template #base="{ row: l, index: i }">{{
            outlook(i) ? `${outlook(i)!.quantity} ${outlook(i)!.unit}` : l.unit
          }}</template>
          <template #from="{ index: i }">{{ outlook(i)?.from_free }}</template>
          <template #fromAfter="{ index: i }">
            <span :class="{ late: outlook(i)?.from_free_after.startsWith('-') }">{{
              outlook(i)?.from_free_after
            }}</span>
          </template>
          <template #to="{ index: i }">{{ outlook(i)?.to_free }}</template>
          <template #toAfter="{ index: i }">{{ outlook(i)?.to_free_after }}</template>
          <template #does="{ index: i }">
            <a-button type="link" size="small" @click="d.lines.splice(i, 1)">Remove</a-button>
          </template>
          <template #empty>No lines yet. Find an item that is to go.</template>
          <template #foot><ItemFinder label="Add an item" @choose="(f) => d.lines.push(lineOf(f.item))" /></template>
        </SheetTable>
        <p v-for="w in look.plan.value?.warnings" :key="w" class="note w">{{ w }}</p>
        <p v-if="look.problem.value && !problem" class="note s" data-problem>{{ look.problem.value.message }}</p>
      </EntryForm>
      <div class="fields under">
        <a-button type="primary" data-primary :disabled="!ready || busy" @click="create(true)">
          Transfer it and release it
        </a-button>
        <a-button :disabled="!ready || busy" @click="create(false)">Write it, on hold</a-button>
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
