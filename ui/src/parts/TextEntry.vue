<script setup lang="ts">
import Input, { Textarea } from 'ant-design-vue/es/input'
import { type EntryProps, useEntry } from './entry'
import EntryBox from './EntryBox.vue'

/** Words, or a code in the mono face; or many lines of them, which grow with what is in them. */
const props = defineProps<
  EntryProps & {
    mono?: boolean
    lines?: boolean
    width?: number
    placeholder?: string
    maxlength?: number
    disabled?: boolean
  }
>()
defineOptions({ inheritAttrs: false })
const value = defineModel<string | undefined>({ required: true })
const { id, wrong, says, status } = useEntry(props)
</script>

<template>
  <EntryBox :id="id" ref="box" :says="says" :wrong="wrong">
    <component
      :is="lines ? Textarea : Input"
      v-bind="$attrs"
      :id="id"
      v-model:value="value"
      :class="{ mono }"
      :style="{ width: width ? `${width}px` : undefined, maxWidth: '100%' }"
      :status="status"
      :placeholder="placeholder"
      :maxlength="maxlength"
      :disabled="disabled"
      :auto-size="lines ? { minRows: 2, maxRows: 12 } : undefined"
      autocomplete="off"
    />
  </EntryBox>
</template>
