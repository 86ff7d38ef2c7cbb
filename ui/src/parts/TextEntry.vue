<script setup lang="ts">
import { type EntryProps, useEntry } from './entry'
import EntryBox from './EntryBox.vue'

/** Words, or a code in the mono face. */
const props = defineProps<
  EntryProps & { mono?: boolean; width?: number; placeholder?: string; maxlength?: number; disabled?: boolean }
>()
defineOptions({ inheritAttrs: false })
const value = defineModel<string | undefined>({ required: true })
const { id, wrong, says, status } = useEntry(props)
</script>

<template>
  <EntryBox :id="id" ref="box" :says="says" :wrong="wrong">
    <a-input
      v-bind="$attrs"
      :id="id"
      v-model:value="value"
      :class="{ mono }"
      :style="{ width: width ? `${width}px` : undefined, maxWidth: '100%' }"
      :status="status"
      :placeholder="placeholder"
      :maxlength="maxlength"
      :disabled="disabled"
      autocomplete="off"
    />
  </EntryBox>
</template>
