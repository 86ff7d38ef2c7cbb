<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import type { Column, Sort } from '@/parts/columns'
import PagedList from '@/parts/PagedList.vue'
import { useServerList } from '@/parts/serverList'
import { when } from '@/parts/words'

/** Who set what of a row of the catalog, when, from what to what. */
const props = defineProps<{ sheet: string; row: string }>()
type Revision = Schemas['SheetsRevision']
type By = NonNullable<operations['list-revisions']['parameters']['query']>['sort']
const columns: Column<Revision>[] = [
  { name: 'at', label: 'When', of: (r) => when(r.at), sort: true, mono: true, width: 118 },
  { name: 'person', label: 'Who', of: (r) => r.person, sort: true, width: 130 },
  { name: 'field', label: 'What', of: (r) => r.field || 'added', width: 150 },
  { name: 'was', label: 'Was', of: (r) => (r.field ? r.was || 'nothing' : ''), width: 122 },
  { name: 'became', label: 'Became', of: (r) => (r.field ? r.became || 'nothing' : ''), width: 122 },
]
const sort = ref<Sort | undefined>({ by: 'at', down: true })
const list = useServerList<Revision>(
  ['catalog', 'history', computed(() => props.sheet), computed(() => props.row)],
  sort,
  (at) =>
    ask(
      api.GET('/api/v1/catalog/{sheet}/history', {
        params: { path: { sheet: props.sheet }, query: { key: props.row, ...at, sort: at.sort as By } },
      }),
    ),
)
</script>

<template>
  <section class="history" data-history>
    <h2>What was changed</h2>
    <PagedList
      v-if="list.rows.value.length"
      v-model:sort="sort"
      name="catalog-history"
      label="What was changed"
      :columns="columns"
      :list="list"
      :row-key="(r) => r.id"
      :file="`/api/v1/catalog/${sheet}/history/export?key=${encodeURIComponent(row)}`"
    />
    <p v-else-if="list.query.isSuccess.value" class="mute">Nothing since changes are kept.</p>
  </section>
</template>

<style scoped>
.history {
  margin-top: 22px;
}
</style>
