<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { seesMoney } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import { usePreview } from '@/parts/preview'
import SheetTable from '@/parts/SheetTable.vue'
import { useSure } from '@/parts/sure'
import TextEntry from '@/parts/TextEntry.vue'
import { money, stateWords, when } from '@/parts/words'
import AuditQueue from './AuditQueue.vue'
import { countStates, useAuditQueue } from './queue'

/**
 * A count as it was made, with those that others made of the same, and what moved since: a lead settles one that
 * differs and says why, has it counted anew, or takes a settled one back.
 */
const props = defineProps<{ count: string }>()
const router = useRouter()
const queries = useQueryClient()
const queue = useAuditQueue()
const id = computed(() => Number(props.count))
const file = useQuery({
  queryKey: ['audit', 'count', id],
  queryFn: () => ask(api.GET('/api/v1/counts/{id}', { params: { path: { id: id.value } } })),
})
const shown = computed(() => file.data.value)
const waits = computed(() => shown.value?.state === 'counted')
const open = computed(() => waits.value || shown.value?.state === 'recount')
const takesBack = computed(() => shown.value?.state === 'settled' && Number(shown.value.off) > 0)
const { busy, problem, done, run } = useCommand()
const path = computed(() => ({ path: { id: id.value } }))
const draft = useDraft<{ reason: string }>(
  () => `count-decision/${id.value}/${shown.value?.state ?? ''}`,
  () => shown.value && { reason: '' },
)
const { sure, yes } = useSure(() => id.value)
const body = computed(() => ({
  reason: draft.mine.value?.reason ?? '',
  sure: sure.value.length ? sure.value : undefined,
}))
const doing = computed(() => (waits.value ? 'settle-count' : takesBack.value ? 'take-back-count' : null))
const {
  plan,
  problem: refused,
  fresh,
} = usePreview(
  'decide-count',
  computed(() => (doing.value ? { id: id.value, does: doing.value, sure: body.value.sure } : null)),
  (b) =>
    b.does === 'settle-count'
      ? ask(
          api.POST('/api/v1/counts/{id}/settle/preview', {
            params: { path: { id: b.id } },
            body: { reason: '', sure: b.sure },
          }),
        )
      : ask(api.POST('/api/v1/counts/{id}/take-back/preview', { params: { path: { id: b.id } } })),
)
const said = computed(() => problem.value ?? refused.value)
async function decide(how: 'settle' | 'again' | 'take-back') {
  const made = await run(
    () =>
      once((h) => {
        const to = { headers: h, params: path.value }
        if (how === 'settle') return ask(api.POST('/api/v1/counts/{id}/settle', { ...to, body: body.value }))
        if (how === 'again') return ask(api.POST('/api/v1/counts/{id}/again', to))
        return ask(api.POST('/api/v1/counts/{id}/take-back', { ...to, body: { reason: body.value.reason } }))
      }),
    (x) => x.words,
  )
  if (!made) return
  draft.discard()
  await queries.invalidateQueries({ queryKey: ['audit'] })
  if (how !== 'take-back') void router.push('/audit')
}
const sayYes = (code: string) => {
  problem.value = undefined
  yes(code)
}
const wrong = computed(() => (problem.value?.field === 'reason' ? problem.value.message : ''))
type Past = Schemas['AuditPastCount']
const chain: Column<Past>[] = [
  {
    name: 'number',
    label: 'Count',
    of: (c) => c.number,
    to: (c) => (c.id === id.value ? undefined : `/audit/count/${c.id}`),
    mono: true,
  },
  { name: 'by', label: 'By', of: (c) => c.counted_by },
  { name: 'at', label: 'Stands for', of: (c) => when(c.stands_at), mono: true },
  { name: 'found', label: 'Found', of: (c) => c.found, right: true, mono: true },
  { name: 'expected', label: 'Expected then', of: (c) => c.expected, right: true, mono: true },
  { name: 'off', label: 'Difference', of: (c) => c.variance, right: true, mono: true, late: (c) => Number(c.off) > 0 },
  { name: 'state', label: 'Now', of: (c) => countStates[c.state] },
]
type Moved = Schemas['AuditMoved']
const since: Column<Moved>[] = [
  { name: 'at', label: 'When', of: (m) => when(m.at), mono: true },
  { name: 'who', label: 'Who', of: (m) => m.person },
  { name: 'kind', label: 'Move', of: (m) => stateWords(m.kind) },
  { name: 'document', label: 'Document', of: (m) => m.document, mono: true },
  {
    name: 'delta',
    label: 'In the bin',
    of: (m) => (m.delta.startsWith('-') ? m.delta : `+${m.delta}`),
    right: true,
    mono: true,
  },
]
const places = { desk: 'at the desk', hand: 'in the hand', paper: 'on paper', round: 'by a look on a round' }
</script>

<template>
  <BenchLayout waits="To be counted" :waiting="[queue.due]" :sheet="[file]">
    <template #waiting><AuditQueue :queue="queue" :at="{ count: id }" /></template>
    <template v-if="shown">
      <h1>
        Count <span class="mono">{{ shown.number }}</span> {{ open ? 'differs' : `is ${stateWords(shown.state)}` }}
        <span class="mute small"
          >{{ shown.sku }} in
          <router-link class="mono" :to="`/stock/location/${shown.location_id}`">{{ shown.bin }}</router-link></span
        >
      </h1>
      <p class="mute">
        {{ shown.description }}, counted by {{ shown.counted_by }} {{ places[shown.how] }} {{ when(shown.counted_at)
        }}<template v-if="shown.sheet"> for {{ shown.sheet }}</template
        >.
        <template v-if="Number(shown.off)"
          >It is {{ shown.passes ? 'within' : 'beyond' }} what an item of its class may differ by.</template
        >
      </p>
      <p v-if="shown.decided_by">
        {{ shown.decided_by }} decided {{ when(shown.decided_at!)
        }}<template v-if="shown.reason">: “{{ shown.reason }}”</template>.
      </p>
      <p v-if="shown.taken_back_by">
        {{ shown.taken_back_by }} took it back {{ when(shown.taken_back_at!) }}: “{{ shown.taken_back_why }}”.
      </p>
      <dl class="figures">
        <div>
          <dt>Counted, {{ shown.unit }}</dt>
          <dd class="mono">{{ shown.found }}</dd>
        </div>
        <div>
          <dt>Expected then</dt>
          <dd class="mono">{{ shown.expected }}</dd>
        </div>
        <div>
          <dt>Difference</dt>
          <dd class="mono" :class="{ late: Number(shown.off) }">{{ shown.variance }}</dd>
        </div>
        <div v-if="seesMoney()">
          <dt>Value</dt>
          <dd class="mono" :class="{ late: Number(shown.off) }">{{ money(shown.value) }}</dd>
        </div>
      </dl>
      <p v-if="shown.state === 'recount'" class="note w">
        It is on today's list for somebody who has not counted it. Until then nothing is settled.
      </p>
      <template v-if="shown.counts.length > 1">
        <h2>Who counted it</h2>
        <SheetTable label="Counts of the same" :columns="chain" :rows="shown.counts" :row-key="(c) => c.id" />
      </template>
      <template v-if="shown.moved.length">
        <h2>Moved since</h2>
        <p class="mute small">The count stands for its moment: what moved since is left as it is.</p>
        <SheetTable label="Moved since" :columns="since" :rows="shown.moved" :row-key="(m) => m.at + m.document" />
      </template>
      <EntryForm v-if="draft.mine.value && doing" :problem="said" @sure="sayYes">
        <DraftNotice :of="draft" :labels="() => 'the reason'" />
        <FormField
          :label="waits ? 'Reason for settling' : 'Reason for taking it back'"
          required
          :wrong="wrong"
          style="margin-top: 12px"
          ><TextEntry v-model="draft.mine.value.reason" :maxlength="200" data-reason :width="386"
        /></FormField>
      </EntryForm>
      <div class="fields" style="margin-top: 12px">
        <a-button v-if="open" :disabled="busy" @click="decide('again')">Have it counted anew</a-button>
        <router-link class="btn" :to="`/stock/item/${shown.item_id}`">Trail of {{ shown.sku }}</router-link>
      </div>
    </template>
    <template #after>
      <BeforeAfter
        v-if="doing"
        :by="doing"
        :plan="plan"
        :problem="said"
        :done="done"
        :busy="busy"
        :fresh="fresh"
        idle="What it changes stands here."
        :doing="waits ? 'Settle' : 'Take it back'"
        @go="decide(waits ? 'settle' : 'take-back')"
      />
      <div v-else class="empty">{{ done || 'Nothing is left to decide on this count.' }}</div>
    </template>
  </BenchLayout>
</template>

<style scoped>
.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin: 0;
}
.figures div {
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 8px 14px;
}
.figures dt {
  font-size: 13px;
  color: var(--mute);
}
.figures dd {
  margin: 0;
  font-size: 20px;
}
</style>
