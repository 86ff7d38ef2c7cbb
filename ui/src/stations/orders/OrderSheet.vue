<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, seesMoney, worksAs } from '@/api/session'
import { useCommand } from '@/parts/command'
import { hasDraft } from '@/parts/draft'
import { goodsWords, money, plural, stateWords, today } from '@/parts/words'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { type HoldReason, holdReasons, holdWords, onHoldWords } from './holds'
import ReserveSheet from './ReserveSheet.vue'
import FormField from '@/parts/FormField.vue'
import TextEntry from '@/parts/TextEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import TaxFoot from '@/parts/TaxFoot.vue'
import type { Column } from '@/parts/columns'
import CommandNotice from '@/parts/CommandNotice.vue'
import ConfirmButton from '@/parts/ConfirmButton.vue'

/** One order with what of it is where, and every step that can be taken with it. */
const props = defineProps<{ order: Schemas['OrdersOrder']; released: string[] }>()
defineEmits<{ change: [] }>()
const queries = useQueryClient()
const o = computed(() => props.order)
const path = computed(() => ({ path: { id: o.value.id } }))
const may = computed(() => can('change-sales-order'))
const running = computed(() => ['on_hold', 'released'].includes(o.value.state))
const open = (l: Schemas['OrdersLine']) => Number(l.due) - Number(l.planned)
/** The line that stock is reserved for: at first one for which something is typed already. */
const typedFor = () => props.order.lines.find((l) => hasDraft(`reserve/${l.id}`))?.id ?? 0
const reserving = ref(typedFor())
const reason = ref('')
const covering = ref(false)
const command = useCommand()
const { busy, problem, done, run } = command
watch(
  () => o.value.id,
  () => {
    reserving.value = typedFor()
    holding.value = undefined
    reason.value = ''
    covering.value = false
    done.value = ''
    problem.value = undefined
  },
)
const cover = useQuery({
  queryKey: ['orders', 'cover', computed(() => o.value.id)],
  queryFn: () => ask(api.GET('/api/v1/sales-orders/{id}/cover', { params: path.value })),
  enabled: covering,
})
const boxes = useQuery({
  queryKey: ['orders', 'cartons', computed(() => o.value.id)],
  queryFn: () => ask(api.GET('/api/v1/sales-orders/{id}/cartons', { params: path.value })),
  enabled: computed(() => running.value && Number(o.value.due) > 0),
  retry: false,
})
const proposed = computed(() => {
  const by = new Map<string, number>()
  for (const c of boxes.data.value?.cartons ?? []) by.set(c.size, (by.get(c.size) ?? 0) + 1)
  return [...by].map(([size, n]) => `${n} × ${size}`).join(', ')
})

async function act<T>(call: (h: { 'Idempotency-Key': string }) => Promise<T>, say: (x: T) => string) {
  const x = await run(() => once(call), say)
  if (x !== undefined) await queries.invalidateQueries({ queryKey: ['orders'] })
  return x
}
const marked = () => ({ orders: [{ id: o.value.id, version: o.value.version }] })
const owed = () => ['customer_owes', 'credit_limit', 'reason_short'].includes(problem.value?.code ?? '')
/** A customer's money that is not settled raises a question, which a lead may answer. */
const asksWhy = computed(() => worksAs('lead') && (!!reason.value || owed()))
/** Why it is put on hold, while that is asked. */
const holding = ref<{ reason: HoldReason; note: string }>()
/** Nothing of it is on a round, in a carton or shipped. */
const mayHold = computed(
  () => running.value && o.value.lines.every((l) => !l.item_id || open(l) === Number(l.quantity)),
)
function toggleHolding() {
  holding.value = holding.value ? undefined : { reason: o.value.hold || 'hand', note: o.value.hold_note }
}
/** Released and put on hold take each other back. */
async function release() {
  const before = o.value.hold ? { reason: o.value.hold, note: o.value.hold_note } : undefined
  const gone = await act(
    (h) =>
      ask(
        api.POST('/api/v1/sales-orders/release', {
          headers: h,
          body: { ...marked(), alone: true, reason: reason.value || undefined },
        }),
      ),
    () => `${o.value.number} released.`,
  )
  if (gone) command.offerUndo(() => hold(before ?? { reason: 'hand', note: '' }))
}
async function hold(why: { reason: HoldReason; note: string }) {
  const held = await act(
    (h) => ask(api.POST('/api/v1/sales-orders/hold', { headers: h, body: { ...marked(), ...why } })),
    () => `${o.value.number} is on hold: ${holdWords[why.reason]}.`,
  )
  holding.value = undefined
  if (held) command.offerUndo(release)
}
const mail = () =>
  act(
    (h) => ask(api.POST('/api/v1/sales-orders/{id}/mail', { headers: h, params: path.value })),
    (x) =>
      `${x.state === 'quote' ? 'The quote' : 'The confirmation of'} ${x.number} is given to the mail host for ${x.email}.`,
  )
const accept = () =>
  act(
    (h) =>
      ask(
        api.POST('/api/v1/sales-orders/{id}/accept', {
          headers: h,
          params: path.value,
          body: { version: o.value.version, reason: reason.value || undefined },
        }),
      ),
    (x) => `${x.number} is an order now, on hold until somebody releases it.`,
  )
const cancelOpen = () =>
  act(
    (h) =>
      ask(
        api.POST('/api/v1/sales-orders/{id}/cancel-open', {
          headers: h,
          params: path.value,
          body: { version: o.value.version },
        }),
      ),
    (x) => [`What of ${x.number} was not shipped is cancelled.`, ...x.freed].join(' '),
  )
const unreserve = (id: number) =>
  act(
    (h) => ask(api.POST('/api/v1/reservations/{id}/unreserve', { headers: h, params: { path: { id } } })),
    () => 'The stock is unreserved.',
  )
/** What of it is there already is reserved, too, while the rest is bought. */
const withFree = ref(true)
const reserveFree = (before: string) =>
  act(
    (h) => ask(api.POST('/api/v1/sales-orders/{id}/reserve-free', { headers: h, params: path.value })),
    (x) => `${before} ${x.reserved} that are there are reserved for it.`,
  )
async function buy() {
  const partFree = withFree.value && (cover.data.value ?? []).some((c) => Number(c.short) < Number(c.wanted))
  const made = await act(
    (h) => ask(api.POST('/api/v1/sales-orders/{id}/cover', { headers: h, params: path.value })),
    (x) => `${x.map((p) => p.number).join(', ')} ${x.length === 1 ? 'is drafted' : 'are drafted'} for what is short.`,
  )
  if (made) {
    covering.value = false
    await queries.invalidateQueries({ queryKey: ['receive'] })
    if (partFree) await reserveFree(done.value)
  }
}
const shortages = computed(() => (cover.data.value ?? []).filter((c) => Number(c.short) > 0))
const reservationColumns: Column<Schemas['ReservationReservation']>[] = [
  { name: 'bin', label: 'Bin', of: (p) => p.location, to: (p) => `/stock/location/${p.location_id}`, mono: true },
  { name: 'quantity', label: 'Quantity', of: (p) => `${p.quantity} × ${p.sku}`, mono: true },
  {
    name: 'lot',
    label: 'Lot, unit or carton',
    of: goodsWords,
    mono: true,
  },
  { name: 'does', label: 'On' },
]
const lineColumns = computed<Column<Schemas['OrdersLine']>[]>(() => [
  { name: 'line', label: 'Line', of: (l) => String(l.line), mono: true },
  { name: 'item', label: 'Item' },
  { name: 'wanted', label: 'Wanted', of: (l) => l.quantity, right: true, mono: true },
  { name: 'open', label: 'Open', of: (l) => (l.item_id ? String(open(l)) : ''), right: true, mono: true },
  { name: 'reserved', label: 'Reserved', right: true, mono: true },
  { name: 'planned', label: 'On a round', of: (l) => (l.item_id ? l.planned : ''), right: true, mono: true },
  { name: 'picked', label: 'In cartons', of: (l) => (l.item_id ? l.picked : ''), right: true, mono: true },
  { name: 'shipped', label: 'Shipped', of: (l) => l.shipped, right: true, mono: true },
  { name: 'invoiced', label: 'Invoiced', of: (l) => l.invoiced, right: true, mono: true },
  {
    name: 'canGo',
    label: 'Can go',
    of: (l) => (l.can_go === null ? '' : l.can_go || 'no day known'),
    mono: true,
    late: (l) => l.can_go === '' || (l.can_go ?? '') > o.value.wanted_on,
  },
])
/** What is not shipped of it, in units. */
const unshipped = computed(() =>
  o.value.lines.reduce((n, l) => n + (l.item_id ? Number(l.quantity) - Number(l.cancelled) - Number(l.shipped) : 0), 0),
)
const coverColumns: Column<Schemas['PurchasingCover']>[] = [
  { name: 'item', label: 'Item', of: (c) => c.sku, mono: true },
  { name: 'wants', label: 'Wanted', of: (c) => c.wanted, right: true, mono: true },
  { name: 'freeOnceAll', label: 'Free after all orders', of: (c) => c.free, right: true, mono: true },
  { name: 'onOrderFor', label: 'On order for it', of: (c) => c.on_order, right: true, mono: true },
  { name: 'short', label: 'Short', right: true, mono: true },
  { name: 'from', label: 'From', of: (c) => c.supplier || 'nobody has supplied it yet', late: (c) => !!!c.supplier },
  { name: 'elsewhere', label: 'At other sites' },
]
/** What is short comes from another site of ours instead, and is reserved for the line when it does. */
async function transferFor(c: Schemas['PurchasingCover'], e: Schemas['AvailabilityElsewhere']) {
  const quantity = String(Math.min(Number(c.short), Number(e.spare)))
  const made = await act(
    (h) =>
      ask(
        api.POST('/api/v1/transfer-orders', {
          headers: h,
          body: {
            from_site_id: e.site_id,
            to_site_id: o.value.site_id,
            wanted_on: today(),
            expected_on: e.arrives_on,
            reason: `for ${o.value.number}`,
            release: true,
            lines: [{ item_id: c.item_id, quantity, covers: c.line_id }],
          },
        }),
      ),
    (t) => `${t.number} brings ${quantity} of ${c.sku} from ${e.site}, released.`,
  )
  if (made) await cover.refetch()
}
</script>

<template>
  <h1>
    {{ o.state === 'quote' ? 'Quote' : 'Order' }} <span class="mono">{{ o.number }}</span>
    <span class="mute small"
      >{{ stateWords(o.state) }}<template v-if="o.hold">: {{ onHoldWords(o) }}</template></span
    >
  </h1>
  <p class="mute">
    {{ o.customer }}, wanted <span class="mono" :class="{ late: o.late }">{{ o.wanted_on }}</span>,
    {{ o.carrier || 'no carrier' }}<template v-if="o.reference">, customer's reference {{ o.reference }}</template
    >.
    <template v-if="seesMoney()"
      ><b class="mono">{{ money(o.total) }}</b> in all.
    </template>
    <template v-if="o.quote_until && o.state === 'quote'">Valid until {{ o.quote_until }}.</template>
    <template v-if="o.note">{{ o.note }}.</template>
    <template v-if="o.owing">Taken though the customer owes, by {{ o.owing_by }}: {{ o.owing }}.</template>
  </p>
  <div v-if="o.blockers" class="note w">Blocked by: {{ o.blockers }}.</div>
  <div v-for="r in released" :key="r" class="note w">{{ r }}.</div>
  <SheetTable
    data-order
    label="Lines"
    :columns="lineColumns"
    :rows="o.lines"
    :row-key="(l) => l.id"
    :opened="reserving ? [reserving] : []"
  >
    <template #item="{ row: l }">
      <b>{{ l.description }}</b>
      <router-link v-if="l.item_id" class="mono small" :to="`/stock/item/${l.item_id}`">{{ l.sku }}</router-link>
      <span v-if="seesMoney()" class="mute small"> at {{ l.price }}, {{ l.price_why }}</span>
      <div v-if="Number(l.covered)" class="mute small">{{ l.covered }} on order for it</div>
      <div v-if="Number(l.cancelled)" class="mute small">{{ l.cancelled }} cancelled</div>
    </template>
    <template #reserved="{ row: l }">
      <a-button
        v-if="l.item_id && running && may && open(l) > 0"
        type="link"
        size="small"
        class="mono"
        :aria-expanded="reserving === l.id"
        :aria-label="`Reserve stock to line ${l.line}`"
        @click="reserving = reserving === l.id ? 0 : l.id"
      >
        {{ Number(l.reserved) ? `${l.reserved}, more` : 'Reserve' }}
      </a-button>
      <template v-else>{{ l.item_id ? l.reserved : '' }}</template>
    </template>
    <template #more="{ row: l }"><ReserveSheet :line="l" @done="reserving = 0" /></template>
    <template #foot><TaxFoot :taxes="o.taxes" :total="o.total" /></template>
  </SheetTable>
  <template v-if="o.reservations.length">
    <h2>
      <span>Reserved for it</span><span>{{ o.reservations.length }}</span>
    </h2>
    <SheetTable data-reservations :columns="reservationColumns" :rows="o.reservations" :row-key="(p) => p.id"
      ><template #does="{ row: p }"
        ><router-link v-if="p.round_id" class="mono" :to="`/pick/${p.round_id}`">{{ p.round }}</router-link>
        <a-button v-else-if="may" type="link" size="small" :disabled="busy" @click="unreserve(p.id)"
          >Unreserve</a-button
        ></template
      ></SheetTable
    >
  </template>
  <template v-if="covering">
    <h2><span>Shortages</span></h2>
    <SheetTable v-if="shortages.length" data-cover :columns="coverColumns" :rows="shortages" :row-key="(c) => c.line_id"
      ><template #short="{ row: c }"
        ><b>{{ c.short }}</b></template
      ><template #elsewhere="{ row: c }"
        ><template v-if="can('create-transfer-order')"
          ><a-button
            v-for="e in c.elsewhere"
            :key="e.site_id"
            size="small"
            :disabled="busy"
            :class="{ late: !e.in_time }"
            @click="transferFor(c, e)"
            >Transfer {{ Math.min(Number(c.short), Number(e.spare)) }} from {{ e.site }}, here
            {{ e.arrives_on }}</a-button
          ></template
        ></template
      ></SheetTable
    >
    <div v-else-if="cover.isSuccess.value" class="empty">
      Nothing is short: all is free, reserved for it or on order for it.
    </div>
    <p v-if="shortages.length">
      <a-checkbox v-model:checked="withFree">Reserve what is free of it now</a-checkbox>
    </p>
    <a-button v-if="shortages.length" type="primary" :disabled="busy" @click="buy">
      Draft {{ plural(new Set(shortages.map((c) => c.supplier_id)).size, 'purchase order') }}
    </a-button>
  </template>
  <p v-if="o.shipments.length || o.invoices.length">
    <template v-if="o.shipments.length"
      >Delivery notes:
      <router-link v-for="d in o.shipments" :key="d.id" class="mono" :to="`/dispatch/${d.id}`"
        >{{ d.number }}&ensp;</router-link
      ></template
    >
    <template v-if="o.invoices.length"
      >Invoices:
      <router-link
        v-for="b in can('list-invoices') ? o.invoices : []"
        :key="b.id"
        class="mono"
        :to="`/dispatch/invoices/${b.id}`"
        >{{ b.number }}&ensp;</router-link
      ></template
    >
  </p>
  <div v-if="holding" class="fields" data-holding>
    <FormField label="On hold for"
      ><ChoiceEntry v-model="holding.reason" :options="holdReasons" :width="140"
    /></FormField>
    <FormField label="Note"><TextEntry v-model="holding.note" :maxlength="200" :width="300" /></FormField>
    <a-button :disabled="busy" @click="hold(holding)">Hold {{ o.number }}</a-button>
  </div>
  <FormField v-if="asksWhy" label="Reason for accepting" field="reason" required class="under"
    ><TextEntry v-model="reason" :maxlength="200" :width="476"
  /></FormField>
  <div class="fields">
    <a-button v-if="o.state === 'quote' && may" type="primary" data-primary :disabled="busy" @click="accept">
      Make an order of {{ o.number }}
    </a-button>
    <a-button
      v-if="o.state === 'on_hold' && can('release-orders')"
      type="primary"
      data-primary
      :disabled="busy"
      @click="release"
    >
      Release {{ o.number }}
    </a-button>
    <router-link
      v-else-if="o.state === 'released' && can('release-round') && o.lines.some((l) => open(l) > 0)"
      class="btn"
      :to="`/pick?order=${o.id}`"
      >Plan a round for it</router-link
    >
    <template v-if="may">
      <a-button v-if="running || o.state === 'quote'" :disabled="busy" @click="$emit('change')"
        >Change the order</a-button
      >
      <a-button v-if="running && Number(o.due) > 0" :aria-expanded="covering" @click="covering = !covering">
        Shortages
      </a-button>
      <a-button v-if="mayHold" :aria-expanded="!!holding" :disabled="busy" @click="toggleHolding">
        {{ o.hold ? 'Change the hold' : 'Put on hold' }}
      </a-button>
      <a-button v-if="o.state !== 'cancelled'" :disabled="busy" @click="mail">
        Mail the {{ o.state === 'quote' ? 'quote' : 'confirmation' }}
      </a-button>
    </template>
    <a class="btn" :href="`/api/v1/sales-orders/${o.id}/confirmation.pdf`" target="_blank" rel="noopener"
      >Print the {{ o.state === 'quote' ? 'quote' : 'confirmation' }}</a
    >
    <a
      v-if="Number(o.picked) || Number(o.shipped)"
      class="btn"
      :href="`/api/v1/sales-orders/${o.id}/contents.pdf`"
      target="_blank"
      rel="noopener"
      >Contents list</a
    >
    <ConfirmButton
      v-if="may && (running || o.state === 'quote')"
      label="Cancel what is open"
      :title="`Cancel what is open of ${o.number}?`"
      :happens="`${unshipped} of ${o.quantity} units are not shipped: they are cancelled, what is reserved for them is free again, and what is picked of them is returned to stock.`"
      does="Cancel what is not shipped"
      :busy="busy"
      @confirm="cancelOpen"
    />
  </div>
  <!-- Under the buttons: what comes late must not move them from under the finger. -->
  <CommandNotice :of="command" class="under" />
  <p v-if="proposed" class="mute small">
    Cartons proposed for what is not in cartons yet: <b class="mono">{{ proposed }}</b><template
      v-if="boxes.data.value?.proven"
      >, no fewer hold it</template
    >.
  </p>
</template>

<style scoped>
.under,
.fields {
  margin-top: 12px;
}
</style>
