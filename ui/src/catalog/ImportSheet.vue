<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { useCommand } from '@/parts/preview'

/** A file, or a range of bins, shown row by row before it is imported. */
const props = defineProps<{ sheet: Schemas['SheetsSheet'] }>()
const queries = useQueryClient()
const body = ref<Schemas['SheetsImport']>()
const preview = ref<Schemas['SheetsPreview']>()
const file = ref('')
const only = ref<'all' | 'wrong' | 'new' | 'change'>('all')
const { busy, problem, done, run } = useCommand()
const path = computed(() => ({ path: { sheet: props.sheet.name } }))
/** How many rows are drawn; what is counted is all of them. */
const drawn = 200

async function look(b: Schemas['SheetsImport']) {
  preview.value = undefined
  body.value = b
  const p = await run(() => ask(api.POST('/api/v1/catalog/{sheet}/import/preview', { params: path.value, body: b })))
  if (!p) return
  preview.value = p
  only.value = p.wrong ? 'wrong' : 'all'
}

async function choose(e: Event) {
  const chosen = (e.target as HTMLInputElement).files?.[0]
  if (!chosen) return
  file.value = chosen.name
  const bytes = new Uint8Array(await chosen.arrayBuffer())
  let text = ''
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192))
  await look({ site_id: session.site, data: btoa(text) })
  ;(e.target as HTMLInputElement).value = ''
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
</script>

<template>
  <h1>Import {{ sheet.label.toLowerCase() }}</h1>
  <p class="mute">
    A file in CSV or XLSX whose first row names the columns: {{ sheet.columns.map((c) => c.name).join(', ') }}. Columns
    that it lacks stay as they are. Nothing is imported before you have seen what becomes of every row.
  </p>
  <div class="fields">
    <label class="btn go"
      >Choose a file<input
        type="file"
        accept=".csv,.xlsx,.txt"
        class="skip"
        aria-label="File to import"
        @change="choose"
    /></label>
    <span class="mono">{{ file }}</span>
    <a :href="`/api/v1/catalog/${sheet.name}/export?site=${session.site}&format=xlsx`" download
      >The sheet as it is, XLSX</a
    >
    <a :href="`/api/v1/catalog/${sheet.name}/export?site=${session.site}&format=csv`" download>CSV</a>
  </div>

  <details v-if="sheet.name === 'bins'" class="range">
    <summary>Make a range of bins</summary>
    <div class="fields">
      <label v-for="(label, key) in labels" :key="key" class="field"
        >{{ label }}<input v-model="range[key]" class="mono" :size="key === 'aisles' ? 10 : 6"
      /></label>
      <button class="btn" :disabled="busy" @click="ofRange">Show the bins</button>
    </div>
    <p class="mute small">Write 1-6, A-F, or 1,3,5. Lengths are in metres; a limit left empty is open.</p>
  </details>

  <div v-if="done" class="note g" role="status">{{ done }}</div>
  <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
  <template v-if="preview">
    <div class="fields verdict">
      <button
        v-for="(word, kind) in words"
        :key="kind"
        class="btn"
        :aria-pressed="only === kind"
        :class="{ on: only === kind }"
        @click="only = kind"
      >
        {{ count(kind) }} {{ word }}
      </button>
      <button
        class="btn go"
        data-primary
        :disabled="busy || preview.wrong > 0 || preview.new + preview.changed === 0"
        @click="take"
      >
        {{ preview.button }}
      </button>
    </div>
    <table class="plain small" data-import>
      <thead>
        <tr>
          <th class="r">Row</th>
          <th>{{ sheet.key }}</th>
          <th>Becomes</th>
          <th>What changes, or what is wrong</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows.slice(0, drawn)" :key="r.row">
          <td class="r mono">{{ r.row }}</td>
          <td class="mono">{{ r.key }}</td>
          <td class="nb" :class="{ late: r.does === 'wrong' }">{{ r.does }}</td>
          <td>
            <b v-if="r.does === 'wrong'">{{ r.sentence }}</b>
            <template v-else
              ><span v-for="c in r.changes" :key="c.what" class="change"
                >{{ c.what }}: {{ c.before }} becomes {{ c.after }}</span
              ></template
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="rows.length > drawn" class="mute small">
      {{ rows.length - drawn }} more rows are counted and not drawn here.
    </p>
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
.change {
  display: block;
}
.note {
  margin-top: 12px;
}
summary {
  cursor: pointer;
  min-height: 28px;
}
</style>
