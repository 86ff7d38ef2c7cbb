<script setup lang="ts">
import { ref } from 'vue'
import type { EntryProps } from './entry'
import { type LabelParts, looksGS1, readLabel } from './serials'
import TextEntry from './TextEntry.vue'

/** The lot of goods of an item, typed, or out of a GS1 label that is scanned here: all that the label says is told. */
const props = defineProps<EntryProps & { item: number; width?: number; placeholder?: string }>()
const value = defineModel<string>({ required: true })
const emit = defineEmits<{ read: [parts: LabelParts]; next: [e: KeyboardEvent] }>()
const unread = ref('')

async function settle() {
  unread.value = ''
  const text = value.value.trim()
  if (!looksGS1(text)) return true
  try {
    const parts = await readLabel(props.item, 'lot', text)
    // It may have been typed over while the label was read.
    if (value.value.trim() !== text) return true
    value.value = parts.lot
    emit('read', parts)
    return true
  } catch (e) {
    unread.value = (e as Error).message
    return false
  }
}
async function enter(e: KeyboardEvent) {
  if (e.ctrlKey) return
  e.preventDefault()
  if (await settle()) emit('next', e)
}
</script>

<template>
  <TextEntry
    :model-value="value"
    mono
    :label="label"
    :field="field"
    :wrong="wrong || unread"
    :width="width"
    :placeholder="placeholder"
    @update:model-value="(text) => (value = text ?? '')"
    @keydown.enter="enter"
    @blur="settle"
  />
</template>
