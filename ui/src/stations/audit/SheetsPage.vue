<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import CountEntry from '@/parts/CountEntry.vue'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import ItemFinder from '@/parts/ItemFinder.vue'
import { usePreview } from '@/parts/preview'
import SheetTable from '@/parts/SheetTable.vue'
import TextEntry from '@/parts/TextEntry.vue'
import WholeList from '@/parts/WholeList.vue'
import { plural, stateWords, when } from '@/parts/words'
import AuditQueue from './AuditQueue.vue'
import { reasons, useAuditQueue } from './queue'

/** The count sheets of a site, and a new one: what is on it, and how long each team takes. */
type Wanted = Schemas['AuditWanted']
const props = defineProps<{ fresh?: string }>()
const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
const queue = useAuditQueue()
const site = computed(() => session.site)
const zones = useQuery({
  queryKey: ['stock', 'zones', site],
  queryFn: () => ask(api.GET('/api/v1/stock/zones', { params: { query: { site: site.value } } })),
})
interface Form {
  scope: Wanted['scope']
  bins: string
  from: string
  to: string
  zone: string
  item: number
  sku: string
  lot: string
  class: 'A' | 'B' | 'C'
  reason: NonNullable<Wanted['reason']>
  teams: number | undefined
}
const asked = computed(() => (route.query.scope as Wanted['scope'] | undefined) ?? 'zone')
const draft = useDraft<Form>(
  () => `count-sheet/${site.value}/${asked.value}`,
  () => ({
    scope: asked.value,
    bins: '',
    from: '',
    to: '',
    zone: '',
    item: 0,
    sku: '',
    lot: '',
    class: 'A',
    reason: '',
    teams: 1,
  }),
)
const f = computed(() => draft.mine.value!)
const scopes: { value: Wanted['scope']; label: string }[] = [
  { value: 'zone', label: 'a zone' },
  { value: 'stretch', label: 'a stretch of bins' },
  { value: 'bins', label: 'bins by name' },
  { value: 'item', label: 'an item' },
  { value: 'lot', label: 'a lot' },
  { value: 'class', label: 'a class' },
  { value: 'reason', label: 'a reason' },
  { value: 'all', label: 'everything' },
]
const why = [
  { value: '' as const, label: 'the list of the day' },
  ...Object.entries(reasons).map(([value, label]) => ({ value: value as Form['reason'], label })),
]
const body = computed<Wanted | null>(() => {
  const w = f.value
  const on: Partial<Wanted> | false = {
    zone: !!w.zone && { zone: w.zone },
    stretch: !!w.from && !!w.to && { from: w.from, to: w.to },
    bins: !!w.bins.trim() && {
      bins: w.bins
        .split(/[\n,;]+/)
        .map((b) => b.trim())
        .filter(Boolean),
    },
    item: !!w.item && { item_id: w.item },
    lot: !!w.item && !!w.lot && { item_id: w.item, lot: w.lot },
    class: { class: w.class },
    reason: { reason: w.reason },
    all: {},
  }[w.scope]
  return on && w.teams ? { site_id: site.value, scope: w.scope, teams: w.teams, ...on } : null
})
const { busy, problem, done, run } = useCommand()
const look = usePreview('count-sheet', body, (b) => ask(api.POST('/api/v1/count-sheets/preview', { body: b })))
const plan = computed<Schemas['LedgerPlan'] | undefined>(() => {
  const p = look.plan.value
  if (!p) return undefined
  const notes = [
    `${plural(p.lines, 'line')} at ${plural(p.bins, 'location')}, for ${plural(p.teams.length, 'team')}: ${p.described}.`,
    'Nothing moves. What is on the sheet is counted there and nowhere else until it is done or closed.',
  ]
  const warnings = p.left_out ? [`Left out: ${p.left_out}.`] : []
  return { moves: [], changes: [], notes, warnings, button: `Open a sheet of ${plural(p.lines, 'line')}` }
})
async function open() {
  const b = body.value
  if (!b) return
  const made = await run(
    () => once((h) => ask(api.POST('/api/v1/count-sheets', { headers: h, body: b }))),
    (s) => `${s.number} is open.`,
  )
  if (!made) return
  draft.discard()
  await queries.invalidateQueries({ queryKey: ['audit'] })
  void router.push(`/audit/sheets/${made.id}`)
}
type Sheet = Schemas['AuditSheet']
const columns: Column<Sheet>[] = [
  { name: 'number', label: 'Sheet', of: (s) => s.number, to: (s) => `/audit/sheets/${s.id}`, mono: true, width: 90 },
  { name: 'described', label: 'What is on it', of: (s) => s.described },
  { name: 'state', label: 'Now', of: (s) => stateWords(s.state), width: 90 },
  { name: 'counted', label: 'Counted', of: (s) => `${s.counted} of ${s.lines}`, right: true, mono: true, width: 100 },
  {
    name: 'differ',
    label: 'Differ',
    of: (s) => s.differ,
    right: true,
    mono: true,
    width: 80,
    late: (s) => s.differ > 0,
  },
  { name: 'made', label: 'Opened', of: (s) => `${when(s.made_at)} by ${s.made_by}`, width: 210 },
  { name: 'ended', label: 'Ended', of: (s) => (s.ended_at ? `${when(s.ended_at)} by ${s.ended_by}` : ''), width: 210 },
]
type Team = Schemas['AuditTeamPart']
const teams: Column<Team>[] = [
  { name: 'team', label: 'Team', of: (t) => t.team, mono: true },
  { name: 'bins', label: 'Bins', of: (t) => `${t.from} to ${t.to}`, mono: true },
  { name: 'n', label: 'How many', of: (t) => t.bins, right: true, mono: true },
  { name: 'lines', label: 'Lines', of: (t) => t.lines, right: true, mono: true },
  { name: 'metres', label: 'Metres', of: (t) => Math.round(t.metres), right: true, mono: true },
  { name: 'minutes', label: 'Minutes', of: (t) => t.minutes, right: true, mono: true },
]
</script>

<template>
  <BenchLayout waits="To be counted" :waiting="[queue.due, queue.sheets]" :sheet="[queue.sheets]">
    <template #waiting><AuditQueue :queue="queue" :at="{}" /></template>
    <template v-if="!props.fresh">
      <h1>Count sheets</h1>
      <p class="mute">
        Bins, or items in bins, that are counted together: a zone, an aisle, a lot, or everything, by one team or by
        many.
        <router-link v-if="can('open-count-sheet')" class="btn" to="/audit/sheets/new">New count sheet</router-link>
      </p>
      <WholeList
        v-if="queue.sheets.data.value?.length"
        name="count-sheets"
        label="Count sheets"
        :columns="columns"
        :rows="queue.sheets.data.value"
        :row-key="(s) => s.id"
      />
      <div v-else class="empty">No count sheet was opened here yet.</div>
    </template>
    <template v-else>
      <h1>New count sheet</h1>
      <EntryForm :problem="problem ?? look.problem.value">
        <DraftNotice :of="draft" :labels="() => 'what is counted'" />
        <div class="fields">
          <FormField label="Counted is" field="scope" required
            ><ChoiceEntry v-model="f.scope" :options="scopes" :width="180"
          /></FormField>
          <FormField v-if="f.scope === 'zone'" label="Zone" field="zone" required
            ><ChoiceEntry
              v-model="f.zone"
              :options="(zones.data.value ?? []).map((z) => ({ value: z.zone, label: `${z.zone}, ${z.name}` }))"
              :width="120"
          /></FormField>
          <template v-if="f.scope === 'stretch'">
            <FormField label="From bin" field="from" required
              ><TextEntry v-model="f.from" mono :width="130"
            /></FormField>
            <FormField label="To bin" field="to" required><TextEntry v-model="f.to" mono :width="130" /></FormField>
          </template>
          <FormField v-if="f.scope === 'bins'" label="Bins, one to a line or with commas" field="bins" required
            ><TextEntry v-model="f.bins" lines mono :width="320"
          /></FormField>
          <FormField v-if="f.scope === 'item' || f.scope === 'lot'" label="Item" field="item_id" required>
            <span v-if="f.item" class="mono">{{ f.sku }} </span>
            <ItemFinder
              label="Item"
              :width="230"
              @choose="
                (x) => {
                  f.item = x.item.id
                  f.sku = x.item.sku
                }
              "
          /></FormField>
          <FormField v-if="f.scope === 'lot'" label="Lot" field="lot" required
            ><TextEntry v-model="f.lot" mono :width="160"
          /></FormField>
          <FormField v-if="f.scope === 'class'" label="Class" field="class" required
            ><ChoiceEntry v-model="f.class" :options="['A', 'B', 'C'].map((c) => ({ value: c, label: c }))" :width="90"
          /></FormField>
          <FormField v-if="f.scope === 'reason'" label="Because" field="reason"
            ><ChoiceEntry v-model="f.reason" :options="why" :width="220"
          /></FormField>
          <FormField
            label="Teams"
            field="teams"
            required
            tip="The bins are cut into a stretch for each, so that all are done at about the same time."
            ><CountEntry v-model="f.teams"
          /></FormField>
        </div>
      </EntryForm>
      <template v-if="look.plan.value">
        <h2>Who counts what</h2>
        <SheetTable label="Teams" :columns="teams" :rows="look.plan.value.teams" :row-key="(t) => t.team" />
      </template>
      <p v-else class="mute">Say what is counted, and by how many teams; what each does stands here then.</p>
    </template>
    <template #after>
      <BeforeAfter
        v-if="props.fresh"
        by="open-count-sheet"
        :plan="plan"
        :problem="problem ?? look.problem.value"
        :done="done"
        :busy="busy"
        :fresh="look.fresh.value"
        idle="What will be on the sheet stands here."
        doing="Open the sheet"
        @go="open"
      />
      <div v-else class="empty">Choose a sheet to see how far it is.</div>
    </template>
  </BenchLayout>
</template>
