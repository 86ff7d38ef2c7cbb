<script setup lang="ts">
import type { Schemas } from '@/api/client'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'

/** Where goods that go were taken from, and what is left there. */
defineProps<{ origins: Schemas['ShippingOrigin'][] }>()
const columns: Column<Schemas['ShippingOrigin']>[] = [
  { name: 'pickedFrom', label: 'Picked from', of: (o) => o.bin, mono: true },
  { name: 'itemAndLot', label: 'Item and lot' },
  { name: 'goes', label: 'Goes', of: (o) => o.quantity, right: true, mono: true },
  { name: 'leftThere', label: 'Left there', of: (o) => o.left, right: true, mono: true },
]
</script>

<template>
  <SheetTable
    v-if="origins.length"
    data-origins
    :columns="columns"
    :rows="origins"
    :row-key="(o) => `${o.item_id}/${o.lot_id}/${o.bin}`"
    ><template #itemAndLot="{ row: o }"
      ><span class="mono">{{ o.sku }}</span
      ><span v-if="o.lot" class="mono mute lot">{{ o.lot }}</span></template
    ></SheetTable
  >
</template>

<style scoped>
.lot {
  margin-left: 0.6em;
}
</style>
