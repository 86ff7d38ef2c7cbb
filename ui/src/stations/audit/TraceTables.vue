<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { computed } from 'vue'
import type { Column } from '@/parts/columns'
import SheetTable from '@/parts/SheetTable.vue'
import { stateWords, when } from '@/parts/words'
import { called } from './trace'

/** What became of the goods, row by row: in all, where they are, who got them, where they came from, what went otherwise. */
const props = defineProps<{ of: Schemas['RecallTrace'] }>()
const figure = <R extends object>(name: string, label: string, of: (r: R) => string): Column<R> => ({
  name,
  label,
  of,
  right: true,
  mono: true,
})
const item = <R extends { sku: string }>(): Column<R> => ({ name: 'item', label: 'Item', of: (r) => r.sku, mono: true })
const which = <R extends { lot: string; serials: string | string[] }>(): Column<R> => ({
  name: 'which',
  label: 'Lot or units',
  of: called,
  mono: true,
})
const go = (number: string) => (number && !number.includes(' ') ? `/go/${number}` : undefined)
const sums: Column<Schemas['RecallGoods']>[] = [
  item(),
  which(),
  figure('came', 'Came in', (g) => g.came),
  figure('found', 'Turned up', (g) => g.found),
  figure('shipped', 'Shipped', (g) => g.shipped),
  figure('back', 'Came back', (g) => g.came_back),
  figure('sent', 'To supplier', (g) => g.sent_back),
  figure('scrapped', 'Scrapped', (g) => g.scrapped),
  figure('lost', 'Lost', (g) => g.lost),
  figure('left', 'Must be left', (g) => (g.on_the_way_out ? '' : g.left)),
  figure('stands', 'Stands', (g) => (g.on_the_way_out ? '' : g.stands)),
  {
    ...figure<Schemas['RecallGoods']>('differs', 'Differs', (g) => (g.on_the_way_out ? '' : g.differs)),
    late: (g) => !g.on_the_way_out && Number(g.differs) !== 0,
  },
]
const here: Column<Schemas['RecallRest']>[] = [
  { name: 'site', label: 'Site', of: (r) => r.site || 'between sites' },
  {
    name: 'place',
    label: 'Place',
    of: (r) => r.location,
    to: (r) => `/stock/location/${r.location_id}`,
    mono: true,
  },
  { name: 'carton', label: 'Carton or pallet', of: (r) => (r.carton ? `…${r.carton.slice(-5)}` : ''), mono: true },
  item(),
  which(),
  figure('quantity', 'Quantity', (r) => r.quantity),
  {
    name: 'condition',
    label: 'Is',
    of: (r) => (r.condition === 'recalled' ? 'held' : stateWords(r.condition)),
    late: (r) => r.condition === 'recalled',
  },
  { name: 'order', label: 'For', of: (r) => r.order, to: (r) => go(r.order), mono: true },
]
const went: Column<Schemas['RecallSent']>[] = [
  {
    name: 'customer',
    label: 'Customer',
    of: (r) => r.customer,
    to: (r) => (r.customer_id ? `/audit/got/${r.customer_id}` : undefined),
  },
  item(),
  which(),
  figure('quantity', 'Quantity', (r) => r.quantity),
  { name: 'with', label: 'Delivery note', of: (r) => r.shipment, to: (r) => `/dispatch/${r.shipment_id}`, mono: true },
  { name: 'order', label: 'Order', of: (r) => r.order, to: (r) => go(r.order), mono: true },
  { name: 'at', label: 'When', of: (r) => when(r.at), mono: true },
]
const back: Column<Schemas['RecallBack']>[] = [
  { name: 'customer', label: 'Customer', of: (r) => r.customer },
  item(),
  which(),
  figure('quantity', 'Quantity', (r) => r.quantity),
  { name: 'return', label: 'Return', of: (r) => r.return, to: (r) => go(r.return), mono: true },
  { name: 'at', label: 'When', of: (r) => when(r.at), mono: true },
]
const came: Column<Schemas['RecallOrigin']>[] = [
  { name: 'supplier', label: 'From', of: (r) => r.supplier },
  item(),
  which(),
  figure('quantity', 'Quantity', (r) => r.quantity),
  { name: 'order', label: 'Order', of: (r) => r.order, to: (r) => go(r.order), mono: true },
  { name: 'arrival', label: 'Arrival', of: (r) => r.arrival, to: (r) => go(r.arrival), mono: true },
  { name: 'site', label: 'At', of: (r) => r.site },
  { name: 'at', label: 'When', of: (r) => when(r.at), mono: true },
]
const hows: Record<Schemas['RecallGone']['how'], string> = {
  scrapped: 'scrapped',
  lost: 'lost',
  found: 'turned up',
  sent_back: 'back to the supplier',
}
const gone: Column<Schemas['RecallGone']>[] = [
  { name: 'how', label: 'How', of: (r) => hows[r.how] },
  item(),
  which(),
  figure('quantity', 'Quantity', (r) => r.quantity),
  { name: 'document', label: 'Document', of: (r) => r.document, to: (r) => go(r.document), mono: true },
  { name: 'note', label: 'Why', of: (r) => r.note },
  { name: 'person', label: 'By', of: (r) => r.person },
  { name: 'at', label: 'When', of: (r) => when(r.at), mono: true },
]
const pooled: Column<Schemas['RecallPooled']>[] = [
  { name: 'item', label: 'Item', of: (p) => `${p.sku}, ${p.item}`, to: (p) => `/stock/item/${p.item_id}` },
  figure('quantity', 'Came', (p) => p.quantity),
]
const outOnly = computed(() => props.of.goods.filter((g) => g.on_the_way_out).map((g) => g.sku))
</script>

<template>
  <SheetTable
    v-if="of.goods.length > 1 || !of.whole"
    data-sums
    label="What became of each"
    :columns="sums"
    :rows="of.goods"
    :row-key="(g) => `${g.item_id}/${g.lot_id}`"
  />
  <p v-if="outOnly.length" class="note w">
    {{ outOnly.join(', ') }} is known by lots or units from the way out on: what came in and what is here is not told
    apart by them.
  </p>
  <h2><span>Where it is now</span></h2>
  <SheetTable
    data-here
    label="Where it is now"
    :columns="here"
    :rows="of.here"
    :row-key="(r) => `${r.location_id}/${r.carton}/${r.sku}/${r.lot}/${r.condition}`"
    ><template #empty>Nothing of it is left with us.</template></SheetTable
  >
  <h2><span>Who got it</span></h2>
  <SheetTable
    data-went
    label="Who got it"
    :columns="went"
    :rows="of.went"
    :row-key="(r) => `${r.shipment}/${r.sku}/${r.lot}`"
    ><template #empty>No customer got any of it.</template></SheetTable
  >
  <template v-if="of.back.length">
    <h2><span>Came back</span></h2>
    <SheetTable label="Came back" :columns="back" :rows="of.back" :row-key="(r) => `${r.return}/${r.sku}/${r.lot}`" />
  </template>
  <template v-if="of.gone.length">
    <h2><span>Off the books, or turned up</span></h2>
    <SheetTable
      label="Off the books, or turned up"
      :columns="gone"
      :rows="of.gone"
      :row-key="(r) => `${r.at}/${r.document}/${r.sku}/${r.lot}/${r.how}`"
    />
  </template>
  <h2><span>Where it came from</span></h2>
  <SheetTable
    label="Where it came from"
    :columns="came"
    :rows="of.came"
    :row-key="(r) => `${r.arrival}/${r.order}/${r.sku}/${r.lot}/${r.supplier}`"
    ><template #empty>No supplier sent it: it turned up otherwise.</template></SheetTable
  >
  <template v-if="of.pooled.length">
    <h2><span>Came too, and cannot be followed</span></h2>
    <SheetTable
      label="Came too, and cannot be followed"
      :columns="pooled"
      :rows="of.pooled"
      :row-key="(p) => p.item_id"
    />
  </template>
</template>
