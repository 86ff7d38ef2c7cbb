<script setup lang="ts">
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session, worksAs } from '@/api/session'
import type { Column } from '@/parts/columns'
import CarrierEntry from '@/parts/CarrierEntry.vue'
import { useCommand } from '@/parts/command'
import DateEntry from '@/parts/DateEntry.vue'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import { calledAt, removedLines } from '@/parts/lines'
import ItemFinder from '@/parts/ItemFinder.vue'
import PartyFinder from '@/parts/PartyFinder.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import { useSure } from '@/parts/sure'
import TextEntry from '@/parts/TextEntry.vue'
import { money, unitsWords } from '@/parts/words'
import ManyItems from './ManyItems.vue'
import { blank, charge, type Line, lineOf, ofOrder, sent } from './sale'

/** Takes an order or a quote, or changes one that is open. */
const props = defineProps<{ order?: Schemas['OrdersOrder'] }>()
const emit = defineEmits<{ saved: [order: Schemas['OrdersOrder']]; leave: [] }>()
const queries = useQueryClient()
const unwritten = blank()
const draft = useDraft(
  () => `sales-order/${props.order?.id ?? `new at ${session.site}`}`,
  () => (props.order ? ofOrder(props.order) : unwritten),
)
const d = computed(() => draft.mine.value!)
const { busy, problem, run } = useCommand()
const { sure, asking, yes } = useSure(() => draft.mine.value)
/** What the order would come to as it is entered, line by line, once it comes to rest. */
const entered = refDebounced(
  computed(() => ({
    order_id: props.order?.id,
    customer_id: props.order?.customer_id ?? d.value.customer?.id,
    site_id: session.site,
    wanted_on: d.value.wanted || undefined,
    lines: sent(d.value).lines,
  })),
  150,
)
const outlooks = useQuery({
  queryKey: ['stock', 'outlook', entered],
  queryFn: () => ask(api.POST('/api/v1/sales-orders/outlook', { body: entered.value })),
  enabled: computed(() => entered.value.lines.length > 0),
  placeholderData: keepPreviousData,
  retry: false,
})
const outlook = (i: number) => {
  const lines = outlooks.data.value?.lines
  return lines?.length === d.value.lines.length && d.value.lines[i]?.item ? lines[i] : undefined
}

const add = (found: Schemas['CatalogItemStock']) => d.value.lines.push(lineOf(found.item))
const many = ref(false)
function addMany(lines: [Schemas['CatalogItem'], string][]) {
  for (const [item, quantity] of lines) d.value.lines.push(lineOf(item, quantity))
  many.value = false
}

async function create(how: 'released' | 'hold' | 'quote' | 'credit') {
  asking(() => create(how))
  const body = {
    ...sent(d.value),
    sure: sure.value,
    customer_id: d.value.customer?.id ?? 0,
    site_id: session.site,
    release: how === 'released',
    quote_until: how === 'quote' ? d.value.until : undefined,
    hold: how === 'credit' ? { reason: 'credit' as const, note: d.value.reason } : undefined,
  }
  const order = await run(() => once((h) => ask(api.POST('/api/v1/sales-orders', { headers: h, body }))))
  if (order) told(order)
}
async function change(o: Schemas['OrdersOrder']) {
  asking(() => change(o))
  const body = {
    ...sent(d.value),
    sure: sure.value,
    version: o.version,
    remove: removedLines(draft.base.value?.lines ?? [], d.value.lines),
    quote_until: o.state === 'quote' ? d.value.until : undefined,
  }
  const order = await run(() =>
    draft.sending(async () => {
      const now = await once((h) =>
        ask(api.POST('/api/v1/sales-orders/{id}/change', { headers: h, params: { path: { id: o.id } }, body })),
      )
      draft.saved()
      return now
    }),
  )
  if (order) told(order)
}
/** Told before the lists are read anew: the form may be gone by then. */
function told(order: Schemas['OrdersOrder']) {
  draft.discard()
  emit('saved', order)
  void queries.invalidateQueries({ queryKey: ['orders'] })
}
function leave() {
  draft.discard()
  emit('leave')
}

/** A customer that owes raises a question, which a lead may answer. */
const owes = computed(() => ['customer_owes', 'credit_limit', 'reason_short'].includes(problem.value?.code ?? ''))
const asksWhy = computed(() => worksAs('lead') && (!!d.value.reason || owes.value))
/** Where a line's price comes from. */
function priceWhy(l: Line, i: number) {
  if (!l.item) return ''
  const own = props.order?.lines.find((x) => x.id === l.id)
  if (own && Number(own.price) === Number(l.price)) return own.price_why
  if (l.price) return 'as entered'
  const given = outlook(i)
  return given ? (given.price?.why ?? 'no sales price: enter one') : ''
}
const shipped = (l: Line) => Number(props.order?.lines.find((x) => x.id === l.id)?.shipped ?? 0)
const comes = (l: Line, i: number) => {
  const o = outlook(i)
  return !l.item || !o ? '' : o.next_on ? `${o.next_quantity} on ${o.next_on}` : 'none on order'
}
const canGo = (i: number) => {
  const day = outlook(i)?.can_go
  return typeof day === 'string' ? day || 'no day known' : ''
}
const late = (i: number) => {
  const day = outlook(i)?.can_go
  return typeof day === 'string' && (!day || day > d.value.wanted)
}
const ready = computed(() => d.value.lines.length > 0 && (!!props.order || !!d.value.customer))
const columns: Column<Line>[] = [
  { name: 'item', label: 'Item' },
  { name: 'wanted', label: 'Wanted', right: true },
  { name: 'price', label: 'Price', right: true },
  { name: 'free', label: 'Free', right: true, mono: true },
  { name: 'after', label: 'Free after', right: true, mono: true },
  { name: 'comes', label: 'Next receipt', mono: true },
  { name: 'canGo', label: 'Can go', mono: true },
  { name: 'does', label: '' },
]
/** How a field is called where somebody else changed it too. */
const named: Record<string, string> = {
  wanted: 'the day wanted',
  reference: "the customer's reference",
  carrier: 'the carrier',
  note: 'the note',
  until: 'the day the quote holds until',
  quantity: 'the quantity',
  price: 'the price',
}
const nameOf = (path: string[]) => calledAt(path, named, d.value.lines)
const titleOf = (l: Line) => l.sku || 'charge'
</script>

<template>
  <EntryForm :problem="problem" @sure="yes">
    <DraftNotice :of="draft" :labels="nameOf" />
    <div class="fields">
      <FormField
        v-if="!order"
        label="Customer"
        field="customer_id"
        required
        tip="Fills the carrier, and prices its lines."
        ><PartyFinder
          :model-value="d.customer ?? undefined"
          kind="customer"
          @update:model-value="(p) => (d.customer = p ?? null)"
      /></FormField>
      <FormField label="Wanted" field="wanted_on" required tip="The day it is to be shipped."
        ><DateEntry v-model="d.wanted"
      /></FormField>
      <FormField label="Customer's reference" field="reference" tip="Their order number; it stands on every paper."
        ><TextEntry v-model="d.reference" :width="152"
      /></FormField>
      <FormField
        label="Carrier"
        field="carrier"
        :warn="d.customer && !d.carrier ? `${d.customer.carrier}, as the customer has it` : ''"
        ><CarrierEntry v-model="d.carrier" :width="188" :none="d.customer?.carrier || 'the customer\'s own'"
      /></FormField>
      <FormField v-if="order?.state === 'quote'" label="Valid until" field="quote_until" required
        ><DateEntry v-model="d.until"
      /></FormField>
      <FormField label="Note" field="note"><TextEntry v-model="d.note" :width="188" :maxlength="500" /></FormField>
    </div>
    <SheetTable data-lines label="Lines" :columns="columns" :rows="d.lines" :row-key="(l) => l.key">
      <template #item="{ row: l, index: i }">
        <template v-if="l.item">
          <b>{{ l.description }}</b> <span class="mono mute small">{{ l.sku }}</span>
          <span v-if="shipped(l)" class="mute small">, {{ shipped(l) }} shipped</span>
        </template>
        <TextEntry
          v-else
          v-model="l.text"
          :width="230"
          :maxlength="120"
          placeholder="freight, a service"
          :label="`What line ${i + 1} is`"
          :field="`lines[${i}].text`"
        />
      </template>
      <template #wanted="{ row: l, index: i }">
        <QuantityEntry v-model="l.quantity" :label="`${titleOf(l)} wanted`" :field="`lines[${i}].quantity`" />
      </template>
      <template #price="{ row: l, index: i }">
        <QuantityEntry
          v-model="l.price"
          :placeholder="outlook(i)?.price?.amount"
          :label="`${titleOf(l)} price`"
          :field="`lines[${i}].price`"
        />
        <div class="mute small">{{ priceWhy(l, i) }}</div>
      </template>
      <template #free="{ index: i }">{{ outlook(i)?.free }}</template>
      <template #after="{ index: i }">
        <span :class="{ late: outlook(i)?.free_after.startsWith('-') }">{{ outlook(i)?.free_after }}</span>
      </template>
      <template #comes="{ row: l, index: i }"
        ><span class="small">{{ comes(l, i) }}</span></template
      >
      <template #canGo="{ index: i }">
        <span class="small" :class="{ late: late(i) }">{{ canGo(i) }}</span>
      </template>
      <template #does="{ index: i }">
        <a-button type="link" size="small" @click="d.lines.splice(i, 1)">Remove</a-button>
      </template>
      <template #empty>No lines yet. Find an item below, or add many at once.</template>
      <template #foot>
        <div class="adding">
          <ItemFinder label="Add an item" class="finder" @choose="add" />
          <a-button @click="many = !many">{{ many ? 'One by one' : 'Many at once' }}</a-button>
          <a-button @click="d.lines.push(charge())">Add a charge</a-button>
        </div>
      </template>
    </SheetTable>
    <ManyItems v-if="many" @add="addMany" />
    <p class="mute">
      Total <b class="mono">{{ d.lines.length ? money(outlooks.data.value?.total ?? '0') : money('0') }}</b>.
    </p>
    <p v-if="outlooks.data.value?.delays.length" class="note w" data-delays>
      {{ unitsWords(outlooks.data.value.delays) }} could go on the day wanted, and cannot any more with this order
      before {{ outlooks.data.value.delays.length === 1 ? 'it' : 'them' }}.
    </p>
    <FormField v-if="asksWhy" label="Reason for accepting" field="reason" required
      ><TextEntry v-model="d.reason" :width="476" :maxlength="200"
    /></FormField>
  </EntryForm>
  <div v-if="order" class="fields under">
    <a-button type="primary" data-primary :disabled="!ready || busy" @click="change(order)">
      Change {{ order.number }}
    </a-button>
    <a-button @click="leave">Discard changes</a-button>
    <span class="mute small"
      >What is picked and not wanted any more is returned to stock; lines that are removed are cancelled.</span
    >
  </div>
  <div v-else class="fields under">
    <a-button type="primary" data-primary :disabled="!ready || busy" @click="create('released')">
      Take the order and release it
    </a-button>
    <a-button :disabled="!ready || busy" @click="create('hold')">Take the order, on hold</a-button>
    <a-button v-if="owes" :disabled="!ready || busy" @click="create('credit')">Take it on hold for credit</a-button>
    <FormField label="Quote valid until" field="quote_until"><DateEntry v-model="d.until" /></FormField>
    <a-button :disabled="!ready || busy" @click="create('quote')">Save as a quote</a-button>
    <a-button @click="leave">Discard</a-button>
  </div>
</template>

<style scoped>
.under {
  margin-top: 14px;
}
.adding {
  display: flex;
  gap: 8px;
}
.finder {
  flex: 1;
}
</style>
