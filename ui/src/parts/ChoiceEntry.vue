<script setup lang="ts" generic="V extends string | number">
import { type EntryProps, useEntry } from './entry'
import EntryBox from './EntryBox.vue'

/** One of a few, found by typing its first letters. */
const props = defineProps<
  EntryProps & { options: { value: V; label: string }[]; width?: number; disabled?: boolean; clear?: boolean }
>()
defineOptions({ inheritAttrs: false })
const value = defineModel<V | undefined>({ required: true })
const { id, wrong, says, status } = useEntry(props)
</script>

<template>
  <EntryBox :id="id" ref="box" :says="says" :wrong="wrong">
    <a-select
      v-bind="$attrs"
      :id="id"
      v-model:value="value"
      show-search
      option-filter-prop="label"
      :options="options as never"
      :style="{ width: `${width ?? 160}px`, maxWidth: '100%' }"
      :dropdown-match-select-width="false"
      :status="status"
      :disabled="disabled"
      :allow-clear="clear"
    />
  </EntryBox>
</template>
