<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { session } from '@/api/session'
import type { Column, Sort } from '@/parts/columns'
import FormField from '@/parts/FormField.vue'
import PagedList from '@/parts/PagedList.vue'
import QueryView from '@/parts/QueryView.vue'
import { useServerList } from '@/parts/serverList'
import TextEntry from '@/parts/TextEntry.vue'
import { money, when } from '@/parts/words'
import { countStates } from './queue'

/** Counts that wait for nobody any more: each opens to those of the same, and is taken back from there. */
type Past = Schemas['AuditPastCount']
type By = NonNullable<operations['list-counts']['parameters']['query']>['sort']
const site = computed(() => session.site)
const words = ref('')
const rested = refDebounced(words, 250)
const sort = ref<Sort | undefined>({ by: 'at', down: true })
const list = useServerList<Past>(['audit', 'counts', site, rested], sort, (at) =>
  ask(
    api.GET('/api/v1/counts', { params: { query: { site: site.value, q: rested.value, ...at, sort: at.sort as By } } }),
  ),
)
const file = computed(
  () => `/api/v1/counts/export?${new URLSearchParams({ site: String(site.value), q: rested.value })}`,
)
const columns: Column<Past>[] = [
  {
    name: 'number',
    sort: true,
    label: 'Count',
    of: (c) => c.number,
    to: (c) => `/audit/count/${c.id}`,
    mono: true,
    width: 90,
  },
  { name: 'at', sort: true, label: 'Counted', of: (c) => when(c.counted_at), mono: true, width: 150 },
  { name: 'by', sort: true, label: 'By', of: (c) => c.counted_by, width: 130 },
  {
    name: 'bin',
    sort: true,
    label: 'Bin',
    of: (c) => c.bin,
    to: (c) => `/stock/location/${c.location_id}`,
    mono: true,
    width: 110,
  },
  { name: 'sku', sort: true, label: 'Item', of: (c) => c.sku, mono: true, width: 110 },
  { name: 'found', label: 'Found', of: (c) => c.found, right: true, mono: true, width: 80 },
  { name: 'expected', label: 'Expected', of: (c) => c.expected, right: true, mono: true, width: 90 },
  {
    name: 'off',
    sort: true,
    label: 'Off by',
    of: (c) => c.off,
    right: true,
    mono: true,
    width: 80,
    late: (c) => Number(c.off) > 0,
  },
  {
    name: 'value',
    money: true,
    sort: true,
    label: 'Value',
    of: (c) => money(c.value),
    right: true,
    mono: true,
    width: 100,
  },
  { name: 'sheet', label: 'Sheet', of: (c) => c.sheet, mono: true, width: 90 },
  { name: 'state', sort: true, label: 'Now', of: (c) => countStates[c.state], width: 150 },
  { name: 'reason', label: 'Reason', of: (c) => c.reason, width: 200 },
]
</script>

<template>
  <div class="page">
    <h1>Past counts</h1>
    <p class="mute">
      What was found against what should have been there at that moment. A settled count is taken back from its own
      page.
      <router-link to="/audit">To the list of today</router-link>
    </p>
    <div class="fields">
      <FormField label="Narrow by bin, item, person, sheet or reason"
        ><TextEntry v-model="words" :width="296"
      /></FormField>
    </div>
    <QueryView :query="list.query" :empty="() => !list.rows.value.length">
      <PagedList
        v-model:sort="sort"
        data-counts
        name="counts"
        label="Past counts"
        style="--list-height: 64vh"
        :columns="columns"
        :list="list"
        :file="file"
        :row-key="(c) => c.id"
        :to="(c) => `/audit/count/${c.id}`"
      />
      <template #empty>{{
        rested ? `No count has “${rested}” in its bin, item, person, sheet or reason.` : 'Nothing was counted here yet.'
      }}</template>
    </QueryView>
  </div>
</template>
