<script setup lang="ts">
import type { Schemas } from '@/api/client'
import CostEntries from '@/parts/CostEntries.vue'
import type { usePreview } from '@/parts/preview'

/** What an invoice will make goods cost that came already, before it is saved. */
defineProps<{ preview: ReturnType<typeof usePreview<never, Schemas['ValueEntry'][]>> }>()
</script>

<template>
  <div v-if="preview.plan.value" data-forecast>
    <h3>What it does to costs</h3>
    <CostEntries :entries="preview.plan.value" label="What it does to costs" foreseen />
  </div>
</template>

<style scoped>
h3 {
  margin: 12px 0 6px;
}
</style>
