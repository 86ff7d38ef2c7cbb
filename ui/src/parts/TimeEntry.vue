<script setup lang="ts">
import { type EntryProps, useEntry } from './entry'
import EntryBox from './EntryBox.vue'

/** A time of day by the site's clock, as 07:30. */
const props = defineProps<EntryProps & { width?: number; disabled?: boolean }>()
defineOptions({ inheritAttrs: false })
const value = defineModel<string | undefined>({ required: true })
const { id, wrong, says, status } = useEntry(props)
function typed(e: Event) {
  const text = (e.target as HTMLInputElement).value.trim()
  if (/^([01]\d|2[0-3]):[0-5]\d$/.test(text)) value.value = text
}
</script>

<template>
  <EntryBox :id="id" ref="box" :says="says" :wrong="wrong">
    <span @input.capture="typed">
      <a-time-picker
        v-bind="$attrs"
        :id="id"
        :value="value || undefined"
        class="mono"
        format="HH:mm"
        value-format="HH:mm"
        placeholder="07:30"
        :minute-step="5"
        :style="{ width: `${width ?? 96}px` }"
        :status="status"
        :disabled="disabled"
        :allow-clear="false"
        @update:value="(v: unknown) => (value = (v as string) ?? '')"
      />
    </span>
  </EntryBox>
</template>
