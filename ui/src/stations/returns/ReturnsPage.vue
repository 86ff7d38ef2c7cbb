<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { can, session } from '@/api/session'
import BenchLayout from '@/parts/BenchLayout.vue'
import type { Column, Sort } from '@/parts/columns'
import PagedList from '@/parts/PagedList.vue'
import QueryView from '@/parts/QueryView.vue'
import QueueCard from '@/parts/QueueCard.vue'
import { useServerList } from '@/parts/serverList'
import { stateWords } from '@/parts/words'
import ReturnSheet from './ReturnSheet.vue'
import ReturnsTold from './ReturnsTold.vue'
import SupplierCredits from './SupplierCredits.vue'
import { waitsFor } from './returning'

/** What customers send back to this site. */
const props = defineProps<{ id?: string }>()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
type Return = Schemas['ReturnsReturn']

const queue = useQuery({
  queryKey: ['returns', 'open', site],
  queryFn: () =>
    ask(
      api.GET('/api/v1/returns', { params: { query: { site: site.value, open: true, sort: 'send_by', limit: 60 } } }),
    ),
})
const chosen = useQuery({
  queryKey: ['returns', 'one', id],
  queryFn: () => ask(api.GET('/api/v1/returns/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
type By = NonNullable<operations['list-returns']['parameters']['query']>['sort']
const sort = ref<Sort | undefined>({ by: 'number', down: true })
const asked = computed(() => ({ site: site.value }))
const all = useServerList<Return>(
  ['returns', 'all', asked],
  sort,
  (at) => ask(api.GET('/api/v1/returns', { params: { query: { ...asked.value, ...at, sort: at.sort as By } } })),
  100,
  computed(() => !id.value),
)
const figure = (name: string, label: string, of: (r: Return) => string): Column<Return> => ({
  name,
  label,
  of,
  sort: true,
  right: true,
  mono: true,
  width: 84,
})
const columns: Column<Return>[] = [
  {
    name: 'number',
    sort: true,
    label: 'Return',
    of: (r) => r.number,
    to: (r) => `/returns/${r.id}`,
    mono: true,
    width: 84,
  },
  { name: 'customer', sort: true, label: 'Customer', of: (r) => r.customer, width: 170 },
  { name: 'kind', sort: true, label: 'Kind', of: (r) => r.kind, width: 124 },
  { name: 'state', label: 'State', of: (r) => stateWords(r.state), width: 118 },
  { name: 'send_by', sort: true, label: 'Send by', of: (r) => r.send_by, late: (r) => r.late, mono: true, width: 116 },
  figure('expected', 'Expected', (r) => r.expected),
  figure('received', 'Received', (r) => r.received),
  figure('decided', 'Decided', (r) => r.decided),
  {
    name: 'gave',
    label: 'Customer got',
    of: (r) => r.credit || r.replacement,
    to: (r) => (r.credit || r.replacement ? `/go/${r.credit || r.replacement}` : undefined),
    mono: true,
    width: 110,
  },
]
const kept = (r: Return) => Number(r.kept) > 0
const share = (r: Return) => (kept(r) ? 1 : Number(r.expected) ? Number(r.decided) / Number(r.expected) : 0)
</script>

<template>
  <BenchLayout waits="Open returns" :waiting="[queue]" :sheet="id ? [chosen] : []">
    <template #waiting>
      <h2>
        <span>Returns</span
        ><span v-if="can('announce-return')"
          ><template v-if="can('announce-return-without-paper')"
            ><router-link to="/returns/without-paper">without paper</router-link> · </template
          ><router-link to="/returns/new">New return</router-link></span
        >
      </h2>
      <QueueCard
        v-for="r in queue.data.value?.rows"
        :key="r.id"
        :to="`/returns/${r.id}`"
        :selected="r.id === id"
        :share="share(r)"
      >
        <span class="mono">{{ r.number }}</span><span :class="{ late: r.late }">{{
          r.late ? `due ${r.send_by}` : waitsFor(r)
        }}</span>
        <template #more
          ><span>{{ r.customer }}</span
          ><span v-if="kept(r)"
            ><span class="mono">{{ r.kept }}</span> kept</span
          ><span v-else class="mono">{{ r.received }} of {{ r.expected }}</span></template
        >
      </QueueCard>
      <div v-if="queue.data.value?.rows.length === 0" class="empty">
        No return is open. Announce one from what was shipped.
      </div>
      <router-link v-if="(queue.data.value?.total ?? 0) > 60" to="/returns" class="small"
        >{{ queue.data.value!.total! - 60 }} more in the list</router-link
      >
    </template>
    <ReturnSheet v-if="id && chosen.data.value" :key="id" :of="chosen.data.value" @changed="chosen.refetch()" />
    <template v-else-if="!id">
      <h1>Returns</h1>
      <p class="mute">
        Goods that customers send back. They come in at the returns corner, and are not free until somebody decides on
        them.
      </p>
      <QueryView :query="all.query">
        <div v-if="!all.total.value" class="empty">No return was announced yet.</div>
        <PagedList
          v-else
          v-model:sort="sort"
          data-returns
          name="returns"
          label="Returns"
          :columns="columns"
          :list="all"
          :file="`/api/v1/returns/export?site=${site}`"
          :row-key="(r) => r.id"
          :to="(r) => `/returns/${r.id}`"
          style="--list-height: 36vh"
        />
      </QueryView>
      <SupplierCredits v-if="can('list-supplier-credits')" />
      <ReturnsTold v-if="all.total.value" />
    </template>
  </BenchLayout>
</template>
