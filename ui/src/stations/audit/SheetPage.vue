<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import BenchLayout from '@/parts/BenchLayout.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import CommandNotice from '@/parts/CommandNotice.vue'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import FloorMap from '@/parts/FloorMap.vue'
import FormField from '@/parts/FormField.vue'
import SheetTable from '@/parts/SheetTable.vue'
import WholeList from '@/parts/WholeList.vue'
import { plural, stateWords, when } from '@/parts/words'
import AuditQueue from './AuditQueue.vue'
import { barredHere, useAuditQueue } from './queue'

/** A count sheet: how far it is, zone by zone on the plan and team by team, and what is left. */
const props = defineProps<{ id: string }>()
const router = useRouter()
const queries = useQueryClient()
const queue = useAuditQueue()
const id = computed(() => Number(props.id))
const sheet = useQuery({
  queryKey: ['audit', 'sheet', id],
  queryFn: () => ask(api.GET('/api/v1/count-sheets/{id}', { params: { path: { id: id.value } } })),
})
const site = computed(() => session.site)
const floor = useQuery({
  queryKey: ['floor', site],
  queryFn: () => ask(api.GET('/api/v1/floor', { params: { query: { site: site.value } } })),
})
const s = computed(() => sheet.data.value)
/** What is left, or all of it; of a team, or of all. */
const which = ref<'open' | 'all'>('open')
const team = ref(0)
type Row = Schemas['AuditSheetRow']
const rows = computed(() =>
  (s.value?.rows ?? []).filter(
    (r) => (which.value === 'all' || r.state === 'open') && (!team.value || r.team === team.value),
  ),
)
const command = useCommand()
const { busy, run } = command
async function close() {
  await run(
    () =>
      once((h) => ask(api.POST('/api/v1/count-sheets/{id}/close', { headers: h, params: { path: { id: id.value } } }))),
    (x) => `${x.number} is closed.`,
  )
  await queries.invalidateQueries({ queryKey: ['audit'] })
}
async function nothingElse(r: Row) {
  await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/count-sheets/{id}/nothing-else', {
            headers: h,
            params: { path: { id: id.value } },
            body: { location_id: r.location_id },
          }),
        ),
      ),
    (x) => x.words,
  )
  await queries.invalidateQueries({ queryKey: ['audit'] })
}
const done = computed(() => new Map((s.value?.bins ?? []).map((b) => [b.id, b.counted / b.lines])))
const shade = (bin: { id: number }) => {
  const share = done.value.get(bin.id)
  if (share === undefined) return { step: -1, says: 'not on this sheet' }
  if (share === 1) return { step: 4, says: 'counted' }
  return share > 0 ? { step: 2, says: 'begun' } : { step: 0, says: 'left' }
}
const left = computed(() => (s.value ? s.value.lines - s.value.counted : 0))
const open = computed(() => s.value?.state === 'open')
const entryPath = (r: Row) => `/audit/${r.location_id}/${r.item_id}?sheet=${id.value}`
const columns: Column<Row>[] = [
  { name: 'bin', label: 'Bin', of: (r) => r.bin, mono: true, width: 110 },
  {
    name: 'item',
    label: 'Item',
    of: (r) => r.sku || 'anything else there',
    to: (r) => (r.item_id && r.state === 'open' && open.value && !barredHere(r) ? entryPath(r) : undefined),
    mono: true,
    width: 130,
  },
  { name: 'description', label: 'Description', of: (r) => r.description },
  { name: 'team', label: 'Team', of: (r) => r.team, right: true, mono: true, width: 70 },
  { name: 'state', label: 'Now', of: (r) => (r.again ? 'by another person' : stateWords(r.state)), width: 140 },
  { name: 'by', label: 'Counted', of: (r) => (r.done_at ? `${when(r.done_at)} by ${r.done_by}` : ''), width: 190 },
  { name: 'does', label: '', width: 120 },
]
type Progress = Schemas['AuditSheetProgress']
const progress = (of: string): Column<Progress>[] => [
  { name: 'name', label: of, of: (p) => p.name.trim() || 'no zone' },
  { name: 'counted', label: 'Counted', of: (p) => `${p.counted} of ${p.lines}`, right: true, mono: true },
  { name: 'left', label: 'Left', of: (p) => p.lines - p.counted, right: true, mono: true },
]
const teams = computed(() => [
  { value: 0, label: 'all teams' },
  ...Array.from({ length: s.value?.teams ?? 0 }, (_, i) => ({ value: i + 1, label: `team ${i + 1}` })),
])
const paper = (n: number) => `/api/v1/count-sheets/${id.value}/sheet.pdf${n ? `?team=${n}` : ''}`
</script>

<template>
  <BenchLayout waits="To be counted" :waiting="[queue.due, queue.sheets]" :sheet="[sheet]">
    <template #waiting><AuditQueue :queue="queue" :at="{ sheet: id }" /></template>
    <template v-if="s">
      <h1>
        Count sheet <span class="mono">{{ s.number }}</span> <span class="mute small">{{ s.described }}</span>
      </h1>
      <p data-progress>
        <b class="mono">{{ s.counted }}</b> of <b class="mono">{{ s.lines }}</b> lines are counted<template
          v-if="s.differ"
          >, <b class="late mono">{{ s.differ }}</b> differ</template
        >. Opened {{ when(s.made_at) }} by {{ s.made_by
        }}<template v-if="s.ended_at">, {{ s.state }} {{ when(s.ended_at) }} by {{ s.ended_by }}</template
        >.
      </p>
      <CommandNotice :of="command" />
      <FloorMap
        v-if="floor.data.value"
        :plan="floor.data.value"
        :shade="shade"
        @open="(bin) => router.push(`/stock/location/${bin}`)"
      />
      <p class="mute small legend">
        <span class="k" style="background: var(--full0)" /> left
        <span class="k" style="background: var(--full2)" /> begun
        <span class="k" style="background: var(--full4)" /> counted; faint: not on this sheet
      </p>
      <div class="fields">
        <FormField label="Lines"
          ><ChoiceEntry
            v-model="which"
            :options="[
              { value: 'open', label: 'what is left' },
              { value: 'all', label: 'all' },
            ]"
            :width="130"
        /></FormField>
        <FormField v-if="s.teams > 1" label="Team"
          ><ChoiceEntry v-model="team" :options="teams" :width="120"
        /></FormField>
        <a class="btn" :href="paper(team)" target="_blank" rel="noopener">Print what is left</a>
        <router-link v-if="open" class="btn" :to="`/hand/count/${s.id}`">Count it in the hand</router-link>
      </div>
      <WholeList
        v-if="rows.length"
        data-lines
        name="count-sheet"
        label="Lines of the sheet"
        :columns="columns"
        :rows="rows"
        :row-key="(r) => r.id"
        ><template #does="{ row: r }"
          ><a-button
            v-if="!r.item_id && r.state === 'open' && open && can('nothing-else-in-bin')"
            type="link"
            size="small"
            :disabled="busy"
            @click="nothingElse(r)"
            >Nothing else</a-button
          ></template
        ></WholeList
      >
      <div v-else class="empty">Nothing of it is left to count.</div>
    </template>
    <template #after>
      <template v-if="s">
        <h2><span>How far it is</span></h2>
        <SheetTable label="By zone" :columns="progress('Zone')" :rows="s.areas" :row-key="(p) => p.name" />
        <SheetTable
          v-if="s.teams > 1"
          style="margin: 12px 0"
          label="By team"
          :columns="progress('Team')"
          :rows="s.by_team"
          :row-key="(p) => p.name"
        />
        <p v-if="open && can('close-count-sheet')">
          <ConfirmButton
            label="Close the sheet"
            :title="`Close ${s.number}?`"
            :happens="
              left ? `${plural(left, 'line')} stay uncounted. What is counted stands.` : 'All of it is counted already.'
            "
            :does="`Close ${s.number}`"
            :busy="busy"
            @confirm="close"
          />
        </p>
      </template>
    </template>
  </BenchLayout>
</template>

<style scoped>
.legend .k {
  display: inline-block;
  width: 14px;
  height: 10px;
  border: 1px solid var(--bin-edge);
  margin: 0 4px 0 10px;
}
</style>
