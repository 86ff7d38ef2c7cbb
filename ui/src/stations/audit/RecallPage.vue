<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask } from '@/api/client'
import { session } from '@/api/session'
import BenchLayout from '@/parts/BenchLayout.vue'
import FindEntry from '@/parts/FindEntry.vue'
import QueryView from '@/parts/QueryView.vue'
import QueueCard from '@/parts/QueueCard.vue'
import { when } from '@/parts/words'
import RecallSteps from './RecallSteps.vue'
import { type Source, tracePath } from './trace'
import TraceStrip from './TraceStrip.vue'
import TraceTables from './TraceTables.vue'

/** Goods followed from where they came in to where each of them is, and held at one press. */
const props = defineProps<{ source?: string; id?: string }>()
const router = useRouter()
const queries = useQueryClient()
const source = computed(() => (props.source || 'lot') as Source)
const id = computed(() => Number(props.id) || 0)
const recalls = useQuery({ queryKey: ['recall', 'all'], queryFn: () => ask(api.GET('/api/v1/recalls')) })
const trace = useQuery({
  queryKey: ['recall', 'trace', source, id],
  queryFn: () =>
    ask(api.GET('/api/v1/traces/{source}/{id}', { params: { path: { source: source.value, id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
const changed = () => queries.invalidateQueries({ queryKey: ['recall'] })
/** What a recall can begin from, by its number or a part of it. */
const begins: Record<string, Source> = { lot: 'lot', serial: 'serial', arrival: 'arrival', purchase: 'order' }
const find = async (text: string, signal: AbortSignal) => {
  if (!text.trim()) return []
  const read = await ask(api.GET('/api/v1/scan', { params: { query: { text, site: session.site } }, signal }))
  return read.found
    .filter((f) => f.kind in begins)
    .map((f) => ({ value: f.id, label: `${f.code}, ${f.label}`, code: [f.code], of: f }))
}
const file = (what: string) => `/api/v1/traces/${source.value}/${id.value}/${what}`
</script>

<template>
  <BenchLayout waits="Recalls" :waiting="[recalls]" :sheet="id ? [trace] : []">
    <template #waiting>
      <h2>
        <span>Recalls</span><span><router-link to="/audit">counting</router-link></span>
      </h2>
      <FindEntry
        label="Follow"
        placeholder="Lot, serial, arrival, order"
        :find="find"
        clears
        @choose="(o) => router.push(tracePath(begins[o.of.kind]!, o.of.id))"
      />
      <div class="all">
        <QueueCard
          v-for="r in recalls.data.value"
          :key="r.id"
          :to="tracePath('recall', r.id)"
          :selected="source === 'recall' && r.id === id"
        >
          <span class="mono">{{ r.number }}</span><span :class="{ late: r.held }">{{
            r.held ? `${r.held} held` : r.ended_at ? 'ended' : r.drill ? 'drill' : 'open'
          }}</span>
          <template #more
            ><span>{{ r.source }}</span
            ><span class="nb">{{ r.ended_at ? `${r.minutes} min` : when(r.begun_at) }}</span></template
          >
        </QueueCard>
        <div v-if="recalls.data.value?.length === 0" class="empty">Nothing was called back yet.</div>
      </div>
    </template>
    <QueryView v-if="id" :query="trace">
      <template #default="{ data }">
        <h1>What became of {{ data.from }}</h1>
        <p v-if="data.goods.length === 1" class="mute">
          {{ data.goods[0]!.sku }}, {{ data.goods[0]!.item
          }}<template v-if="data.goods[0]!.expires_on">, expires {{ data.goods[0]!.expires_on }}</template
          ><template v-if="data.goods[0]!.supplier_lot"
            >, its supplier's lot <span class="mono">{{ data.goods[0]!.supplier_lot }}</span></template
          >
        </p>
        <p v-else-if="data.goods.some((g) => g.supplier_lot)" class="mute">
          By their suppliers' numbers:
          {{
            data.goods
              .filter((g) => g.supplier_lot)
              .map((g) => `${g.lot} is ${g.supplier_lot}`)
              .join(', ')
          }}.
        </p>
        <TraceStrip v-if="data.goods.length" :goods="data.goods" />
        <p :class="['note', data.whole ? 'g' : 's']" data-whole>
          {{
            data.whole
              ? 'The numbers add up, to the unit.'
              : 'The numbers do not add up: each row below says by how much.'
          }}
        </p>
        <RecallSteps :of="data" @changed="changed" />
        <div class="papers">
          <a class="btn" :href="file('paper.pdf')" target="_blank" rel="noopener">Print it</a>
          <a class="btn" :href="file('export?format=csv')">CSV</a>
          <a class="btn" :href="file('export?format=xlsx')">XLSX</a>
          <a class="btn" :href="file('events')" title="Every move as an event, for trading partners">EPCIS</a>
        </div>
        <TraceTables :of="data" />
      </template>
    </QueryView>
    <template v-else>
      <h1>Recall</h1>
      <p class="empty">
        Find a lot, a serial, an arrival or a purchase order on the left, or scan it. Its page says where it came from,
        where every unit of it is now, who got the rest and what became of that, in numbers that add up. One press holds
        all that is left at every site: whoever has it on a round, at a bench or on a vehicle is stopped, and reads why.
      </p>
    </template>
  </BenchLayout>
</template>

<style scoped>
.papers {
  display: flex;
  gap: 8px;
  margin: 14px 0;
}
.all {
  margin-top: 12px;
}
</style>
