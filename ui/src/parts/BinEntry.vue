<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { watchDebounced } from '@vueuse/core'
import { ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { type EntryProps, useEntry } from './entry'
import EntryBox from './EntryBox.vue'

/**
 * A location by its code, typed or scanned: the server says at once, of exactly what stands there, that it knows no such
 * location here. Enter takes it, and nothing else than it.
 */
const props = defineProps<EntryProps & { width?: number; placeholder?: string }>()
defineOptions({ inheritAttrs: false })
const emit = defineEmits<{ found: [location: Schemas['CatalogLocation']] }>()
const code = defineModel<string | undefined>({ required: true })
const unknown = ref('')
const { id, wrong, says, status } = useEntry(props, () => unknown.value)
const queries = useQueryClient()

/** Finds what is typed; undefined where it is not known, or not typed any more by then. */
async function find() {
  const typed = code.value?.trim() ?? ''
  if (!typed) return undefined
  try {
    const location = await queries.fetchQuery({
      queryKey: ['locations', session.site, typed.toUpperCase()],
      queryFn: () => ask(api.GET('/api/v1/location', { params: { query: { site: session.site, code: typed } } })),
      staleTime: 60_000,
      retry: false,
    })
    return code.value?.trim() === typed ? location : undefined
  } catch (e) {
    if (code.value?.trim() === typed) unknown.value = (e as Error).message
    return undefined
  }
}
watch(code, () => (unknown.value = ''))
watchDebounced(code, find, { debounce: 400 })
async function enter() {
  const location = await find()
  if (location) emit('found', location)
}
</script>

<template>
  <EntryBox :id="id" ref="box" :says="says" :wrong="wrong">
    <a-input
      v-bind="$attrs"
      :id="id"
      v-model:value="code"
      class="mono"
      :style="{ width: `${width ?? 125}px`, maxWidth: '100%' }"
      :status="status"
      :placeholder="placeholder"
      :maxlength="60"
      autocomplete="off"
      @keydown.enter.prevent="enter"
    />
  </EntryBox>
</template>
