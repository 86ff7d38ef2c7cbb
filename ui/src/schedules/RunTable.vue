<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import type { Column, Sort } from '@/parts/columns'
import PagedList from '@/parts/PagedList.vue'
import QueryView from '@/parts/QueryView.vue'
import { useServerList } from '@/parts/serverList'
import { when } from '@/parts/words'

/** What was done on schedule, the latest first. */
type Run = Schemas['SchedulesRun']
type By = NonNullable<operations['list-runs']['parameters']['query']>['sort']
const props = defineProps<{ id: number }>()
const id = computed(() => props.id)
const sort = ref<Sort | undefined>({ by: 'when', down: true })
const list = useServerList<Run>(['schedules', 'runs', id], sort, (at) =>
  ask(
    api.GET('/api/v1/schedules/{id}/runs', {
      params: { path: { id: id.value }, query: { ...at, sort: at.sort as By } },
    }),
  ),
)
const { query, rows } = list
const outcomes: Record<Run['outcome'], string> = { did: 'done', nothing: 'nothing to do', stopped: 'stopped' }
/** Of many documents the first are named, and how many more there are. */
const most = 6
const columns: Column<Run>[] = [
  { name: 'when', sort: true, label: 'When', of: (r) => when(r.ran_at), mono: true, width: 132 },
  { name: 'by', sort: true, label: 'Begun', of: (r) => (r.due_at ? 'on schedule' : 'by hand'), width: 100 },
  {
    name: 'outcome',
    sort: true,
    label: 'Outcome',
    of: (r) => outcomes[r.outcome],
    late: (r) => r.outcome === 'stopped',
    width: 104,
  },
  { name: 'what', sort: true, label: 'What it did', of: (r) => `it ${r.words}`, width: 214 },
  { name: 'documents', sort: true, label: 'Documents', of: (r) => r.documents.join(' '), width: 106 },
]
</script>

<template>
  <h2><span>What it did</span></h2>
  <QueryView :query="query" :empty="() => !rows.length">
    <PagedList
      v-model:sort="sort"
      data-runs
      name="runs"
      label="What it did"
      style="--list-height: 40vh"
      :columns="columns"
      :list="list"
      :file="`/api/v1/schedules/${id}/runs/export?`"
      :row-key="(r) => r.id"
      :lines="2"
    >
      <template #documents="{ row: r }"
        ><router-link v-for="d in r.documents.slice(0, most)" :key="d" class="mono doc" :to="`/go/${d}`">{{
          d
        }}</router-link
        ><template v-if="r.documents.length > most">and {{ r.documents.length - most }} more</template></template
      >
    </PagedList>
    <template #empty>It has not run yet.</template>
  </QueryView>
</template>

<style scoped>
.doc {
  margin-right: 0.6em;
  display: inline-block;
  min-height: 24px;
}
</style>
