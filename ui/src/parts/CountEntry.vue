<script setup lang="ts">
import { type EntryProps } from './entry'
import QuantityEntry from './QuantityEntry.vue'

/** A whole number. */
defineProps<EntryProps & { width?: number; placeholder?: string; disabled?: boolean }>()
const value = defineModel<number | undefined>({ required: true })
</script>

<template>
  <QuantityEntry
    :model-value="value === undefined ? '' : String(value)"
    :label="label"
    :field="field"
    :wrong="wrong"
    :width="width ?? 72"
    :placeholder="placeholder"
    :disabled="disabled"
    @update:model-value="(v) => (value = v ? Math.trunc(Number(v)) : undefined)"
  />
</template>
