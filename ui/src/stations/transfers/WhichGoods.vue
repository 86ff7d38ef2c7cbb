<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask } from '@/api/client'
import { session } from '@/api/session'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { byLots, byUnits } from '@/parts/tracking'
import UnitsEntry from '@/parts/UnitsEntry.vue'
import type { Line } from './between'

/** Which lot of a line goes, or which units; the withdrawal rule chooses where nothing is said. */
const props = defineProps<{ line: Line; field: string }>()
const lot = defineModel<number>('lot')
const serials = defineModel<string[]>('serials', { default: () => [] })
const byLot = computed(() => byLots(props.line))
const byUnit = computed(() => byUnits(props.line))
const there = useQuery({
  queryKey: ['stock', 'choosable', computed(() => props.line.item), computed(() => session.site)],
  queryFn: () =>
    ask(
      api.GET('/api/v1/holdings', {
        params: { query: { site: session.site, of: 'item', id: props.line.item, limit: 200 } },
      }),
    ),
  enabled: computed(() => byLot.value || byUnit.value),
})
const good = computed(() => (there.data.value?.rows ?? []).filter((h) => h.condition === 'good'))
const lots = computed(() => {
  const by = new Map<number, { label: string; quantity: number }>()
  for (const h of good.value)
    if (h.lot_id)
      by.set(h.lot_id, {
        label: h.lot ?? '',
        quantity: (by.get(h.lot_id)?.quantity ?? 0) + Number(h.quantity) - Number(h.reserved),
      })
  return [
    { value: 0, label: 'by the withdrawal rule' },
    ...[...by].map(([value, l]) => ({ value, label: `${l.label}, ${l.quantity} free` })),
  ]
})
const units = computed(() => good.value.flatMap((h) => h.serials))
</script>

<template>
  <ChoiceEntry
    v-if="byLot"
    v-model="lot"
    :label="`Lot of ${line.sku}`"
    :field="`${field}.lot_id`"
    :options="lots"
    :width="180"
  />
  <UnitsEntry
    v-else-if="byUnit"
    v-model="serials"
    :units="units"
    :label="`Units of ${line.sku}`"
    :field="`${field}.serials`"
    :width="180"
  />
</template>
