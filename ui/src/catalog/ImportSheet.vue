<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { useCommand } from '@/parts/command'
import FormField from '@/parts/FormField.vue'
import TextEntry from '@/parts/TextEntry.vue'
import CommandNotice from '@/parts/CommandNotice.vue'
import WholeList from '@/parts/WholeList.vue'
import type { Column } from '@/parts/columns'

/** A file, or a range of bins, shown row by row before it is imported. */
const props = defineProps<{ sheet: Schemas['SheetsSheet'] }>()
const queries = useQueryClient()
const body = ref<Schemas['SheetsImport']>()
const preview = ref<Schemas['SheetsPreview']>()
const file = ref('')
const only = ref<'all' | 'wrong' | 'new' | 'change'>('all')
const command = useCommand()
const { busy, run } = command
const path = computed(() => ({ path: { sheet: props.sheet.name } }))

async function look(b: Schemas['SheetsImport']) {
  preview.value = undefined
  body.value = b
  const p = await run(() => ask(api.POST('/api/v1/catalog/{sheet}/import/preview', { params: path.value, body: b })))
  if (!p) return
  preview.value = p
  only.value = p.wrong ? 'wrong' : 'all'
}

/** Reads the file here; it is sent with the preview, and nothing is sent before. */
function choose(chosen: File) {
  void readFile(chosen)
  return false
}
async function readFile(chosen: File) {
  file.value = chosen.name
  const bytes = new Uint8Array(await chosen.arrayBuffer())
  let text = ''
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192))
  await look({ site_id: session.site, data: btoa(text) })
}

const range = reactive({
  aisles: '',
  bays: '1-12',
  levels: '1-4',
  sides: '',
  zone: '',
  first_x: '4',
  aisle_gap: '4',
  first_y: '1',
  bay_gap: '1.5',
  level_height: '1.4',
  max_units: '',
  max_weight_kg: '',
  max_volume_l: '',
})
const metres = ['first_x', 'aisle_gap', 'first_y', 'bay_gap', 'level_height'] as const
const labels: Record<keyof typeof range, string> = {
  aisles: 'Aisles',
  bays: 'Bays',
  levels: 'Levels',
  sides: 'Sides',
  zone: 'Zone',
  first_x: 'First aisle at x',
  aisle_gap: 'Aisle to aisle',
  first_y: 'First bay at y',
  bay_gap: 'Bay to bay',
  level_height: 'Level height',
  max_units: 'Most units',
  max_weight_kg: 'Most kg',
  max_volume_l: 'Most litres',
}

async function ofRange() {
  const lengths = Object.fromEntries(metres.map((m) => [m, Number(range[m]) || 0])) as Record<
    (typeof metres)[number],
    number
  >
  const rows = await run(() => ask(api.POST('/api/v1/catalog/bins/range', { body: { ...range, ...lengths } })))
  if (rows) await look({ site_id: session.site, rows })
}

async function take() {
  const b = body.value
  if (!b) return
  const p = await run(
    () => once((h) => ask(api.POST('/api/v1/catalog/{sheet}/import', { headers: h, params: path.value, body: b }))),
    (x) => `Imported: ${x.new} new, ${x.changed} changed, ${x.same} as they were.`,
  )
  if (!p) return
  preview.value = undefined
  await queries.invalidateQueries({ queryKey: ['catalog'] })
}
const rows = computed(() => (preview.value?.rows ?? []).filter((r) => only.value === 'all' || r.does === only.value))
const words = { all: 'all', wrong: 'wrong', new: 'new', change: 'changed' }
const count = (kind: keyof typeof words) => {
  const p = preview.value!
  return { all: p.rows.length, wrong: p.wrong, new: p.new, change: p.changed }[kind]
}
const changeWords = (r: Schemas['SheetsJudged']) =>
  r.does === 'wrong' ? r.sentence : r.changes.map((c) => `${c.what}: ${c.before} becomes ${c.after}`).join('; ')
const columns = computed<Column<Schemas['SheetsJudged']>[]>(() => [
  { name: 'row', label: 'Row', of: (r) => r.row, right: true, mono: true, width: 60 },
  { name: 'key', label: props.sheet.key, of: (r) => r.key, mono: true, width: 140 },
  { name: 'becomes', label: 'Becomes', of: (r) => r.does, late: (r) => r.does === 'wrong', width: 90 },
  { name: 'changes', label: 'What changes, or what is wrong', of: changeWords, width: 900 },
])
</script>

<template>
  <h1>Import {{ sheet.label.toLowerCase() }}</h1>
  <p class="mute">
    A file in CSV or XLSX whose first row names the columns: {{ sheet.columns.map((c) => c.name).join(', ') }}. Columns
    that it lacks stay as they are. Nothing is imported before you have seen what becomes of every row.
  </p>
  <div class="fields">
    <a-upload accept=".csv,.xlsx,.txt" :show-upload-list="false" :before-upload="choose">
      <span class="btn go">Choose a file</span>
    </a-upload>
    <span class="mono">{{ file }}</span>
    <a :href="`/api/v1/catalog/${sheet.name}/export?site=${session.site}&format=xlsx`" download
      >The sheet as it is, XLSX</a
    >
    <a :href="`/api/v1/catalog/${sheet.name}/export?site=${session.site}&format=csv`" download>CSV</a>
  </div>

  <details v-if="sheet.name === 'bins'" class="range">
    <summary>Make a range of bins</summary>
    <div class="fields">
      <FormField v-for="(label, key) in labels" :key="key" :label="`${label}`"
        ><TextEntry v-model="range[key]" :width="key === 'aisles' ? 116 : 80" mono
      /></FormField>
      <a-button :disabled="busy" @click="ofRange">Show the bins</a-button>
    </div>
    <p class="mute small">Write 1-6, A-F, or 1,3,5. Lengths are in metres; a limit left empty is open.</p>
  </details>

  <CommandNotice :of="command" />
  <template v-if="preview">
    <div class="fields verdict">
      <a-button
        v-for="(word, kind) in words"
        :key="kind"
        :aria-pressed="only === kind"
        :class="{ on: only === kind }"
        @click="only = kind"
      >
        {{ count(kind) }} {{ word }}
      </a-button>
      <a-button
        type="primary"
        data-primary
        :disabled="busy || preview.wrong > 0 || preview.new + preview.changed === 0"
        @click="take"
      >
        {{ preview.button }}
      </a-button>
    </div>
    <WholeList
      data-import
      :name="`import-${sheet.name}`"
      label="What becomes of each row"
      style="--list-height: 56vh"
      :columns="columns"
      :rows="rows"
      :row-key="(r) => r.row"
    >
      <template #changes="{ row: r }">
        <b v-if="r.does === 'wrong'">{{ r.sentence }}</b>
        <template v-else>{{ changeWords(r) }}</template>
      </template>
    </WholeList>
  </template>
</template>

<style scoped>
.range {
  margin: 14px 0;
}
.verdict {
  margin: 14px 0 8px;
}
.on {
  border-color: var(--act);
  box-shadow: inset 0 -3px 0 var(--act);
}
.note {
  margin-top: 12px;
}
summary {
  cursor: pointer;
  min-height: 28px;
}
</style>
