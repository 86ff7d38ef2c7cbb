<script setup lang="ts">
import { api, ask, once, type Schemas } from '@/api/client'
import { can } from '@/api/session'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import CommandNotice from '@/parts/CommandNotice.vue'
import SheetTable from '@/parts/SheetTable.vue'
import { plural, stateWords, when } from '@/parts/words'

/** One refill: what it fetches and brings, and how far it is. */
const props = defineProps<{ of: Schemas['RefillRefill'] }>()
const emit = defineEmits<{ changed: [] }>()
type Line = Schemas['RefillLine']
const command = useCommand()
const path = () => ({ path: { id: props.of.id } })
async function cancel() {
  const done = await command.run(
    () => once((h) => ask(api.POST('/api/v1/refills/{id}/cancel', { headers: h, params: path() }))),
    (r) => `${r.number} is given up.`,
  )
  if (done) emit('changed')
}
async function end() {
  const done = await command.run(
    () => once((h) => ask(api.POST('/api/v1/refills/{id}/end', { headers: h, params: path() }))),
    (r) => `${r.number} is over: what was on its trolley is back where it was.`,
  )
  if (done) emit('changed')
}
const figure = (name: 'quantity' | 'fetched' | 'missed' | 'brought' | 'returned', label: string): Column<Line> => ({
  name,
  label,
  of: (l) => l[name],
  right: true,
  mono: true,
})
const columns: Column<Line>[] = [
  { name: 'from', label: 'From', of: (l) => l.from, to: (l) => `/stock/location/${l.from_id}`, mono: true },
  { name: 'to', label: 'To', of: (l) => l.to, to: (l) => `/stock/location/${l.to_id}`, mono: true },
  { name: 'item', label: 'Item', of: (l) => `${l.sku} ${l.item}`, to: (l) => `/stock/item/${l.item_id}` },
  { name: 'lot', label: 'Lot', of: (l) => l.lot, mono: true },
  {
    name: 'carton',
    label: 'Carton',
    of: (l) => (l.carton ? `…${l.carton.slice(-4)}${l.whole ? ' as it is' : ''}` : ''),
    mono: true,
  },
  figure('quantity', 'Planned'),
  figure('fetched', 'Fetched'),
  figure('missed', 'Not there'),
  figure('brought', 'Brought'),
  figure('returned', 'Went back'),
]
</script>

<template>
  <h1>
    Refill <span class="mono">{{ of.number }}</span>
  </h1>
  <p class="mute">
    {{ stateWords(of.state) }}, {{ plural(of.lines.length, 'line') }}, {{ of.metres }} m; made by {{ of.made_by }}
    {{ when(of.made_at) }}
    <template v-if="of.person">, walked by {{ of.person }}</template>
    <template v-if="of.done_at">, over {{ when(of.done_at) }}</template>
  </p>
  <CommandNotice :of="command" />
  <SheetTable data-refill-lines label="Lines" :columns="columns" :rows="of.lines" :row-key="(l) => l.id" />
  <div class="actions">
    <router-link v-if="of.state === 'planned' || of.state === 'walking'" :to="`/hand/refill/${of.id}`"
      ><a-button type="primary">Walk it in the hand</a-button></router-link
    >
    <a-button v-if="of.state === 'planned' && can('cancel-refill')" :disabled="command.busy.value" @click="cancel"
      >Give it up</a-button
    >
    <a-button v-if="of.state === 'walking' && can('end-refill')" :disabled="command.busy.value" @click="end"
      >End it, the rest goes back</a-button
    >
  </div>
</template>

<style scoped>
.actions {
  display: flex;
  gap: 10px;
  margin-top: 14px;
}
</style>
