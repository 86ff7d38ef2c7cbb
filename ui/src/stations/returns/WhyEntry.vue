<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { api, ask } from '@/api/client'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { named } from './kinds'

/** Why goods come back: one of the reasons of the catalog. */
defineProps<{ sku: string; field: string }>()
const reason = defineModel<number | null>({ required: true })
const reasons = useQuery({ queryKey: ['returns', 'reasons'], queryFn: () => ask(api.GET('/api/v1/return-reasons')) })
</script>

<template>
  <ChoiceEntry
    :model-value="reason ?? undefined"
    :label="`Why ${sku} comes back`"
    :field="field"
    :options="named(reasons.data.value)"
    :width="170"
    @update:model-value="(r) => (reason = r ?? null)"
  />
</template>
