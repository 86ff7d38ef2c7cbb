<script setup lang="ts">
import { type EntryProps, useEntry } from './entry'
import EntryBox from './EntryBox.vue'

/**
 * A decimal, carried as the text that was typed: nothing is rounded on the way, and what is no number is kept, sent and
 * refused in words instead of giving way to the number before it. A comma is read as a point.
 */
const props = withDefaults(
  defineProps<EntryProps & { width?: number; placeholder?: string; disabled?: boolean; readonly?: boolean }>(),
  { label: undefined, field: undefined, wrong: undefined, width: 92, placeholder: undefined },
)
defineOptions({ inheritAttrs: false })
/** What stands there is meant: somebody went on from it. */
const emit = defineEmits<{ change: [] }>()
const value = defineModel<string | undefined>({ required: true })
const { id, wrong, says, status } = useEntry(props)
const read = (text: string) => text.replace(/\s/g, '').replace(',', '.')
/** What stands in the control, to the letter. */
let raw = ''
function typed(e: Event) {
  raw = (e.target as HTMLInputElement).value
  value.value = read(raw)
}
/** While somebody types, the control shows what is typed; then it shows what is carried. */
const show = (_: unknown, info: { userTyping: boolean }) => (info.userTyping ? raw : (value.value ?? ''))
</script>

<template>
  <EntryBox :id="id" ref="box" :says="says" :wrong="wrong">
    <span @input.capture="typed" @change="emit('change')">
      <a-input-number
        v-bind="$attrs"
        :id="id"
        class="mono"
        :value="value === '' ? undefined : value"
        string-mode
        inputmode="decimal"
        :controls="false"
        :keyboard="false"
        :parser="read"
        :formatter="show"
        :style="{ width: `${width}px` }"
        :status="status"
        :placeholder="placeholder"
        :disabled="disabled"
        :readonly="readonly"
        autocomplete="off"
      />
    </span>
  </EntryBox>
</template>
