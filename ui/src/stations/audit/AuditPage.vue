<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import { usePreview } from '@/parts/preview'
import { codesOf } from '@/parts/serials'
import AuditQueue from './AuditQueue.vue'
import { countOf } from './count'
import TodayCounts from './TodayCounts.vue'
import { useAuditQueue } from './queue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import TextEntry from '@/parts/TextEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'

/** Bins that are to be counted, and the count of one: blind, kind by kind. */
const props = defineProps<{ location?: string; item?: string }>()
const router = useRouter()
const queries = useQueryClient()
const location = computed(() => Number(props.location) || 0)
const item = computed(() => Number(props.item) || 0)
const { due, differing, leads } = useAuditQueue()
const sheet = useQuery({
  queryKey: ['audit', 'sheet', location, item],
  queryFn: () =>
    ask(api.GET('/api/v1/counts/sheet', { params: { query: { location: location.value, item: item.value } } })),
  enabled: computed(() => location.value > 0 && item.value > 0),
  staleTime: Infinity,
  refetchOnWindowFocus: false,
})
/** What is written down, by the position of the kind in the sheet: for as long as nothing moves there. */
const draft = useDraft<{ counted: Record<number, string> }>(
  () => `count/${location.value}/${item.value}/${sheet.data.value?.since ?? ''}`,
  () => sheet.data.value && { counted: {} },
)
const counted = computed(() => draft.mine.value?.counted ?? {})
const bySerial = computed(() => sheet.data.value?.tracking === 'serial')
const { busy, problem, done, run } = useCommand()
const body = computed<Schemas['AuditCount'] | null>(() => {
  const s = sheet.data.value
  if (!s || s.kinds.some((_, i) => counted.value[i] === undefined || (!bySerial.value && counted.value[i] === '')))
    return null
  return countOf(s, (i) => (bySerial.value ? { serials: codesOf(counted.value[i]!) } : { quantity: counted.value[i]! }))
})
const {
  plan,
  problem: refused,
  fresh,
} = usePreview('count', body, (b) => ask(api.POST('/api/v1/counts/preview', { body: b })))
const stale = computed(() => refused.value?.code === 'moved_since')

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
  void router.push(d.differs && leads.value ? `/audit/differs/${d.id}` : '/audit')
}
const columns = computed<Column<Schemas['AuditKind']>[]>(() => [
  { name: 'what', label: 'What' },
  {
    name: 'counted',
    label: bySerial.value ? 'Serials there' : `How many, ${sheet.data.value?.unit ?? ''}`,
    right: !bySerial.value,
  },
])
</script>

<template>
  <BenchLayout waits="To be counted" :waiting="[due]" :sheet="location ? [sheet] : []">
    <template #waiting>
      <AuditQueue :due="due" :differing="differing" :at="{ location, item }" />
    </template>

    <template v-if="location && sheet.data.value">
      <h1>
        Count <span class="mono">{{ sheet.data.value.sku }}</span> in
        <router-link class="mono" :to="`/stock/location/${location}`">{{ sheet.data.value.bin }}</router-link>
      </h1>
      <p class="mute">
        {{ sheet.data.value.description }}. Write down what lies there, without looking up what should.
        <template v-if="bySerial">Scan the serial of each unit.</template>
      </p>
      <DraftNotice :of="draft" :labels="() => 'the count'" />
      <div v-if="stale" class="note w">
        <a-button @click="sheet.refetch()">Begin the count anew</a-button>
      </div>
      <SheetTable :columns="columns" :rows="sheet.data.value.kinds ?? []" :row-key="(k) => `${k.lot_id}/${k.carton_id}`"
        ><template #what="{ row: k }"
          ><span v-if="k.lot"
            >lot <span class="mono">{{ k.lot }}</span></span
          ><span v-else>{{ k.carton ? '' : 'loose' }}</span>
          <span v-if="k.carton"
            >on pallet or in carton <span class="mono">…{{ k.carton.slice(-4) }}</span></span
          ></template
        ><template #counted="{ row: k, index: i }">
          <TextEntry
            v-if="bySerial"
            v-model="counted[i]"
            type="textarea"
            mono
            :width="320"
            :label="`Serials of ${k.lot || 'loose goods'}`" />
          <QuantityEntry
            v-else
            v-model="counted[i]"
            :label="`How many of ${k.lot || k.carton || 'loose goods'}`"
            data-count /></template
      ></SheetTable>
    </template>
    <template v-else>
      <h1>Counting</h1>
      <p class="mute">
        It is counted blind: nothing of the books is shown before the count is confirmed. One that agrees is settled at
        once; one that differs waits for a lead, who settles it or has it counted again. What is reserved for an order
        cannot be counted away.
      </p>
      <TodayCounts v-if="due.data.value" :today="due.data.value" />
    </template>

    <template #after>
      <BeforeAfter
        by="count"
        :plan="plan"
        :problem="problem ?? refused"
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
