<script setup lang="ts">
import { api, ask, type Schemas } from '@/api/client'
import FindEntry from './FindEntry.vue'

/** Finds a supplier or customer by first letters. */
const props = defineProps<{ kind: 'supplier' | 'customer'; label?: string; field?: string }>()
const chosen = defineModel<Schemas['CatalogParty'] | undefined>()
const find = async (text: string, signal: AbortSignal) =>
  (await ask(api.GET('/api/v1/parties', { params: { query: { kind: props.kind, q: text } }, signal }))).map((p) => ({
    value: p.id,
    label: p.name,
    code: [p.name],
    of: p,
  }))
</script>

<template>
  <FindEntry
    :label="label"
    :field="field"
    placeholder="first letters"
    :width="280"
    :find="find"
    :chosen="chosen && { value: chosen.id, label: chosen.name, code: [chosen.name], of: chosen }"
    @choose="(o) => (chosen = o.of)"
    @clear="chosen = undefined"
  />
</template>
