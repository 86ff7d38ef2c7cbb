<script setup lang="ts">
import { computed, ref } from 'vue'
import { type EntryProps, useEntry } from './entry'
import EntryBox from './EntryBox.vue'

/** A decimal, carried as the text of it so that nothing is lost on the way; a comma is read as a point. */
const props = withDefaults(
  defineProps<EntryProps & { width?: number; placeholder?: string; disabled?: boolean; readonly?: boolean }>(),
  { label: undefined, field: undefined, wrong: undefined, width: 92, placeholder: undefined },
)
defineOptions({ inheritAttrs: false })
const value = defineModel<string | undefined>({ required: true })
const box = ref<InstanceType<typeof EntryBox>>()
const { id, wrong, says, status } = useEntry(
  props,
  computed(() => (box.value?.$el as HTMLElement) ?? null),
)
const parse = (text: string) => text.replace(/\s/g, '').replace(',', '.')
/** An entry that is emptied says so with nothing, not with null. */
const given = (v: unknown) => (value.value = v === null || v === undefined ? '' : String(v))
</script>

<template>
  <EntryBox :id="id" ref="box" :says="says" :wrong="wrong">
    <a-input-number
      v-bind="$attrs"
      :id="id"
      class="mono"
      :value="value === '' ? undefined : value"
      string-mode
      inputmode="decimal"
      :controls="false"
      :keyboard="false"
      :parser="parse"
      :style="{ width: `${width}px` }"
      :status="status"
      :placeholder="placeholder"
      :disabled="disabled"
      :readonly="readonly"
      autocomplete="off"
      @update:value="given"
    />
  </EntryBox>
</template>
