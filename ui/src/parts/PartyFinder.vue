<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useExpanded } from './expanded'
import { api, ask, type Schemas } from '@/api/client'

/** Finds a supplier or customer by first letters. */
const props = defineProps<{ kind: 'supplier' | 'customer'; label: string }>()
const chosen = defineModel<Schemas['CatalogParty'] | undefined>()
const text = ref('')
const root = ref<HTMLElement>()
const open = useExpanded(root)
const parties = useQuery({
  queryKey: ['parties', props.kind, text],
  queryFn: () => ask(api.GET('/api/v1/parties', { params: { query: { kind: props.kind, q: text.value } } })),
})
const options = computed(() => (parties.data.value ?? []).map((p) => ({ value: p.name, party: p })))

function typed(value: unknown) {
  text.value = String(value ?? '')
  if (chosen.value && chosen.value.name !== text.value) chosen.value = undefined
}

function choose(name: unknown) {
  chosen.value = parties.data.value?.find((p) => p.name === name)
  text.value = String(name)
}
</script>

<template>
  <div ref="root">
    <a-auto-complete
      :value="text"
      :options="options"
      style="width: 280px"
      @update:value="typed"
      @select="choose"
      @dropdown-visible-change="(o: boolean) => (open = o)"
    >
      <a-input :aria-label="label" placeholder="first letters" />
    </a-auto-complete>
  </div>
</template>
