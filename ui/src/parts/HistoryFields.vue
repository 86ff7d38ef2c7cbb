<script setup lang="ts">
import ChoiceEntry from './ChoiceEntry.vue'
import DateEntry from './DateEntry.vue'
import FormField from './FormField.vue'
import { type Field, type HistoryFilter, kinds } from './history'
import TextEntry from './TextEntry.vue'
import TimeEntry from './TimeEntry.vue'
import { stateWords } from './words'

/** What history is narrowed by. */
const filter = defineModel<HistoryFilter>({ required: true })
defineProps<{
  /** What it is of already. */
  without?: Field
}>()
const set = (field: Field) => (value: string | undefined) => (filter.value = { ...filter.value, [field]: value ?? '' })
const texts: { name: Field; label: string; width: number; mono?: boolean }[] = [
  { name: 'item', label: 'Item', width: 120 },
  { name: 'lot', label: 'Lot or serial', width: 110, mono: true },
  { name: 'bin', label: 'Location', width: 100, mono: true },
  { name: 'document', label: 'Document', width: 100, mono: true },
  { name: 'person', label: 'Who', width: 110 },
  { name: 'note', label: 'Note', width: 130 },
]
const options = [{ value: '', label: 'any' }, ...kinds.map((k) => ({ value: k as string, label: stateWords(k) }))]
</script>

<template>
  <FormField v-for="t in texts.filter((t) => t.name !== without)" :key="t.name" :label="t.label"
    ><TextEntry
      :model-value="filter[t.name] ?? ''"
      :width="t.width"
      :mono="t.mono"
      @update:model-value="set(t.name)($event)"
  /></FormField>
  <FormField label="What"
    ><ChoiceEntry
      :model-value="filter.kind ?? ''"
      :options="options"
      :width="140"
      @update:model-value="set('kind')($event)"
  /></FormField>
  <FormField label="From"
    ><DateEntry :model-value="filter.from" clear @update:model-value="set('from')($event)"
  /></FormField>
  <FormField v-if="filter.from" label="at"
    ><TimeEntry :model-value="filter.from_time" @update:model-value="set('from_time')($event)"
  /></FormField>
  <FormField label="To"><DateEntry :model-value="filter.to" clear @update:model-value="set('to')($event)" /></FormField>
  <FormField v-if="filter.to" label="at"
    ><TimeEntry :model-value="filter.to_time" @update:model-value="set('to_time')($event)"
  /></FormField>
</template>
