<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import type { Column, Sort } from '@/parts/columns'
import PagedList from '@/parts/PagedList.vue'
import QueryView from '@/parts/QueryView.vue'
import { useServerList } from '@/parts/serverList'
import { when } from '@/parts/words'
import { tracePath } from './trace'

/** The other way of a recall: all that a customer got, with its lots and units. */
const props = defineProps<{ id: string }>()
type Got = Schemas['RecallGot']
type By = NonNullable<operations['list-what-a-customer-got']['parameters']['query']>['sort']
const id = computed(() => Number(props.id))
const sort = ref<Sort | undefined>({ by: 'at', down: true })
const all = useServerList<Got>(['recall', 'got', id], sort, (at) =>
  ask(
    api.GET('/api/v1/customers/{id}/got', {
      params: { path: { id: id.value }, query: { ...at, sort: at.sort as By } },
    }),
  ),
)
const columns: Column<Got>[] = [
  { name: 'at', sort: true, label: 'When', of: (g) => when(g.at), mono: true, width: 150 },
  {
    name: 'shipment',
    sort: true,
    label: 'Delivery note',
    of: (g) => g.shipment,
    to: (g) => `/dispatch/${g.shipment_id}`,
    mono: true,
    width: 110,
  },
  { name: 'sku', sort: true, label: 'Item', of: (g) => `${g.sku}, ${g.item}`, to: (g) => `/stock/item/${g.item_id}` },
  {
    name: 'lot',
    sort: true,
    label: 'Lot',
    of: (g) => g.lot,
    to: (g) => (g.lot_id ? tracePath('lot', g.lot_id) : undefined),
    mono: true,
    width: 130,
  },
  {
    name: 'serial',
    sort: true,
    label: 'Serial',
    of: (g) => g.serial,
    to: (g) => (g.serial_id ? tracePath('serial', g.serial_id) : undefined),
    mono: true,
    width: 140,
  },
  { name: 'carton', label: 'Carton', of: (g) => `…${g.carton.slice(-5)}`, mono: true, width: 90 },
  { name: 'quantity', sort: true, label: 'Quantity', of: (g) => g.quantity, right: true, mono: true, width: 90 },
]
</script>

<template>
  <div class="page">
    <h1>What a customer got</h1>
    <p class="mute">
      With lots and units, from whatever site it went. A lot or a serial opens what became of all of it.
    </p>
    <QueryView :query="all.query">
      <div v-if="!all.total.value" class="empty">Nothing was shipped to this customer yet.</div>
      <PagedList
        v-else
        v-model:sort="sort"
        name="got"
        label="What a customer got"
        :columns="columns"
        :list="all"
        :file="`/api/v1/customers/${id}/got/export?`"
        :row-key="(g: Got) => `${g.shipment_id}/${g.carton}/${g.sku}/${g.lot}/${g.serial}`"
      />
    </QueryView>
  </div>
</template>
