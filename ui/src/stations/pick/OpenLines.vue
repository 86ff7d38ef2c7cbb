<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import type { Column } from '@/parts/columns'
import SheetTable from '@/parts/SheetTable.vue'

/** The lines of an order that wait for a round, each with a tick; those without are left for another. */
const props = defineProps<{ order: number; number: string }>()
const left = defineModel<number[]>({ required: true })
const open = useQuery({
  queryKey: ['pick', 'open', computed(() => ({ site: session.site, order: props.order }))],
  queryFn: () => ask(api.GET('/api/v1/pick/open', { params: { query: { site: session.site, order: props.order } } })),
})
type Part = Schemas['PickOpenPart']
const parts = computed(() => open.data.value?.rows[0]?.parts ?? [])
const ticked = computed({
  get: () => parts.value.map((p) => p.line_id).filter((l) => !left.value.includes(l)),
  set: (keys: (string | number)[]) => {
    const mine = parts.value.map((p) => p.line_id)
    left.value = [...left.value.filter((l) => !mine.includes(l)), ...mine.filter((l) => !keys.includes(l))]
  },
})
const columns: Column<Part>[] = [
  { name: 'sku', label: 'Item', of: (p) => p.sku, mono: true },
  { name: 'description', label: 'Description', of: (p) => p.description },
  { name: 'bins', label: 'Bins', of: (p) => p.bins.join(', '), mono: true },
  { name: 'units', label: 'Units', of: (p) => p.units, right: true, mono: true },
  {
    name: 'canGo',
    label: 'Can go',
    of: (p) => p.can_go,
    right: true,
    mono: true,
    late: (p) => Number(p.can_go) < Number(p.units),
  },
]
</script>

<template>
  <h2>
    <span
      >Lines of <span class="mono">{{ number }}</span></span
    >
  </h2>
  <SheetTable
    v-model:ticked="ticked"
    data-part
    :label="`Lines of ${number}`"
    :columns="columns"
    :rows="parts"
    :row-key="(p) => p.line_id"
    :tick-label="(p) => `Take ${p.sku} of ${number}`"
  />
</template>
