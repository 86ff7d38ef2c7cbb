<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { session } from '@/api/session'
import type { Column, Sort } from '@/parts/columns'
import PagedList from '@/parts/PagedList.vue'
import QueryView from '@/parts/QueryView.vue'
import { useServerList } from '@/parts/serverList'
import { plural, stateWords } from '@/parts/words'

/** What lies where: of a location, an item, a lot, a carton or a pallet. */
type Holding = Schemas['StockHolding']
type Asked = operations['list-holdings']['parameters']['query']
const props = defineProps<{ of: Asked['of']; id: number }>()
const asked = computed(() => ({ of: props.of, id: props.id, site: session.site }))
const sort = ref<Sort | undefined>({ by: 'location', down: false })
const list = useServerList<Holding>(['stock', 'holdings', asked], sort, (at) =>
  ask(api.GET('/api/v1/holdings', { params: { query: { ...asked.value, ...at, sort: at.sort as Asked['sort'] } } })),
)
const { query, rows } = list
const file = computed(() => `/api/v1/holdings/export?of=${props.of}&id=${props.id}&site=${session.site}`)
const short = (h: Holding) => (h.carton ? `…${h.carton.slice(-5)}` : '')
/** A carton at the bench or on its way out is looked at where it is packed. */
const cartonPath = (h: Holding) =>
  h.carton_id ? (['bin', 'dock'].includes(h.kind) ? `/stock/carton/${h.carton_id}` : `/pack/${h.carton_id}`) : undefined
const tracked = (h: Holding) => h.lot ?? h.serials.join(' ')
/** Figures of one item alone can be added up. */
const one = computed(() => ['item', 'lot'].includes(props.of) || new Set(rows.value.map((h) => h.item_id)).size === 1)
const columns = computed<Column<Holding>[]>(() => {
  const all: Column<Holding>[] = [
    {
      name: 'location',
      sort: true,
      label: 'Location',
      of: (h) => h.location,
      to: (h) => `/stock/location/${h.location_id}`,
      mono: true,
      width: 100,
    },
    {
      name: 'sku',
      sort: true,
      label: 'Item',
      of: (h) => h.sku,
      to: (h) => `/stock/item/${h.item_id}`,
      mono: true,
      width: 92,
    },
    { name: 'description', sort: true, label: 'Description', of: (h) => h.description, width: 190 },
    { name: 'tracked', sort: true, label: 'Lot or serials', of: tracked, mono: true, width: 130 },
    { name: 'expires', sort: true, label: 'Expires', of: (h) => h.expires_on, mono: true, width: 104 },
    { name: 'carton', sort: true, label: 'Carton', of: short, to: cartonPath, mono: true, width: 82 },
    {
      name: 'condition',
      sort: true,
      label: 'Condition',
      of: (h) => stateWords(h.condition),
      late: (h) => h.condition !== 'good',
      width: 92,
    },
    { name: 'quantity', sort: true, label: 'Quantity', of: (h) => h.quantity, right: true, mono: true, width: 84 },
    {
      name: 'reserved',
      sort: true,
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
  <QueryView :query="query" :empty="() => !rows.length">
    <PagedList
      :key="of"
      v-model:sort="sort"
      data-holdings
      :name="`holdings-${of}`"
      label="What lies here"
      style="--list-height: 46vh"
      :sums="one ? undefined : {}"
      :columns="columns"
      :list="list"
      :file="file"
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
    </PagedList>
    <template #empty>Nothing lies here now.</template>
  </QueryView>
</template>

<style scoped>
.units {
  max-width: 420px;
  max-height: 50vh;
  overflow: auto;
}
</style>
