<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { session } from '@/api/session'
import { dayOf } from '@/parts/clock'
import type { Column } from '@/parts/columns'
import SheetTable from '@/parts/SheetTable.vue'
import { whyWords } from './queue'

/** The list of the day: what is counted, why, and how likely its books are wrong, in the order of one walk. */
defineProps<{ today: Schemas['AuditToday']; leads: boolean }>()
type Due = Schemas['AuditDue']
const columns: Column<Due>[] = [
  { name: 'bin', label: 'Bin', of: (d) => d.bin, to: (d) => `/audit/${d.location_id}/${d.item_id}`, mono: true },
  { name: 'item', label: 'Item', of: (d) => d.sku, mono: true },
  { name: 'class', label: 'Class', of: (d) => d.class },
  { name: 'why', label: 'Why', of: whyWords, width: 170 },
  {
    name: 'chance',
    label: 'Likely wrong',
    of: (d) => `${Math.round(d.chance * 100)} %`,
    right: true,
    mono: true,
  },
  {
    name: 'counted',
    label: 'Counted last',
    of: (d) => (d.counted_at ? dayOf(new Date(d.counted_at)) : 'never'),
    mono: true,
  },
  { name: 'due', label: 'Due', of: (d) => d.due_on, mono: true },
]
</script>

<template>
  <p data-today>
    <b class="mono">{{ today.rows.length }}</b> to be counted on one walk of
    <b class="mono">{{ Math.round(today.metres) }}</b> m: <b class="mono">{{ today.minutes }}</b> of
    {{ today.budget }} minutes<template v-if="today.left"
      >. <b class="mono">{{ today.left }}</b> more have a reason and do not fit into the day</template
    >.
  </p>
  <p v-if="today.rows.length" class="fields">
    <a class="btn" :href="`/api/v1/counts/today/sheet.pdf?site=${session.site}`" target="_blank" rel="noopener"
      >Print it</a
    >
    <router-link v-if="leads" class="btn" to="/audit/sheets/new?scope=reason">Make it a count sheet</router-link>
  </p>
  <SheetTable
    v-if="today.rows.length"
    label="To be counted today"
    :columns="columns"
    :rows="today.rows"
    :row-key="(d) => `${d.location_id}/${d.item_id}`"
  />
  <p class="mute small">
    How likely the books are wrong is learnt from what moved before each count so far, and from what the counts found.
    How many minutes there are, and how often each class is counted, is set with the site in the catalog.
  </p>
</template>
