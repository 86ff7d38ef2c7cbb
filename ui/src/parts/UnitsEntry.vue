<script setup lang="ts">
import { type EntryProps, useEntry } from './entry'
import EntryBox from './EntryBox.vue'

/** Which of these units: each chosen, typed or scanned by its serial. */
const props = defineProps<EntryProps & { units: string[]; width?: number }>()
defineOptions({ inheritAttrs: false })
const value = defineModel<string[]>({ required: true })
const { id, wrong, says, status } = useEntry(props)
</script>

<template>
  <EntryBox :id="id" ref="box" :says="says" :wrong="wrong">
    <a-select
      v-bind="$attrs"
      :id="id"
      v-model:value="value"
      mode="multiple"
      placeholder="which units"
      not-found-content="No such unit"
      :options="units.map((u) => ({ value: u, label: u }))"
      :style="{ minWidth: `${width ?? 190}px`, maxWidth: '100%' }"
      :dropdown-match-select-width="false"
      :status="status"
    />
  </EntryBox>
</template>
