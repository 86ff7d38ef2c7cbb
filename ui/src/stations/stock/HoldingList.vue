<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import type { Column } from '@/parts/columns'
import WholeList from '@/parts/WholeList.vue'
import { plural, stateWords } from '@/parts/words'

/** What lies where: of a bin, an item or a lot. */
type Holding = Schemas['StockHolding']
const props = defineProps<{ of: string; code: string; holdings: Holding[] }>()
const short = (h: Holding) => (h.carton ? `…${h.carton.slice(-5)}` : '')
/** A carton at the bench or on its way out is looked at where it is packed. */
const cartonPath = (h: Holding) =>
  h.carton_id ? (['bin', 'dock'].includes(h.kind) ? `/stock/carton/${h.carton_id}` : `/pack/${h.carton_id}`) : undefined
const tracked = (h: Holding) => h.lot ?? h.serials.join(' ')
/** Figures of one item alone can be added up. */
const one = computed(() => new Set(props.holdings.map((h) => h.item_id)).size === 1)
const columns = computed<Column<Holding>[]>(() => {
  const all: Column<Holding>[] = [
    {
      name: 'location',
      label: 'Location',
      of: (h) => h.location,
      to: (h) => `/stock/location/${h.location_id}`,
      mono: true,
      width: 100,
    },
    { name: 'sku', label: 'Item', of: (h) => h.sku, to: (h) => `/stock/item/${h.item_id}`, mono: true, width: 92 },
    { name: 'description', label: 'Description', of: (h) => h.description, width: 190 },
    { name: 'tracked', label: 'Lot or serials', of: tracked, mono: true, width: 130 },
    { name: 'expires', label: 'Expires', of: (h) => h.expires_on, mono: true, width: 104 },
    { name: 'carton', label: 'Carton', of: short, to: cartonPath, mono: true, width: 82 },
    {
      name: 'condition',
      label: 'Condition',
      of: (h) => stateWords(h.condition),
      late: (h) => h.condition !== 'good',
      width: 92,
    },
    { name: 'quantity', label: 'Quantity', of: (h) => h.quantity, right: true, mono: true, width: 84 },
    {
      name: 'reserved',
      label: 'Reserved',
      of: (h) => (Number(h.reserved) ? h.reserved : ''),
      right: true,
      mono: true,
      width: 86,
    },
  ]
  return all.filter((c) => (props.of === 'item' ? !['sku', 'description'].includes(c.name) : c.name !== props.of))
})
</script>

<template>
  <WholeList
    v-if="holdings.length"
    data-holdings
    :name="`holdings-${of}`"
    :file="code"
    label="What lies here"
    style="--list-height: 46vh"
    :summed="one ? ['quantity', 'reserved'] : []"
    :columns="columns"
    :rows="holdings"
    :row-key="(h) => `${h.location_id}/${h.item_id}/${h.lot_id}/${h.carton_id}/${h.condition}`"
    :to="(h) => (of === 'location' ? `/stock/item/${h.item_id}` : `/stock/location/${h.location_id}`)"
  >
    <template #tracked="{ row: h }">
      <router-link v-if="h.lot_id" tabindex="-1" :to="`/stock/lot/${h.lot_id}`">{{ h.lot }}</router-link>
      <a-popover v-if="h.serials.length" trigger="click" placement="bottom">
        <template #content
          ><div class="mono units">{{ h.serials.join(' ') }}</div></template
        >
        <a-button type="link" size="small">{{ plural(h.serials.length, 'serial') }}</a-button>
      </a-popover>
    </template>
  </WholeList>
  <div v-else class="empty">Nothing lies here now.</div>
</template>

<style scoped>
.units {
  max-width: 420px;
  max-height: 50vh;
  overflow: auto;
}
</style>
