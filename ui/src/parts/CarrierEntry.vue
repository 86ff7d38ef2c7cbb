<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask } from '@/api/client'
import { session } from '@/api/session'
import ChoiceEntry from './ChoiceEntry.vue'
import type { EntryProps } from './entry'

/** One of the carriers in the catalog, or none. One that a document has and the catalog has no more stays. */
const props = defineProps<EntryProps & { width?: number; disabled?: boolean; none: string }>()
const carrier = defineModel<string | undefined>({ required: true })
const carriers = useQuery({
  queryKey: ['dispatch', 'carriers', computed(() => session.site)],
  queryFn: () => ask(api.GET('/api/v1/carriers', { params: { query: { site: session.site } } })),
})
const options = computed(() => {
  const names = (carriers.data.value ?? []).map((c) => c.name)
  const all = carrier.value && !names.includes(carrier.value) ? [carrier.value, ...names] : names
  return [{ value: '', label: props.none }, ...all.map((name) => ({ value: name, label: name }))]
})
</script>

<template>
  <ChoiceEntry
    :label="label"
    :field="field"
    :wrong="wrong"
    :width="width"
    :disabled="disabled"
    :options="options"
    :model-value="carrier ?? ''"
    @update:model-value="(c) => (carrier = c ?? '')"
  />
</template>
