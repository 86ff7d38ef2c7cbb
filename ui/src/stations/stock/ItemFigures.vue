<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import type { Column } from '@/parts/columns'
import QueryView from '@/parts/QueryView.vue'
import SheetTable from '@/parts/SheetTable.vue'

/** The figures of an item, which add up, and what each is made of. */
type Part = Schemas['StockPart']
type Figure = Part['figure'] | 'free'
const props = defineProps<{ item: Schemas['CatalogItem']; figures: Schemas['LedgerFigures'] }>()
const labels: Record<Figure, string> = {
  on_hand: 'On hand',
  in_cartons: 'in cartons',
  on_hold: 'on hold',
  reserved: 'reserved',
  promised: 'promised',
  free: 'free',
  on_order: 'On order',
}
const signs: Record<Figure, string> = {
  on_hand: '',
  in_cartons: '=',
  on_hold: '+',
  reserved: '+',
  promised: '+',
  free: '+',
  on_order: '',
}
const names = Object.keys(labels) as Figure[]
const site = computed(() => session.site)
const parts = useQuery({
  queryKey: ['stock', 'parts', computed(() => props.item.id), site],
  queryFn: () =>
    ask(api.GET('/api/v1/items/{id}/parts', { params: { path: { id: props.item.id }, query: { site: site.value } } })),
})
const opened = ref<Figure>()
/** What is free is what the others leave of what is on hand. */
const rest = computed<Part[]>(() =>
  names
    .filter((n): n is Part['figure'] => n !== 'free' && n !== 'on_order')
    .map((figure) => ({
      figure,
      document: '',
      location: '',
      day: '',
      words: labels[figure],
      quantity:
        figure === 'on_hand' || props.figures[figure] === '0' ? props.figures[figure] : `-${props.figures[figure]}`,
    })),
)
const shown = computed(() =>
  opened.value === 'free' ? rest.value : (parts.data.value ?? []).filter((p) => p.figure === opened.value),
)
const columns: Column<Part>[] = [
  {
    name: 'document',
    label: 'Order',
    of: (p) => p.document,
    to: (p) => (p.document ? `/go/${p.document}` : undefined),
    mono: true,
    width: 110,
  },
  { name: 'words', label: 'For or of', of: (p) => p.words },
  { name: 'location', label: 'Location', of: (p) => p.location, mono: true },
  { name: 'day', label: 'Wanted or expected', of: (p) => p.day, mono: true },
  { name: 'quantity', label: 'Quantity', of: (p) => p.quantity, right: true, mono: true },
]
/** Columns that say anything of this figure. */
const saying = computed(() => columns.filter((c) => shown.value.some((p) => c.of!(p))))
</script>

<template>
  <div class="figures" role="group" aria-label="Figures">
    <template v-for="n in names" :key="n">
      <span v-if="signs[n]" class="sign mute" aria-hidden="true">{{ signs[n] }}</span>
      <button
        type="button"
        :class="{ main: n === 'free', open: opened === n, apart: n === 'on_order' }"
        :aria-expanded="opened === n"
        :data-figure="n"
        @click="opened = opened === n ? undefined : n"
      >
        <span class="label">{{ labels[n] }}</span><span class="mono value">{{ figures[n] }}</span>
      </button>
    </template>
  </div>
  <p class="mute small">Counted in: {{ item.base_unit }}. Press a figure to see what makes it up.</p>
  <div v-if="opened" class="made">
    <QueryView :query="parts">
      <SheetTable
        v-if="shown.length"
        data-parts
        :label="`What makes up ${labels[opened]}`"
        :columns="saying"
        :rows="shown"
        :row-key="(p) => `${p.figure}/${p.document}/${p.location}/${p.words}/${p.day}`"
      />
      <div v-else class="empty">Nothing is {{ labels[opened].toLowerCase() }}.</div>
    </QueryView>
  </div>
</template>

<style scoped>
.figures {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  margin: 10px 0 4px;
}
button {
  font: inherit;
  color: inherit;
  text-align: right;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 6px 13px;
  cursor: pointer;
}
button:hover {
  border-color: var(--edge);
}
.made {
  margin-bottom: 14px;
}
.open {
  box-shadow: inset 0 -3px 0 var(--act);
}
.main {
  background: var(--act2);
  border-color: var(--act);
}
.apart {
  margin-left: 14px;
}
.label {
  display: block;
  text-align: left;
  font-size: 13px;
  color: var(--mute);
}
.value {
  font-size: 20px;
}
.sign {
  font-size: 18px;
}
</style>
