<script setup lang="ts">
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/command'
import { usePreview } from '@/parts/preview'
import { useDraft } from '@/parts/draft'
import { useServerList } from '@/parts/serverList'
import QueueCard from '@/parts/QueueCard.vue'
import { plural } from '@/parts/words'
import FieldOf from './FieldOf.vue'
import ImportSheet from './ImportSheet.vue'
import RowHistory from './RowHistory.vue'
import TextEntry from '@/parts/TextEntry.vue'
import type { Column, Sort } from '@/parts/columns'
import DraftNotice from '@/parts/DraftNotice.vue'
import ListTable from '@/parts/ListTable.vue'
import QueryView from '@/parts/QueryView.vue'

const props = defineProps<{ sheet?: string; row?: string }>()
const router = useRouter()
const queries = useQueryClient()
const name = computed(() => props.sheet || 'items')
const importing = computed(() => props.row === 'import')
const site = computed(() => session.site)
const sheets = useQuery({ queryKey: ['sheets'], queryFn: () => ask(api.GET('/api/v1/catalog')), staleTime: Infinity })
const chosen = computed(() => sheets.data.value?.find((s) => s.name === name.value))
const text = ref('')
const looked = refDebounced(text, 200)
const listing = useQuery({
  queryKey: ['catalog', name, site, looked],
  queryFn: () =>
    ask(
      api.GET('/api/v1/catalog/{sheet}', {
        params: { path: { sheet: name.value }, query: { site: site.value, q: looked.value, limit: 200 } },
      }),
    ),
  placeholderData: keepPreviousData,
})
const words = (row: Record<string, string>) => row.description ?? row.name ?? (row.zone ? `zone ${row.zone}` : '')

/** The row as it is, and as it is typed. */
const stored = useQuery({
  queryKey: ['catalog', name, site, 'row', computed(() => props.row)],
  queryFn: async () => {
    const found = await ask(
      api.GET('/api/v1/catalog/{sheet}', {
        params: { path: { sheet: name.value }, query: { site: site.value, key: props.row } },
      }),
    )
    return found.rows[0] ?? null
  },
  enabled: computed(() => !!props.row && !!chosen.value && !importing.value && props.row !== 'new'),
})
const fresh = computed(() => props.row === 'new')
type Row = Record<string, string>
const unwritten = computed<Row>(() => Object.fromEntries((chosen.value?.columns ?? []).map((c) => [c.name, c.default])))
/** The row as it stands on the server, once it is the one that is asked for. */
const standing = computed(() => {
  if (fresh.value) return chosen.value && unwritten.value
  const found = stored.data.value
  return found && chosen.value && found[chosen.value.key] === props.row ? found : undefined
})
const draft = useDraft<Row>(
  () => `catalog/${name.value}/${props.row ?? ''} at ${site.value}`,
  () => standing.value,
)
const typed = computed<Row>(() => draft.mine.value ?? {})
const titled = computed(() => chosen.value?.label.toLowerCase() ?? name.value)
const labelOf = (path: string[]) => chosen.value?.columns.find((c) => c.name === path[0])?.label ?? path[0] ?? ''
const { busy, problem, done, run } = useCommand()
const body = computed<Schemas['SheetsImport'] | null>(() => {
  if (!props.row || importing.value || (!fresh.value && !stored.data.value)) return null
  const key = chosen.value?.key ?? ''
  if (!typed.value[key]) return null
  return { site_id: site.value, rows: [typed.value], adds: fresh.value || undefined }
})
const judged = usePreview('sheet', body, (b) =>
  ask(api.POST('/api/v1/catalog/{sheet}/import/preview', { params: { path: { sheet: name.value } }, body: b })),
)
const verdict = computed(() => judged.plan.value?.rows[0])
const plan = computed<Schemas['LedgerPlan'] | undefined>(() => {
  const v = verdict.value
  if (!v || v.does === 'wrong' || v.does === 'same') return undefined
  return {
    moves: [],
    changes: v.changes,
    notes: [],
    warnings: [],
    button: v.does === 'new' ? `Add ${v.key}` : `Save ${plural(v.changes.length, 'change')} of ${v.key}`,
  }
})

async function save() {
  const b = body.value
  if (!b) return
  const key = typed.value[chosen.value!.key]!
  const ok = await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/catalog/{sheet}/import', { headers: h, params: { path: { sheet: name.value } }, body: b }),
        ),
      ),
    () => `${key} is saved.`,
  )
  if (!ok) return
  if (fresh.value) draft.discard()
  else draft.saved()
  await queries.invalidateQueries({ queryKey: ['catalog'] })
  if (fresh.value) void router.push(`/catalog/${name.value}/${encodeURIComponent(key)}`)
}
watch(
  () => [props.sheet, props.row],
  () => {
    problem.value = undefined
    if (!fresh.value) done.value = ''
  },
)
const pathOf = (r: Row) => `/catalog/${name.value}/${encodeURIComponent(r[chosen.value?.key ?? ''] ?? '')}`
const numbers = ['number', 'count', 'percent']
const columns = computed<Column<Row>[]>(() =>
  (chosen.value?.columns ?? []).map((c) => ({
    name: c.name,
    label: c.label,
    of: (r) => c.words?.[r[c.name] ?? ''] ?? r[c.name],
    to: c.name === chosen.value?.key ? pathOf : undefined,
    right: numbers.includes(c.kind),
    mono: numbers.includes(c.kind) || c.name === chosen.value?.key,
    sort: true,
    width: ['description', 'name', 'address', 'packs'].includes(c.name) ? 240 : 120,
  })),
)
const sort = ref<Sort>()
watch(name, () => (sort.value = undefined))
const list = useServerList<Row>(
  ['catalog', name, site, 'list', looked],
  sort,
  (at) =>
    ask(
      api.GET('/api/v1/catalog/{sheet}', {
        params: { path: { sheet: name.value }, query: { site: site.value, q: looked.value, ...at } },
      }),
    ),
  100,
  computed(() => !props.row),
)
const { query: page, rows, total, more } = list
const may = computed(() => can('import-sheet'))
</script>

<template>
  <BenchLayout
    waits="The catalog"
    :waiting="[sheets, listing]"
    :sheet="row && row !== 'new' && !importing ? [stored] : []"
  >
    <template #waiting>
      <div class="tabs">
        <router-link
          v-for="s in sheets.data.value"
          :key="s.name"
          :to="`/catalog/${s.name}`"
          :class="{ on: s.name === name }"
          >{{ s.label }}</router-link
        >
      </div>
      <TextEntry v-model="text" :placeholder="`find in ${titled}`" :width="245" :label="`Find in ${titled}`" />
      <h2>
        <span>{{ chosen?.label }}</span><span>{{ listing.data.value?.total ?? 0 }}</span>
      </h2>
      <div v-if="may" class="acts">
        <router-link class="btn" :to="`/catalog/${name}/new`">Add one</router-link>
        <router-link class="btn" :to="`/catalog/${name}/import`">Import</router-link>
      </div>
      <QueueCard
        v-for="r in listing.data.value?.rows"
        :key="r[chosen?.key ?? '']"
        :to="`/catalog/${name}/${encodeURIComponent(r[chosen?.key ?? ''] ?? '')}`"
        :selected="row === r[chosen?.key ?? '']"
      >
        <span class="mono">{{ r[chosen?.key ?? ''] }}</span>
        <template #more
          ><span>{{ words(r) }}</span></template
        >
      </QueueCard>
      <div v-if="listing.data.value?.next" class="mute small">
        {{ (listing.data.value.total ?? 0) - listing.data.value.rows.length }} more; type a word to find them.
      </div>
    </template>

    <ImportSheet v-if="importing && chosen" :key="name" :sheet="chosen" />
    <template v-else-if="chosen && row && (fresh || stored.data.value)">
      <h1>
        <template v-if="fresh">New: {{ chosen.label }}</template>
        <span v-else class="mono">{{ row }}</span>
      </h1>
      <p v-if="verdict?.stands">
        <router-link class="btn" :to="pathOf(typed)">Open {{ verdict.key }}</router-link>
      </p>
      <DraftNotice :of="draft" :labels="labelOf" />
      <a-form layout="vertical" class="columns">
        <FieldOf
          v-for="c in chosen.columns"
          :key="c.name"
          v-model="typed[c.name]"
          :column="c"
          :fixed="!may || c.fixed || (!fresh && c.name === chosen.key)"
          :wrong="verdict?.does === 'wrong' && verdict.field === c.name ? verdict.sentence : ''"
        />
      </a-form>
      <RowHistory v-if="!fresh" :key="`${name}/${row}`" :sheet="name" :row="row" />
    </template>
    <div v-else-if="row && stored.isSuccess.value" class="empty">There is no {{ row }} on this sheet.</div>
    <template v-else-if="chosen">
      <h1>{{ chosen.label }}</h1>
      <p class="mute">
        Choose a row to read or change it, add one, or import many at once. The whole sheet as a file:
        <a :href="`/api/v1/catalog/${name}/export?site=${site}&format=xlsx`" download>XLSX</a> or
        <a :href="`/api/v1/catalog/${name}/export?site=${site}&format=csv`" download>CSV</a>. The same file, imported
        unchanged, changes nothing. Who changed what of it:
        <a :href="`/api/v1/catalog/${name}/history/export?format=xlsx`" download>XLSX</a> or
        <a :href="`/api/v1/catalog/${name}/history/export?format=csv`" download>CSV</a>.
      </p>
      <QueryView :query="page" :empty="() => !rows.length">
        <ListTable
          v-model:sort="sort"
          :name="`catalog-${name}`"
          :label="chosen.label"
          style="--list-height: 64vh"
          :columns="columns"
          :rows="rows"
          :row-key="(r) => r[chosen!.key] ?? ''"
          :to="pathOf"
          :total="total"
          :more="page.hasNextPage.value"
          @more="more"
        />
        <template #empty>No row has these words. Add one, or import a file of them.</template>
      </QueryView>
    </template>

    <template v-if="row && !importing" #after>
      <BeforeAfter
        by="import-sheet"
        :plan="plan"
        :problem="problem ?? judged.problem.value"
        :done="done"
        :busy="busy"
        :fresh="judged.fresh.value"
        :idle="
          verdict?.does === 'wrong'
            ? (verdict.sentence ?? '')
            : 'Change a field. What becomes of it stands here before it is saved.'
        "
        doing="Save"
        @go="save"
      />
    </template>
  </BenchLayout>
</template>

<style scoped>
.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  margin-bottom: 10px;
}
.tabs a {
  min-height: 24px;
}
.tabs .on {
  font-weight: 700;
  color: var(--ink);
  text-decoration: none;
  border-bottom: 3px solid var(--act);
}
.find {
  width: 100%;
  margin-bottom: 10px;
}
.acts {
  display: flex;
  gap: 8px;
  margin-bottom: 10px;
}
.columns {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px 20px;
  align-items: start;
}
</style>
