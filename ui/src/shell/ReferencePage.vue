<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

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
    <label class="field">Find<input v-model="text" size="30" /></label>
    <p class="mute small">{{ operations.length }} operations</p>
    <details v-for="o in operations" :key="o.operationId" class="op">
      <summary>
        <b class="mono">{{ o.method }}</b> <span class="mono">{{ o.path }}</span> <span>{{ o.summary }}</span>
      </summary>
      <p class="mute small">{{ o.description }}</p>
      <table v-if="o.parameters?.length || fields(body(o)).length" class="plain small">
        <tbody>
          <tr v-for="p in o.parameters" :key="p.in + p.name">
            <td class="mono">{{ p.name }}</td>
            <td>{{ p.in }}</td>
            <td class="mono">{{ word(p.schema) }}</td>
            <td>{{ p.description ?? p.schema.description }}</td>
          </tr>
          <tr v-for="[name, f, needed] in fields(body(o))" :key="name">
            <td class="mono">{{ name }}</td>
            <td>{{ needed ? 'body, needed' : 'body' }}</td>
            <td class="mono">{{ word(f) }}</td>
            <td>{{ f.description }}</td>
          </tr>
        </tbody>
      </table>
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
