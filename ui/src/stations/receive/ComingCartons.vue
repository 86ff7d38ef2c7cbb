<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { Column } from '@/parts/columns'
import SheetTable from '@/parts/SheetTable.vue'
import { unitsWords } from '@/parts/words'
import type { useArrival } from './arrival'

/** Cartons that another site shipped and that did not come yet: each is taken in as it is, by its label or here. */
const props = defineProps<{ step: ReturnType<typeof useArrival> }>()
type Carton = Schemas['InboundCarton']
const coming = computed(() => props.step.coming.data.value ?? [])
const off = computed(() => props.step.off.value)
const words = (c: Carton) =>
  c.goods
    .map((g) => [`${g.quantity} ${g.sku}`, g.lot && `lot ${g.lot}`, unitsWords(g.serials)].filter(Boolean).join(', '))
    .join('; ')
const columns: Column<Carton>[] = [
  { name: 'sscc', label: 'Carton on its way', of: (c) => c.sscc, mono: true },
  { name: 'goods', label: 'With', of: words },
  { name: 'does', label: '' },
]
</script>

<template>
  <SheetTable
    v-if="coming.length"
    data-coming
    style="margin-bottom: 14px"
    label="Cartons on their way"
    :columns="columns"
    :rows="coming"
    :row-key="(c) => c.sscc"
    :now="(c) => c.sscc === off"
  >
    <template #does="{ row: c }">
      <a-button v-if="c.sscc === off" size="small" @click="step.leaveCarton()">Not this one</a-button>
      <a-button v-else size="small" :aria-label="`Take in carton …${c.sscc.slice(-4)}`" @click="step.takeCarton(c.sscc)"
        >Take it in</a-button
      >
    </template>
  </SheetTable>
  <div v-if="step.said.value?.line === 0" class="note s" role="alert">{{ step.said.value.text }}</div>
</template>
