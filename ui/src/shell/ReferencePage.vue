<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import FormField from '@/parts/FormField.vue'
import TextEntry from '@/parts/TextEntry.vue'
import type { Column } from '@/parts/columns'
import SheetTable from '@/parts/SheetTable.vue'
import QueryState from '@/parts/QueryState.vue'

/** The API's description, for whoever wants to read it: every operation, who may use it, what goes in and comes out. */
interface Schema {
  $ref?: string
  type?: string | string[]
  format?: string
  enum?: string[]
  items?: Schema
  properties?: Record<string, Schema>
  required?: string[]
  description?: string
}
interface Operation {
  operationId: string
  summary: string
  description?: string
  parameters?: { name: string; in: string; required?: boolean; schema: Schema; description?: string }[]
  requestBody?: { content: Record<string, { schema: Schema }> }
  responses: Record<string, { content?: Record<string, { schema: Schema }> }>
}
interface Description {
  openapi: string
  info: { title: string; description: string }
  paths: Record<string, Record<string, Operation>>
  components: { schemas: Record<string, Schema> }
}

const text = ref('')
const description = useQuery({
  queryKey: ['reference'],
  queryFn: async () => (await (await fetch('/api/v1/openapi.json')).json()) as Description,
  staleTime: Infinity,
})
const operations = computed(() =>
  Object.entries(description.data.value?.paths ?? {})
    .flatMap(([path, methods]) =>
      Object.entries(methods).map(([method, o]) => ({ path, method: method.toUpperCase(), ...o })),
    )
    .filter((o) =>
      text.value
        .toLowerCase()
        .split(/\s+/)
        .every((w) => `${o.path} ${o.summary} ${o.operationId}`.toLowerCase().includes(w)),
    ),
)

/** A schema in one word: its name, or what it is. */
function word(s?: Schema): string {
  if (!s) return ''
  if (s.$ref) return s.$ref.split('/').pop() ?? ''
  if (s.type === 'array') return `list of ${word(s.items)}`
  if (s.enum) return s.enum.join(' | ')
  return [Array.isArray(s.type) ? s.type.join(' or ') : s.type, s.format].filter(Boolean).join(', ')
}
const body = (o: Operation) => o.requestBody && Object.values(o.requestBody.content)[0]?.schema
const answer = (o: Operation) => {
  const [type, media] = Object.entries(o.responses['200']?.content ?? {})[0] ?? []
  return type && !type.includes('json') ? type : word(media?.schema)
}
/** The fields of a schema, one level down. */
function fields(s?: Schema): [string, Schema, boolean][] {
  let at = s?.type === 'array' ? s.items : s
  if (at?.$ref) at = description.data.value?.components.schemas[word(at)]
  return Object.entries(at?.properties ?? {})
    .filter(([name]) => name !== '$schema')
    .map(([name, f]) => [name, f, !!at?.required?.includes(name)])
}
interface Part {
  name: string
  place: string
  type: string
  help?: string
}
/** All that an operation takes: parameters, and the fields of its body. */
const partsOf = (o: Operation): Part[] => [
  ...(o.parameters ?? []).map((p) => ({
    name: p.name,
    place: p.in,
    type: word(p.schema),
    help: p.description ?? p.schema.description,
  })),
  ...fields(body(o)).map(([name, f, needed]) => ({
    name,
    place: needed ? 'body, needed' : 'body',
    type: word(f),
    help: f.description,
  })),
]
const columns: Column<Part>[] = [
  { name: 'name', label: 'Name', of: (p) => p.name, mono: true, width: 170 },
  { name: 'place', label: 'In', of: (p) => p.place, width: 120 },
  { name: 'type', label: 'Type', of: (p) => p.type, width: 260 },
  { name: 'help', label: 'What it is', of: (p) => p.help },
]
</script>

<template>
  <div class="page">
    <h1>The API</h1>
    <p class="mute">
      {{ description.data.value?.info.description }} JSON under <span class="mono">/api/v1</span>; the same as
      <a href="/api/v1/openapi.json">OpenAPI {{ description.data.value?.openapi }}</a
      >. Errors are problem documents (RFC 9457) with a stable code, a sentence and the field. A command carries an
      <span class="mono">Idempotency-Key</span> of the client's making: sent twice, it happens once.
    </p>
    <QueryState v-if="!description.data.value" :query="description" />
    <FormField label="Find"><TextEntry v-model="text" :width="296" /></FormField>
    <p class="mute small">{{ operations.length }} operations</p>
    <details v-for="o in operations" :key="o.operationId" class="op">
      <summary>
        <b class="mono">{{ o.method }}</b> <span class="mono">{{ o.path }}</span> <span>{{ o.summary }}</span>
      </summary>
      <p class="mute small">{{ o.description }}</p>
      <SheetTable v-if="partsOf(o).length" :columns="columns" :rows="partsOf(o)" :row-key="(p) => p.place + p.name" />
      <p class="small">
        Answers <span class="mono">{{ answer(o) }}</span>
      </p>
    </details>
  </div>
</template>

<style scoped>
.op {
  border-top: 1px solid var(--line);
  padding: 6px 0;
}
summary {
  cursor: pointer;
  min-height: 28px;
}
summary span {
  margin-left: 8px;
}
</style>
