<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import type { Column, Sort } from '@/parts/columns'
import FormField from '@/parts/FormField.vue'
import PagedList from '@/parts/PagedList.vue'
import QueryView from '@/parts/QueryView.vue'
import { useServerList } from '@/parts/serverList'
import TextEntry from '@/parts/TextEntry.vue'
import { stateWords, when } from '@/parts/words'

/** Who signed on, or tried to, and who gave whom which rights. */
type Event = Schemas['StaffEvent']
type By = NonNullable<operations['list-access-events']['parameters']['query']>['sort']
const route = useRoute()
const person = computed(() => Number(route.query.person) || 0)
const words = ref('')
const rested = refDebounced(words, 250)
const sort = ref<Sort | undefined>({ by: 'at', down: true })
const list = useServerList<Event>(['people', 'events', person, rested], sort, (at) =>
  ask(
    api.GET('/api/v1/access-events', {
      params: { query: { person: person.value, q: rested.value, ...at, sort: at.sort as By } },
    }),
  ),
)
const file = computed(
  () => `/api/v1/access-events/export?${new URLSearchParams({ person: String(person.value), q: rested.value })}`,
)
const columns: Column<Event>[] = [
  { name: 'at', sort: true, label: 'When', of: (e) => when(e.at), mono: true, width: 150 },
  {
    name: 'kind',
    sort: true,
    label: 'What',
    of: (e) => stateWords(e.kind),
    width: 160,
    late: (e) => /fail|barred/.test(e.kind),
  },
  { name: 'person', sort: true, label: 'Whom', of: (e) => e.person, width: 160 },
  { name: 'by', label: 'By', of: (e) => e.by, width: 160 },
  { name: 'address', label: 'From', of: (e) => e.address, mono: true, width: 130 },
  { name: 'detail', label: 'In full', of: (e) => e.detail, width: 360 },
]
</script>

<template>
  <div class="page">
    <h1>Who signed on</h1>
    <p class="mute">
      Signing on and its failures, and every change of who may do what. Nothing of it can be changed.
      <router-link to="/people">People</router-link>
    </p>
    <div class="fields">
      <FormField label="Narrow by whom, what, from where or what was tried"
        ><TextEntry v-model="words" :width="330"
      /></FormField>
    </div>
    <QueryView :query="list.query" :empty="() => !list.rows.value.length">
      <PagedList
        v-model:sort="sort"
        data-events
        name="access-events"
        label="Who signed on"
        style="--list-height: 64vh"
        :columns="columns"
        :list="list"
        :file="file"
        :row-key="(e) => e.id"
      />
      <template #empty>{{ rested ? `Nothing has “${rested}” in it.` : 'Nothing happened yet.' }}</template>
    </QueryView>
  </div>
</template>
