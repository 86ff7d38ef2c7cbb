<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import CommandNotice from '@/parts/CommandNotice.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { type Found, foundOptions } from '@/parts/found'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import { byLots, byUnits } from '@/parts/tracking'
import { money, stateWords, when } from '@/parts/words'
import DecideGoods from './DecideGoods.vue'
import { fateWords } from './returning'
import SettleReturn from './SettleReturn.vue'

/** A return: what comes back of which shipment, what of it is here, what became of it, and what the customer got. */
const props = defineProps<{ of: Schemas['ReturnsReturn'] }>()
const emit = defineEmits<{ changed: [] }>()
const queries = useQueryClient()
type Line = Schemas['ReturnsLine']
const r = computed(() => props.of)
const path = computed(() => ({ path: { id: r.value.id } }))
const body = computed(() => ({ version: r.value.version }))
const command = useCommand()
const { busy, run } = command
async function changed() {
  emit('changed')
  await queries.invalidateQueries({ queryKey: ['returns'] })
}
const does = {
  approve: () =>
    once((h) => ask(api.POST('/api/v1/returns/{id}/approve', { headers: h, params: path.value, body: body.value }))),
  withdraw: () =>
    once((h) => ask(api.POST('/api/v1/returns/{id}/withdraw', { headers: h, params: path.value, body: body.value }))),
}
async function act(what: keyof typeof does) {
  if (await run(does[what], (x) => `${x.number} is ${stateWords(x.state)}.`)) await changed()
}
const mail = () =>
  run(
    () => once((h) => ask(api.POST('/api/v1/returns/{id}/mail', { headers: h, params: path.value }))),
    (x) => `The paper of ${x.number} is mailed to ${x.customer}.`,
  )

const repaired = (decision: number) =>
  run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/returns/{id}/repaired', {
            headers: h,
            params: path.value,
            body: { version: r.value.version, decision_id: decision },
          }),
        ),
      ),
    (x) => `It goes to ${x.customer} again.`,
  ).then(changed)

/** It is received at the site's returns corner, as it was announced or as it is said to be here. */
const mayCome = computed(
  () =>
    can('open-arrival') && session.site === r.value.site_id && ['announced', 'partly_received'].includes(r.value.state),
)
const corners = useQuery({
  queryKey: ['locations', 'returns', computed(() => session.site)],
  queryFn: () => ask(api.GET('/api/v1/locations', { params: { query: { site: session.site, kind: 'returns' } } })),
  enabled: mayCome,
})
const typed = useDraft<Record<string, string>>(
  () => `return/${r.value.id}/here`,
  () => ({}),
)
const here = computed(() => typed.mine.value ?? {})
const expected = (l: Line) => String(Math.max(0, Number(l.quantity) - Number(l.received)))
const came = (l: Line) => (l.closed ? '0' : (here.value[l.id] ?? expected(l)))
/** In what condition each line came: said before it is received. */
const found = useDraft<Record<string, Found | ''>>(
  () => `return/${r.value.id}/found`,
  () => ({}),
)
const unsaid = computed(() =>
  r.value.lines.filter((l) => r.value.asks_found && Number(came(l)) > 0 && !found.mine.value?.[l.id]),
)
const coming = computed(() => r.value.lines.reduce((n, l) => n + Number(came(l) || 0), 0))
/** What a line is received with: its lot, and its units where they are known. */
function receipt(l: Line): Schemas['ReceiveReceiptLine'] {
  const lots = byLots(l) ? [{ code: l.lot, expires_on: l.expires_on ?? undefined, quantity: came(l) }] : undefined
  const units = l.serials.filter(
    (u) => !l.here.includes(u) && !l.decisions.some((x) => x.serials.split(', ').includes(u)),
  )
  const serials = byUnits(l) ? units.slice(0, Number(came(l))) : undefined
  const condition = found.mine.value?.[l.id] || undefined
  return { line_id: l.id, quantity: came(l), lots, serials, found: condition }
}
function receive() {
  return run(
    async () => {
      const orders = { order_ids: [r.value.id], dock_id: corners.data.value?.[0]?.id ?? 0 }
      const arrival = r.value.arrival_id
        ? await ask(api.GET('/api/v1/arrivals/{id}', { params: { path: { id: r.value.arrival_id } } }))
        : await once((h) => ask(api.POST('/api/v1/arrivals', { headers: h, body: orders })))
      const lines = r.value.lines.filter((l) => Number(came(l)) > 0).map(receipt)
      await once((h) =>
        ask(
          api.POST('/api/v1/arrivals/{id}/receive', {
            headers: h,
            params: { path: { id: arrival.id } },
            body: { version: arrival.version, lines },
          }),
        ),
      )
      typed.discard()
      found.discard()
      await changed()
      return arrival
    },
    (a) => `Received at ${a.dock} with ${a.number}.`,
  ).finally(changed)
}
const left = (l: Line) => Number(l.received) - Number(l.decided)
const number = (name: string, label: string, of: (l: Line) => string): Column<Line> => ({
  name,
  label,
  of,
  right: true,
  mono: true,
})
const comes: Column<Line>[] = [
  { name: 'found', label: 'Found', of: (l) => l.found },
  number('quantity', 'Expected', (l) => l.quantity),
  number('received', 'Received', (l) => l.received),
  number('decided', 'Decided', (l) => l.decided),
]
/** Goods that stay with the customer are neither received nor decided on. */
const stays: Column<Line>[] = [
  number('quantity', 'Announced', (l) => l.quantity),
  number('kept', 'Kept by the customer', (l) => l.kept),
]
const columns = computed<Column<Line>[]>(() => [
  { name: 'item', label: 'Item', of: (l) => `${l.sku}, ${l.description}`, to: (l) => `/stock/item/${l.item_id}` },
  {
    name: 'shipment',
    label: 'Delivery note',
    of: (l) => l.shipment,
    to: (l) => `/dispatch/${l.shipment_id}`,
    mono: true,
  },
  { name: 'goods', label: 'Lot or units', of: (l) => [l.lot, ...l.serials].filter(Boolean).join(', '), mono: true },
  { name: 'reason', label: 'Why', of: (l) => [l.reason, l.said].filter(Boolean).join(': ') },
  ...(r.value.goods_stay ? stays : comes),
  ...(mayCome.value
    ? [
        { name: 'here', label: 'Is here', right: true },
        ...(r.value.asks_found ? [{ name: 'condition', label: 'In what condition' }] : []),
      ]
    : []),
])
const decided = computed(() =>
  r.value.lines.flatMap((l) => l.decisions.map((x) => ({ ...x, sku: l.sku, key: l.id + x.at }))),
)
type Decided = (typeof decided.value)[number]
const decisions: Column<Decided>[] = [
  { name: 'item', label: 'Item', of: (x) => x.sku, mono: true },
  { name: 'quantity', label: 'How many', of: (x) => x.quantity, right: true, mono: true },
  { name: 'serials', label: 'Units', of: (x) => x.serials, mono: true },
  { name: 'fate', label: 'Became', of: (x) => fateWords(x.fate) },
  { name: 'reason', label: 'Why', of: (x) => x.reason },
  {
    name: 'value',
    money: true,
    label: 'Value',
    of: (x) => (Number(x.value) ? money(x.value) : ''),
    right: true,
    mono: true,
  },
  { name: 'outbound', label: 'Goes with', mono: true },
  {
    name: 'credit',
    label: 'Supplier credits',
    of: (x) =>
      x.fate !== 'supplier' ? '' : x.credit_number ? `${money(x.credited ?? '0')} with ${x.credit_number}` : 'expected',
  },
  { name: 'by', label: 'By', of: (x) => x.by },
  { name: 'at', label: 'When', of: (x) => when(x.at), mono: true },
]
</script>

<template>
  <h1>
    Return <span class="mono">{{ r.number }}</span> <small>{{ stateWords(r.state) }}</small>
  </h1>
  <p>
    {{ r.kind }} from {{ r.customer }}<template v-if="r.reason"> ({{ r.reason }})</template
    ><template v-if="r.goods_stay">, which keeps the goods</template
    ><template v-else
      >, to be sent in by <span :class="{ late: r.late }">{{ r.send_by }}</span></template
    ><template v-if="r.note">: {{ r.note }}</template
    >.
  </p>
  <div class="papers">
    <a class="btn" :href="`/api/v1/returns/${r.id}/paper.pdf`" target="_blank" rel="noopener">Print its paper</a>
    <a v-if="!r.goods_stay" class="btn" :href="`/api/v1/returns/${r.id}/label.pdf`" target="_blank" rel="noopener"
      >Print its label</a
    >
    <a-button v-if="can('mail-return')" :disabled="busy" @click="mail">Mail it</a-button>
  </div>
  <p v-if="r.settled_at" class="note g" data-settled>
    The customer got
    <router-link v-if="r.credit && can('list-invoices')" class="mono" :to="`/dispatch/invoices/${r.credit_id}`">{{
      r.credit
    }}</router-link><template v-if="r.replacement"
      ><template v-if="r.credit"> and </template
      ><router-link class="mono" :to="`/go/${r.replacement}`">{{ r.replacement }}</router-link></template
    ><template v-if="!r.credit && !r.replacement">nothing: it was not invoiced yet, and is not any more</template>,
    {{ when(r.settled_at) }}.
  </p>
  <CommandNotice :of="command" />
  <DraftNotice :of="typed" :labels="() => 'how many are here'" />
  <SheetTable data-lines label="Lines" :columns="columns" :rows="r.lines" :row-key="(l) => l.id">
    <template #here="{ row: l }">
      <QuantityEntry
        v-if="!l.closed"
        :model-value="came(l)"
        :label="`${l.sku} that are here`"
        @update:model-value="(q) => typed.mine.value && (typed.mine.value[l.id] = q ?? '')"
      />
    </template>
    <template #condition="{ row: l }">
      <ChoiceEntry
        v-if="!l.closed && found.mine.value"
        :model-value="found.mine.value[l.id] || undefined"
        :label="`Condition that ${l.sku} came in`"
        placeholder="say it"
        :options="foundOptions"
        :width="120"
        @update:model-value="(f) => (found.mine.value![l.id] = f ?? '')"
      />
    </template>
  </SheetTable>
  <p class="does">
    <a-button v-if="mayCome" type="primary" :disabled="busy || !coming || unsaid.length > 0" @click="receive"
      >Receive {{ coming }} at the returns corner</a-button
    >
    <span v-if="mayCome && coming && unsaid.length" class="mute"
      >Say in what condition {{ unsaid.length === 1 ? unsaid[0]!.sku : 'each line' }} came.</span
    >
    <router-link v-if="r.arrival_id" class="btn" :to="`/receive/arrival/${r.arrival_id}`"
      >Receive it in another way</router-link
    >
    <a-button
      v-if="r.state === 'asked' && can('approve-return')"
      type="primary"
      :disabled="busy"
      @click="act('approve')"
      >Approve {{ r.number }}</a-button
    >
    <ConfirmButton
      v-if="can('withdraw-return') && ['asked', 'announced', 'partly_received'].includes(r.state)"
      label="Expect nothing more"
      :title="`Expect nothing more on ${r.number}?`"
      :happens="`${Number(r.expected) - Number(r.received)} did not come: they stay with the customer, and may be returned on another return.`"
      does="Expect nothing more"
      :busy="busy"
      @confirm="act('withdraw')"
    />
  </p>
  <DecideGoods v-if="r.lines.some((l) => left(l) > 0) && can('decide-return')" :of="r" @decided="changed" />
  <template v-if="decided.length">
    <h2><span>Decided</span></h2>
    <SheetTable data-decisions label="Decided" :columns="decisions" :rows="decided" :row-key="(x) => x.key">
      <template #outbound="{ row: x }">
        <template v-if="x.outbound">{{ x.outbound }}</template>
        <ConfirmButton
          v-else-if="x.fate === 'repair' && can('send-repaired')"
          link
          label="It is repaired"
          :title="`Send ${x.serials || x.quantity} of ${x.sku} to ${r.customer} again?`"
          :happens="`It goes from quarantine to the dock, reserved for an order to ${r.customer} that is released at once.`"
          does="Send it again"
          :busy="busy"
          @confirm="repaired(x.id)"
        />
      </template>
    </SheetTable>
  </template>
  <SettleReturn v-if="r.may_settle && can('settle-return')" :of="r" @settled="changed" />
</template>

<style scoped>
.does,
.papers {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin: 14px 0;
}
</style>
