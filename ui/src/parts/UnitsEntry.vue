<script setup lang="ts">
import { type EntryProps } from './entry'
import ManyEntry from './ManyEntry.vue'

/** Which of these units: each chosen, typed or scanned by its serial. */
defineProps<EntryProps & { units: string[]; width?: number }>()
const value = defineModel<string[]>({ required: true })
</script>

<template>
  <ManyEntry
    v-model="value"
    :label="label"
    :field="field"
    :wrong="wrong"
    :width="width"
    placeholder="which units"
    none="No such unit"
    :options="units.map((u) => ({ value: u, label: u }))"
  />
</template>
