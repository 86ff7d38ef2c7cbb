<script setup lang="ts">
import { type EntryProps, useEntry } from './entry'
import EntryBox from './EntryBox.vue'

/** Several of a few: each chosen, or found by typing. */
const props = defineProps<
  EntryProps & { options: { value: string; label: string }[]; width?: number; placeholder?: string; none?: string }
>()
defineOptions({ inheritAttrs: false })
const value = defineModel<string[]>({ required: true })
const { id, wrong, says, status } = useEntry(props)
</script>

<template>
  <EntryBox :id="id" ref="box" :says="says" :wrong="wrong">
    <a-select
      v-bind="$attrs"
      :id="id"
      v-model:value="value"
      mode="multiple"
      :placeholder="placeholder"
      :not-found-content="none ?? 'None of these'"
      option-filter-prop="label"
      :options="options as never"
      :style="{ minWidth: `${width ?? 190}px`, maxWidth: '100%' }"
      :dropdown-match-select-width="false"
      :status="status"
    />
  </EntryBox>
</template>
