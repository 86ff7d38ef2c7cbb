<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once } from '@/api/client'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import FormField from '@/parts/FormField.vue'
import { usePreview } from '@/parts/preview'
import TextEntry from '@/parts/TextEntry.vue'
import { money, when } from '@/parts/words'
import AuditQueue from './AuditQueue.vue'
import { useAuditQueue } from './queue'

/** A count that differs from the books: a lead settles it and says why, or has it counted again. */
const props = defineProps<{ count: string }>()
const router = useRouter()
const queries = useQueryClient()
const { due, differing } = useAuditQueue()
const id = computed(() => Number(props.count))
const shown = computed(() => differing.data.value?.find((c) => c.id === id.value))
const { busy, problem, done, run } = useCommand()
const path = computed(() => ({ path: { id: id.value } }))
const draft = useDraft<{ reason: string }>(
  () => `count-decision/${id.value}`,
  () => shown.value && { reason: '' },
)
const {
  plan,
  problem: refused,
  fresh,
} = usePreview(
  'settle-count',
  computed(() => (shown.value ? { id: shown.value.id } : null)),
  (b) => ask(api.POST('/api/v1/counts/{id}/settle/preview', { params: { path: b } })),
)
async function decide(how: 'settle' | 'again') {
  const reason = draft.mine.value?.reason ?? ''
  const made = await run(
    () =>
      once((h) =>
        ask(
          how === 'settle'
            ? api.POST('/api/v1/counts/{id}/settle', { headers: h, params: path.value, body: { reason } })
            : api.POST('/api/v1/counts/{id}/again', { headers: h, params: path.value }),
        ),
      ),
    (x) => x.words,
  )
  if (!made) return
  draft.discard()
  await queries.invalidateQueries({ queryKey: ['audit'] })
  void router.push('/audit')
}
const wrong = computed(() => (problem.value?.field === 'reason' ? problem.value.message : ''))
</script>

<template>
  <BenchLayout waits="To be counted" :waiting="[due]" :sheet="[differing]">
    <template #waiting><AuditQueue :due="due" :differing="differing" :at="{ count: id }" /></template>
    <template v-if="shown">
      <h1>
        Count <span class="mono">{{ shown.number }}</span> differs
        <span class="mute small"
          >{{ shown.sku }} in
          <router-link class="mono" :to="`/stock/location/${shown.location_id}`">{{ shown.bin }}</router-link></span
        >
      </h1>
      <p class="mute">{{ shown.description }}, counted by {{ shown.counted_by }} {{ when(shown.counted_at) }}.</p>
      <dl class="figures">
        <div>
          <dt>Counted, {{ shown.unit }}</dt>
          <dd class="mono">{{ shown.found }}</dd>
        </div>
        <div>
          <dt>Expected</dt>
          <dd class="mono">{{ shown.expected }}</dd>
        </div>
        <div>
          <dt>Difference</dt>
          <dd class="mono late">{{ shown.variance }}</dd>
        </div>
        <div>
          <dt>Value</dt>
          <dd class="mono late">{{ money(shown.value) }}</dd>
        </div>
      </dl>
      <DraftNotice :of="draft" :labels="() => 'the reason'" />
      <FormField v-if="draft.mine.value" label="Reason for settling" required :wrong="wrong" style="margin-top: 12px"
        ><TextEntry v-model="draft.mine.value.reason" :maxlength="200" data-reason :width="386"
      /></FormField>
      <div class="fields" style="margin-top: 12px">
        <a-button :disabled="busy" @click="decide('again')">Have it counted again</a-button>
        <router-link class="btn" :to="`/stock/item/${shown.item_id}`">Trail of {{ shown.sku }}</router-link>
      </div>
    </template>
    <div v-else class="empty">This count is settled, or was withdrawn.</div>
    <template #after>
      <BeforeAfter
        by="settle-count"
        :plan="plan"
        :problem="problem ?? refused"
        :done="done"
        :busy="busy"
        :fresh="fresh"
        idle="What settling it changes stands here."
        doing="Settle"
        @go="decide('settle')"
      />
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
