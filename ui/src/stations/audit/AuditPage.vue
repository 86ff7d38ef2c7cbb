<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import { instantOf } from '@/parts/clock'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import DateEntry from '@/parts/DateEntry.vue'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import FormField from '@/parts/FormField.vue'
import { usePreview } from '@/parts/preview'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import { codesOf } from '@/parts/serials'
import SheetTable from '@/parts/SheetTable.vue'
import TextEntry from '@/parts/TextEntry.vue'
import TimeEntry from '@/parts/TimeEntry.vue'
import { byLots, byUnits } from '@/parts/tracking'
import AuditQueue from './AuditQueue.vue'
import { countOf, type KindRow, kindWords, rowsOf, useMoved } from './count'
import { useAuditQueue } from './queue'
import TodayCounts from './TodayCounts.vue'

/** Bins that are to be counted, and the count of one: blind, kind by kind. */
const props = defineProps<{ location?: string; item?: string }>()
const router = useRouter()
const route = useRoute()
const queries = useQueryClient()
const location = computed(() => Number(props.location) || 0)
const item = computed(() => Number(props.item) || 0)
/** The count sheet that it is counted for. */
const onSheet = computed(() => Number(route.query.sheet) || undefined)
const back = computed(() => (onSheet.value ? `/audit/sheets/${onSheet.value}` : '/audit'))
const queue = useAuditQueue()
const entry = useQuery({
  queryKey: ['audit', 'entry', location, item],
  queryFn: () =>
    ask(api.GET('/api/v1/counts/entry', { params: { query: { location: location.value, item: item.value } } })),
  enabled: computed(() => location.value > 0 && item.value > 0),
  staleTime: Infinity,
  refetchOnWindowFocus: false,
})
/** What is written down, by the position of the kind, with lots that were found besides, and when it was counted on paper. */
interface Written {
  counted: Record<number, string>
  closed: Record<number, boolean>
  lots: string[]
  paper: boolean
  day: string
  time: string
}
const draft = useDraft<Written>(
  () => `count/${location.value}/${item.value}/${entry.data.value?.since ?? ''}`,
  () => entry.data.value && { counted: {}, closed: {}, lots: [], paper: false, day: '', time: '' },
)
const written = computed(() => draft.mine.value)
const rows = computed(() => rowsOf(entry.data.value, written.value?.lots ?? []))
const bySerial = computed(() => !!entry.data.value && byUnits(entry.data.value))
const byLot = computed(() => !!entry.data.value && byLots(entry.data.value))
const { busy, problem, done, run } = useCommand()
const moved = useMoved(() => entry.data.value)
const isClosed = (i: number) => !!written.value?.closed[i]
const isIn = (i: number) => {
  const n = written.value?.counted[i]
  return isClosed(i) || bySerial.value || (n !== undefined && n !== '')
}
const paperAt = computed(() => (written.value?.paper ? instantOf(written.value.day, written.value.time) : undefined))
const body = computed<Schemas['AuditCount'] | null>(() => {
  const [e, w] = [entry.data.value, written.value]
  if (!e || !w || !rows.value.every((_, i) => isIn(i)) || (w.paper && !paperAt.value)) return null
  return {
    ...countOf(e, rows.value, (i) => {
      if (isClosed(i)) return { closed: true }
      return bySerial.value ? { serials: codesOf(w.counted[i] ?? '') } : { quantity: w.counted[i] }
    }),
    ...moved.said.value,
    sheet: onSheet.value,
    ...(w.paper ? { how: 'paper', at: paperAt.value } : {}),
  }
})
const {
  plan,
  problem: refused,
  fresh,
} = usePreview('count', body, (b) => ask(api.POST('/api/v1/counts/preview', { body: b })))
const said = computed(() => problem.value ?? refused.value)
const asksWhen = computed(() => moved.asks(said.value))
const stale = computed(() => said.value?.code === 'moved_since')

async function confirm() {
  const b = body.value
  if (!b) return
  const d = await run(
    () => once((h) => ask(api.POST('/api/v1/counts', { headers: h, body: b }))),
    (x) => x.words,
  )
  await queries.invalidateQueries({ queryKey: ['audit'] })
  if (!d) return
  draft.discard()
  void router.push(d.verdict === 'decide' && queue.leads.value && !onSheet.value ? `/audit/count/${d.id}` : back.value)
}
const columns = computed<Column<KindRow>[]>(() => [
  { name: 'what', label: 'What' },
  {
    name: 'counted',
    label: bySerial.value ? 'Serials there' : `How many, ${entry.data.value?.unit ?? ''}`,
    right: !bySerial.value,
  },
  ...(rows.value.some((k) => k.carton) ? [{ name: 'closed', label: 'Seen closed', width: 120 }] : []),
])
</script>

<template>
  <BenchLayout waits="To be counted" :waiting="[queue.due, queue.sheets]" :sheet="location ? [entry] : []">
    <template #waiting><AuditQueue :queue="queue" :at="{ location, item, sheet: onSheet }" /></template>

    <template v-if="location && entry.data.value && written">
      <h1>
        Count <span class="mono">{{ entry.data.value.sku }}</span> in
        <router-link class="mono" :to="`/stock/location/${location}`">{{ entry.data.value.bin }}</router-link>
      </h1>
      <p class="mute">
        {{ entry.data.value.description }}. Write down what lies there, without looking up what should.
        <template v-if="bySerial">Scan the serial of each unit.</template>
        <router-link v-if="onSheet" :to="back">Back to the count sheet</router-link>
      </p>
      <DraftNotice :of="draft" :labels="() => 'the count'" />
      <div v-if="stale" class="fields" data-moved>
        <template v-if="asksWhen">
          <a-button @click="moved.countedBefore()">I counted before that</a-button>
          <a-button @click="moved.countedAfter(said!)">I counted after that</a-button>
        </template>
        <a-button @click="entry.refetch()">Begin the count anew</a-button>
      </div>
      <SheetTable :columns="columns" :rows="rows" :row-key="(k) => `${k.lot_id}/${k.carton_id}/${k.lot}/${k.condition}`"
        ><template #what="{ row: k }">{{ kindWords(k) || 'loose' }}</template
        ><template #counted="{ row: k, index: i }">
          <span v-if="written.closed[i]" class="mute">as the label says</span>
          <TextEntry
            v-else-if="bySerial"
            v-model="written.counted[i]"
            lines
            mono
            :width="320"
            :label="`Serials of ${kindWords(k) || 'loose goods'}`" />
          <QuantityEntry
            v-else
            v-model="written.counted[i]"
            :label="`How many of ${kindWords(k) || 'loose goods'}`"
            :field="`kinds[${i}].quantity`"
            data-count /></template
        ><template #closed="{ row: k, index: i }"
          ><a-checkbox
            v-if="k.carton"
            v-model:checked="written.closed[i]"
            :aria-label="`Carton …${k.carton.slice(-4)} was seen closed`" /></template
      ></SheetTable>
      <div v-if="byLot" class="fields">
        <FormField
          v-for="(_, i) in written.lots"
          :key="i"
          label="Another lot that lies there"
          :field="`kinds[${rows.length - written.lots.length + i}].lot`"
          ><TextEntry v-model="written.lots[i]" mono :width="160" :maxlength="40"
        /></FormField>
        <a-button style="align-self: end" @click="written.lots.push('')">Add a lot that lies there</a-button>
      </div>
      <div class="fields" style="margin-top: 12px">
        <a-checkbox v-model:checked="written.paper" data-paper>It was counted on paper, at another time</a-checkbox>
      </div>
      <div v-if="written.paper" class="fields">
        <FormField label="Counted on" field="at" required><DateEntry v-model="written.day" /></FormField>
        <FormField label="At" required><TimeEntry v-model="written.time" /></FormField>
      </div>
    </template>
    <template v-else-if="!location">
      <h1>Counting</h1>
      <p class="mute">
        It is counted blind: nothing of the books is shown before the count is confirmed. One that agrees is settled at
        once; one that differs by much is counted by another person, and a lead settles it.
      </p>
      <TodayCounts v-if="queue.due.data.value" :today="queue.due.data.value" :leads="queue.leads.value" />
    </template>

    <template #after>
      <BeforeAfter
        by="count"
        :plan="plan"
        :problem="said"
        :done="done"
        :busy="busy"
        :fresh="fresh"
        idle="Confirming a count moves nothing. By how much it differs is said afterwards."
        doing="Confirm"
        @go="confirm"
      />
    </template>
  </BenchLayout>
</template>
