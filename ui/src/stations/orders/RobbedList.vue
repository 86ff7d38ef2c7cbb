<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import type { Column } from '@/parts/columns'
import SheetTable from '@/parts/SheetTable.vue'

/** Orders that lack what orders wanted later hold: somebody decides whose it is. */
type Robbed = Schemas['AvailabilityRobbed']
const robbed = useQuery({
  queryKey: ['orders', 'robbed', computed(() => session.site)],
  queryFn: () => ask(api.GET('/api/v1/sales-orders/robbed', { params: { query: { site: session.site } } })),
})
const columns: Column<Robbed>[] = [
  { name: 'order', label: 'Order', of: (r) => r.order, to: (r) => `/orders/${r.order_id}`, mono: true },
  { name: 'wanted', label: 'Wanted', of: (r) => r.wanted_on, mono: true },
  { name: 'sku', label: 'Item', of: (r) => r.sku, to: (r) => `/stock/item/${r.item_id}`, mono: true },
  { name: 'lacks', label: 'Lacks', of: (r) => r.lacks, right: true, mono: true, late: () => true },
  { name: 'by', label: 'Held for orders wanted later' },
]
</script>

<template>
  <template v-if="robbed.data.value?.length">
    <h2 class="head"><span>Wanted earlier, held for later orders</span></h2>
    <SheetTable
      data-robbed
      label="Wanted earlier, held for later orders"
      :columns="columns"
      :rows="robbed.data.value"
      :row-key="(r) => `${r.order_id}/${r.item_id}`"
    >
      <template #by="{ row: r }">
        <span v-for="h in r.by" :key="h.order_id" class="nb held">
          <span class="mono">{{ h.quantity }}</span> for
          <router-link class="mono" :to="`/orders/${h.order_id}`">{{ h.order }}</router-link>, {{ h.wanted_on
          }}<template v-if="h.on_round">, on a round</template>
        </span>
      </template>
    </SheetTable>
  </template>
</template>

<style scoped>
.head {
  margin-top: 18px;
}
.held {
  display: block;
}
</style>
