<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { can, session } from '@/api/session'
import { plural, today } from '@/parts/words'
import OpenLines from './OpenLines.vue'
import BinEntry from '@/parts/BinEntry.vue'
import FormField from '@/parts/FormField.vue'
import TextEntry from '@/parts/TextEntry.vue'
import type { Column, Sort } from '@/parts/columns'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import CountEntry from '@/parts/CountEntry.vue'
import ListTable from '@/parts/ListTable.vue'
import QueryView from '@/parts/QueryView.vue'
import { useServerList } from '@/parts/serverList'
import { type Split, splits } from './splits'

/** What waits for a round: narrowed, ticked, and bounded for a wave. */
export type Chosen = {
  orders: number[]
  /** Lines of them that are left for another round. */
  left: number[]
}
export type Bounds = {
  split: Split
  max_cartons?: number
  max_lines?: number
  max_kg?: number
  zone: string
  from_bin: string
  to_bin: string
}
const emit = defineEmits<{
  plan: [chosen: Chosen, emptyFirst: string]
  wave: [chosen: Chosen, bounds: Bounds, emptyFirst: string]
}>()
defineProps<{ busy: boolean }>()
const site = computed(() => session.site)
const until = ref('')
const carrier = ref('')
const customer = ref('')
const zone = ref('')
const ready = ref(false)
const filter = computed(() => ({
  site: site.value,
  until: until.value || undefined,
  carrier: carrier.value || undefined,
  customer: customer.value || undefined,
  zone: zone.value || undefined,
  ready: ready.value || undefined,
}))
type Order = Schemas['PickOpenOrder']
type By = NonNullable<operations['list-pickable']['parameters']['query']>['sort']
const sort = ref<Sort | undefined>({ by: 'wanted', down: false })
const list = useServerList<Order>(
  ['pick', 'open', filter],
  sort,
  (at) => ask(api.GET('/api/v1/pick/open', { params: { query: { ...filter.value, ...at, sort: at.sort as By } } })),
  500,
)
const { query: open, rows, total, more } = list
/** What all of them come to, and what they can be narrowed by; as it was while another answer is on its way. */
const q = ref<Schemas['PickOpen']>()
watch(
  () => open.data.value?.pages[0] as Schemas['PickOpen'] | undefined,
  (page) => page && (q.value = page),
  { immediate: true },
)
const ticked = ref<(string | number)[]>([])
const chosen = computed(() => rows.value.filter((o) => ticked.value.includes(o.id)))
const sum = (of: 'units' | 'weight_kg' | 'minutes' | 'can_go') =>
  Math.round(10 * chosen.value.reduce((n, o) => n + Number(o[of]), 0)) / 10
/** Orders whose lines are shown, and the lines that are left out. */
const shown = ref<number[]>([])
const left = ref<number[]>([])
const show = (id: number) =>
  (shown.value = shown.value.includes(id) ? shown.value.filter((o) => o !== id) : [...shown.value, id])
const wished = computed<Chosen>(() => ({ orders: chosen.value.map((o) => o.id), left: left.value }))
const emptyFirst = ref('')
const bounds = ref<Bounds>({ split: 'walk', max_cartons: 8, zone: '', from_bin: '', to_bin: '' })
const opened = computed(() => rows.value.filter((o) => shown.value.includes(o.id)))
const columns: Column<Order>[] = [
  {
    name: 'number',
    label: 'Order',
    of: (o) => o.number,
    to: (o) => `/go/${o.number}`,
    mono: true,
    sort: true,
    width: 90,
  },
  { name: 'customer', label: 'Customer', of: (o) => o.customer, sort: true, width: 144 },
  {
    name: 'wanted',
    label: 'Wanted',
    sort: true,
    of: (o) => (o.late ? `late ${o.wanted_on}` : o.wanted_on === today() ? 'today' : o.wanted_on),
    mono: true,
    late: (o) => o.late,
    width: 124,
  },
  { name: 'carrier', label: 'Carrier', of: (o) => o.carrier, sort: true, width: 104 },
  { name: 'lines', label: 'Lines', of: (o) => o.lines, right: true, mono: true, sort: true, width: 60 },
  { name: 'units', label: 'Units', of: (o) => o.units, right: true, mono: true, sort: true, width: 68 },
  {
    name: 'canGo',
    label: 'Can go',
    of: (o) => o.can_go,
    right: true,
    mono: true,
    late: (o) => Number(o.can_go) < Number(o.units),
    sort: true,
    width: 78,
  },
  { name: 'kg', label: 'kg', of: (o) => o.weight_kg, right: true, mono: true, sort: true, width: 84 },
  { name: 'metres', label: 'Alone, m', of: (o) => o.metres, right: true, mono: true, sort: true, width: 86 },
  { name: 'minutes', label: 'min', of: (o) => o.minutes, right: true, mono: true, sort: true, width: 60 },
]
const days = [
  { value: '', label: 'any day' },
  { value: today(), label: 'by today' },
  { value: today(1), label: 'by tomorrow' },
  { value: today(7), label: 'within a week' },
]
const anyOf = (names: string[]) => [{ value: '', label: 'any' }, ...names.map((n) => ({ value: n, label: n }))]
</script>

<template>
  <h1>To be picked <router-link to="/schedules" class="small plainly">plan rounds on schedule</router-link></h1>
  <div v-if="q" class="fields">
    <FormField label="Wanted until"><ChoiceEntry v-model="until" :options="days" :width="140" /></FormField>
    <FormField label="Carrier"><ChoiceEntry v-model="carrier" :options="anyOf(q.carriers)" :width="170" /></FormField>
    <FormField label="Customer"><TextEntry v-model="customer" :width="134" /></FormField>
    <FormField label="Zone"><ChoiceEntry v-model="zone" :options="anyOf(q.zones)" :width="110" /></FormField>
    <a-checkbox v-model:checked="ready" class="check">Only what can go whole</a-checkbox>
  </div>
  <QueryView :query="open" :empty="() => !rows.length">
    <ListTable
      v-model:sort="sort"
      v-model:ticked="ticked"
      data-open
      name="to-be-picked"
      label="Orders to be picked"
      style="--list-height: 46vh"
      :columns="columns"
      :rows="rows"
      :total="total"
      :more="open.hasNextPage.value"
      :row-key="(o) => o.id"
      :to="(o) => `/go/${o.number}`"
      :tick-label="(o) => `Tick ${o.number}`"
      @more="more"
    >
      <template #lines="{ row: o }">
        <button
          type="button"
          class="lines mono"
          :aria-expanded="shown.includes(o.id)"
          :aria-label="`${plural(o.lines, 'line')} of ${o.number}`"
          @click="show(o.id)"
        >
          {{ o.lines }}
        </button>
      </template>
    </ListTable>
    <template #empty>No order that is released waits for a round here.</template>
  </QueryView>
  <OpenLines v-for="o in opened" :key="o.id" v-model="left" :order="o.id" :number="o.number" />
  <p v-if="q" class="mute">
    {{ chosen.length ? plural(chosen.length, 'order') + ' ticked' : plural(total, 'order') }}:
    <b class="mono">{{ chosen.length ? sum('units') : q.units }}</b> units,
    <b class="mono">{{ chosen.length ? sum('can_go') : q.can_go }}</b> can go now,
    <b class="mono">{{ chosen.length ? sum('weight_kg') : q.weight_kg }}</b> kg<template v-if="chosen.length"
      >, <b class="mono">{{ sum('minutes') }}</b> minutes one by one</template
    ><template v-if="left.length">; {{ plural(left.length, 'line') }} left for another round</template>.
  </p>
  <div class="fields">
    <FormField label="Rounds" tip="How the orders are shared out among rounds."
      ><ChoiceEntry v-model="bounds.split" :options="splits" :width="200"
    /></FormField>
    <FormField label="Cartons a trolley"><CountEntry v-model="bounds.max_cartons" /></FormField>
    <FormField label="Most lines"><CountEntry v-model="bounds.max_lines" placeholder="any" /></FormField>
    <FormField label="Kg a trolley"><CountEntry v-model="bounds.max_kg" placeholder="any" /></FormField>
    <FormField label="From bin"><BinEntry v-model="bounds.from_bin" placeholder="any" :width="98" /></FormField>
    <FormField label="To bin"><BinEntry v-model="bounds.to_bin" placeholder="any" :width="98" /></FormField>
    <FormField label="Empty this bin first"><BinEntry v-model="emptyFirst" placeholder="any" :width="98" /></FormField>
  </div>
  <div v-if="can('plan-wave')" class="fields" style="margin-top: 12px">
    <a-button
      type="primary"
      :disabled="!chosen.length || busy"
      @click="emit('wave', wished, { ...bounds, zone }, emptyFirst)"
    >
      Plan rounds for {{ plural(chosen.length, 'order') }}
    </a-button>
    <a-button :disabled="!chosen.length || busy" @click="emit('plan', wished, emptyFirst)">
      Plan one round, stop by stop
    </a-button>
  </div>
</template>

<style scoped>
.lines {
  font: inherit;
  background: none;
  border: 0;
  min-width: 24px;
  min-height: 24px;
  color: var(--act-ink);
  text-decoration: underline;
  cursor: pointer;
}
.plainly {
  font-weight: 400;
}
.check {
  align-self: flex-end;
  min-height: 32px;
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
