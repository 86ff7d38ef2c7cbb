<script setup lang="ts">
import { computed, nextTick, provide, ref, watch } from 'vue'
import type { Problem } from '@/api/client'
import { refusalKey } from './entry'

/** Entries that are sent together. What the server refuses shows at its field, which takes the focus. */
const props = defineProps<{ problem?: Problem }>()
const emit = defineEmits<{ submit: []; sure: [code: string] }>()
const root = ref<HTMLElement>()
const shownAtField = ref(false)
provide(
  refusalKey,
  computed(() => props.problem),
)
watch(
  () => props.problem,
  async (p) => {
    shownAtField.value = false
    if (!p?.field) return
    await nextTick()
    const control = root.value?.querySelector<HTMLElement>('[data-wrong] :is(input, textarea)')
    shownAtField.value = !!control
    control?.focus()
  },
)
</script>

<template>
  <div ref="root">
    <a-form layout="vertical" @submit.prevent="emit('submit')">
      <slot />
    </a-form>
    <div v-if="problem && !shownAtField" class="note s" role="alert">{{ problem.message }}</div>
    <a-button v-if="problem?.facts.sure" data-sure @click="emit('sure', problem.facts.sure)"
      >Yes, it is meant so</a-button
    >
  </div>
</template>
