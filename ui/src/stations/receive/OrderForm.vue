<script setup lang="ts">
import { keepPreviousData, useQueries, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, seesMoney, session } from '@/api/session'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import CarrierEntry from '@/parts/CarrierEntry.vue'
import type { Column } from '@/parts/columns'
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
import { plural } from '@/parts/words'
import { takeScans } from '@/shell/scan'
import { blank, type Line, lineOf, ofOrder, sent, textLine } from './purchase'

/** A purchase order as it is written, or changed while it is open. */
const props = defineProps<{ order?: Schemas['PurchasingOrder'] }>()
const emit = defineEmits<{ saved: [order: Schemas['PurchasingOrder']]; leave: [] }>()

const buys = computed(() => can('create-purchase-order'))
const unwritten = blank(buys.value ? 'order' : 'request')
const draft = useDraft(
  () => `purchase-order/${props.order?.id ?? `new at ${session.site}`}`,
  () => (props.order ? ofOrder(props.order) : unwritten),
)
const d = computed(() => draft.mine.value!)
const { busy, problem, run } = useCommand()

const stockOf = async (sku: string) =>
  (
    await ask(
      api.GET('/api/v1/items', {
        params: { query: { q: sku, site: session.site, limit: 1, supplier: d.value.supplier?.id } },
      }),
    )
  )[0]
const figures = useQueries({
  queries: computed(() =>
    d.value.lines.map((l) => ({
      queryKey: ['stock', 'items', 'of', l.sku, session.site],
      queryFn: () => stockOf(l.sku),
      enabled: l.item > 0,
    })),
  ),
})
const stock = (i: number) => figures.value[i]?.data
const packsOf = (i: number) => stock(i)?.item.packs ?? []
const packOptions = (l: Line, i: number) => [
  ...(l.pack ? [] : [{ value: 0, label: stock(i)?.item.base_unit ?? '' }]),
  ...packsOf(i).map((p) => ({ value: p.id, label: p.name })),
]
/** What is typed of lines, as the server counts it in base units. */
const typedOf = (l: Line) => ({ item_id: l.item, pack_id: l.pack, quantity: l.quantity })
const typed = refDebounced(
  computed(() => d.value.lines.filter((l) => l.item && l.quantity).map(typedOf)),
  180,
)
const counts = useQuery({
  queryKey: ['count', typed],
  queryFn: async () => {
    const counted = typed.value
    const told = await ask(api.POST('/api/v1/items/count', { body: { counted } }))
    return new Map(counted.map((c, i) => [JSON.stringify(c), told[i]]))
  },
  enabled: computed(() => typed.value.length > 0),
  placeholderData: keepPreviousData,
})
const countOf = (l: Line) => counts.data.value?.get(JSON.stringify(typedOf(l)))

const suggestions = useQuery({
  queryKey: ['stock', 'suggestions', computed(() => session.site), computed(() => d.value.supplier?.id ?? 0)],
  queryFn: () =>
    ask(
      api.GET('/api/v1/suggestions', {
        params: { query: { site: session.site, supplier: d.value.supplier?.id ?? 0 } },
      }),
    ),
  enabled: computed(() => !!d.value.supplier),
})
const suggested = computed(() =>
  (d.value.supplier ? (suggestions.data.value ?? []) : []).filter(
    (s) => !d.value.lines.some((l) => l.item === s.item.id),
  ),
)

/** Choosing the supplier fills its terms. */
function chose(p?: Schemas['CatalogParty']) {
  d.value.supplier = p ?? null
  if (!p) return
  d.value.carrier = p.carrier
  d.value.terms = p.terms
}
const add = (found: Schemas['CatalogItemStock']) => d.value.lines.push(lineOf(found))
function addSuggested() {
  for (const s of suggested.value)
    d.value.lines.push(
      lineOf(s, { pack: s.pack_id, quantity: s.suggest.packs, price: s.price, why: s.suggest.calculation }),
    )
}
takeScans(async (_, reading) => {
  if (!reading?.goods) return false
  const found = await stockOf(reading.goods.item.sku)
  if (found) add(found)
  return true
})

const { sure, asking, yes } = useSure(() => draft.mine.value)
const ready = computed(() => (props.order || d.value.supplier) && d.value.lines.length > 0)
const terms = () => ({
  expected_on: d.value.expected,
  carrier: d.value.carrier || undefined,
  terms: d.value.terms || undefined,
  // Who sees no money leaves the freight as it is.
  freight: (seesMoney() && d.value.freight) || undefined,
  freight_by: seesMoney() ? d.value.freightBy : undefined,
  sure: sure.value,
})

async function create(send: boolean) {
  asking(() => create(send))
  const isQuote = d.value.begunAs === 'quote'
  const body = {
    supplier_id: d.value.supplier?.id ?? 0,
    site_id: session.site,
    ...terms(),
    note: d.value.note,
    began_as: d.value.begunAs,
    quote: isQuote ? d.value.quote : undefined,
    quote_until: isQuote ? d.value.quoteUntil : undefined,
    send,
    lines: sent(d.value.lines),
  }
  const order = await run(() =>
    once((h) =>
      buys.value
        ? ask(api.POST('/api/v1/purchase-orders', { headers: h, body }))
        : ask(api.POST('/api/v1/purchase-requests', { headers: h, body })),
    ),
  )
  if (!order) return
  draft.discard()
  emit('saved', order)
}

async function amend(o: Schemas['PurchasingOrder']) {
  asking(() => amend(o))
  const body = {
    version: o.version,
    ...terms(),
    ...(o.state === 'draft'
      ? {
          supplier_id: d.value.supplier?.id,
          quote: o.began_as === 'quote' ? d.value.quote : undefined,
          quote_until: o.began_as === 'quote' ? d.value.quoteUntil : undefined,
        }
      : {}),
    lines: sent(d.value.lines),
    remove: removedLines(draft.base.value?.lines ?? [], d.value.lines),
  }
  const order = await run(() =>
    draft.sending(async () => {
      const now = await once((h) =>
        ask(api.POST('/api/v1/purchase-orders/{id}/amend', { headers: h, params: { path: { id: o.id } }, body })),
      )
      draft.saved()
      return now
    }),
  )
  if (order) emit('saved', order)
}
function leave() {
  draft.discard()
  emit('leave')
}

const columns: Column<Line>[] = [
  { name: 'item', label: 'Item', of: (l) => l.sku },
  { name: 'onHand', label: 'On hand', right: true, mono: true },
  { name: 'free', label: 'Free', right: true, mono: true },
  { name: 'onOrder', label: 'On order', right: true, mono: true },
  { name: 'levels', label: 'Reorder at, to', right: true, mono: true },
  { name: 'pack', label: 'Pack' },
  { name: 'quantity', label: 'Quantity', right: true },
  { name: 'base', label: 'In base units', right: true, mono: true },
  { name: 'price', money: true, label: 'Price', right: true },
  { name: 'needed', label: 'Needed by' },
  { name: 'does', label: '' },
]
const begins = [
  { value: 'order' as const, label: 'an order' },
  { value: 'request' as const, label: 'a request to buy' },
  { value: 'quote' as const, label: "the supplier's quote" },
]
const spread = [
  { value: 'value' as const, label: 'value' },
  { value: 'weight' as const, label: 'weight' },
]
/** How a field is called where somebody else changed it too. */
const named: Record<string, string> = {
  supplier: 'the supplier',
  quote: 'the quote',
  quoteUntil: 'the day it is valid until',
  expected: 'the day expected',
  carrier: 'the carrier',
  terms: 'the terms',
  freight: 'the freight',
  freightBy: 'how freight is spread',
  pack: 'the pack',
  quantity: 'the quantity',
  price: 'the price',
  needed: 'the day needed',
}
const nameOf = (path: string[]) => calledAt(path, named, d.value.lines)
const titleOf = (l: Line) => l.sku || 'Non-stock line'
</script>

<template>
  <EntryForm :problem="problem" @sure="yes">
    <DraftNotice :of="draft" :labels="nameOf" />
    <div class="fields">
      <FormField
        v-if="!order || order.state === 'draft'"
        label="Supplier"
        field="supplier_id"
        required
        tip="Choosing one fills its carrier and terms, and offers what is at the reorder point."
        ><PartyFinder :model-value="d.supplier ?? undefined" kind="supplier" @update:model-value="chose"
      /></FormField>
      <FormField label="Expected" field="expected_on" required tip="The day the goods are to arrive at the dock."
        ><DateEntry v-model="d.expected"
      /></FormField>
      <FormField label="Carrier" field="carrier"
        ><CarrierEntry v-model="d.carrier" none="the supplier's own" :width="160"
      /></FormField>
      <FormField label="Terms" field="terms" tip="How and when the supplier is paid."
        ><TextEntry v-model="d.terms" :width="140"
      /></FormField>
      <FormField
        v-if="seesMoney()"
        label="Freight"
        field="freight"
        tip="For the whole order; it is spread over its lines as landed cost."
        ><QuantityEntry v-model="d.freight"
      /></FormField>
      <FormField v-if="seesMoney()" label="Freight spread by" field="freight_by"
        ><ChoiceEntry v-model="d.freightBy" :options="spread" :width="110"
      /></FormField>
    </div>
    <div v-if="order?.state === 'draft' && d.begunAs === 'quote'" class="fields">
      <FormField label="Quote number" field="quote" required
        ><TextEntry v-model="d.quote" mono :width="140"
      /></FormField>
      <FormField
        label="Valid until"
        field="quote_until"
        required
        tip="A quote that is over is renewed with its new number, day and prices."
        ><DateEntry v-model="d.quoteUntil"
      /></FormField>
    </div>
    <div v-if="!order" class="fields">
      <FormField
        label="Started as"
        tip="A request asks a lead to buy. A quote keeps the supplier's prices until its day."
        ><ChoiceEntry v-model="d.begunAs" :options="begins" :disabled="!buys" :width="190"
      /></FormField>
      <template v-if="d.begunAs === 'quote'">
        <FormField label="Quote number" field="quote" required
          ><TextEntry v-model="d.quote" mono :width="140"
        /></FormField>
        <FormField label="Valid until" field="quote_until" required><DateEntry v-model="d.quoteUntil" /></FormField>
      </template>
      <FormField label="Note" field="note"><TextEntry v-model="d.note" :width="300" :maxlength="500" /></FormField>
    </div>
    <p v-if="suggested.length" class="note w">
      {{ plural(suggested.length, 'item') }} of {{ d.supplier?.name }} {{ suggested.length === 1 ? 'is' : 'are' }} at
      the reorder point.
      <a-button @click="addSuggested">Add {{ plural(suggested.length, 'suggested line') }}</a-button>
    </p>
    <SheetTable data-lines label="Lines" :columns="columns" :rows="d.lines" :row-key="(l) => l.key">
      <template #item="{ row: l }">
        <template v-if="l.item">
          <b>{{ l.description }}</b>
          <div class="mono mute small">{{ l.sku }}</div>
          <div v-if="l.why" class="mute small">{{ l.why }}</div>
        </template>
        <template v-else>
          <TextEntry v-model="l.text" label="Non-stock line" placeholder="freight, a service" :width="190" />
        </template>
      </template>
      <template #onHand="{ index: i }">{{ stock(i)?.figures.on_hand }}</template>
      <template #free="{ index: i }">
        {{ stock(i)?.figures.free }}
        <div v-if="stock(i) && stock(i)!.figures.promised !== '0'" class="mute small">
          {{ stock(i)!.figures.promised }} promised
        </div>
      </template>
      <template #onOrder="{ index: i }">{{ stock(i)?.figures.on_order }}</template>
      <template #levels="{ index: i }">
        <span v-if="stock(i)" class="mute">{{ stock(i)!.levels.reorder_point }}, {{ stock(i)!.levels.target }}</span>
      </template>
      <template #pack="{ row: l, index: i }">
        <ChoiceEntry
          v-if="l.item"
          v-model="l.pack"
          :label="`${l.sku} pack`"
          :field="`lines[${i}].pack_id`"
          :options="packOptions(l, i)"
          :width="110"
        />
      </template>
      <template #quantity="{ row: l, index: i }">
        <QuantityEntry v-model="l.quantity" :label="`${titleOf(l)} quantity`" :field="`lines[${i}].quantity`" />
      </template>
      <template #base="{ row: l }">
        <template v-if="countOf(l)">
          <span v-if="countOf(l)!.wrong" class="late small">{{ countOf(l)!.wrong }}</span>
          <template v-else>{{ countOf(l)!.quantity }} {{ countOf(l)!.unit }}</template>
        </template>
      </template>
      <template #price="{ row: l, index: i }">
        <QuantityEntry v-model="l.price" :label="`${titleOf(l)} price`" :field="`lines[${i}].price`" />
      </template>
      <template #needed="{ row: l, index: i }">
        <DateEntry
          v-model="l.needed"
          :label="`${titleOf(l)} needed by`"
          :field="`lines[${i}].needed_on`"
          placeholder=""
          clear
        />
      </template>
      <template #does="{ index: i }">
        <a-button type="link" size="small" @click="d.lines.splice(i, 1)">Remove</a-button>
      </template>
      <template #empty>No lines yet. Find an item below, scan one, or choose a supplier whose items run out.</template>
      <template #foot>
        <div class="adding">
          <ItemFinder label="Add an item" :supplier="d.supplier?.id" class="finder" @choose="add" />
          <a-button @click="d.lines.push(textLine())">Add a non-stock line</a-button>
        </div>
      </template>
    </SheetTable>
  </EntryForm>
  <div class="fields under">
    <a-button v-if="order" type="primary" data-primary :disabled="!ready || busy" @click="amend(order)">
      Save {{ order.number }} with {{ plural(d.lines.length, 'line') }}
    </a-button>
    <template v-else>
      <a-button
        v-if="d.begunAs === 'order'"
        type="primary"
        data-primary
        :disabled="!ready || busy"
        @click="create(true)"
      >
        Send the order, {{ plural(d.lines.length, 'line') }}
      </a-button>
      <a-button :disabled="!ready || busy" @click="create(false)">
        {{ { order: 'Save as a draft', quote: 'Save the quote', request: 'Save the request' }[d.begunAs] }}
      </a-button>
    </template>
    <a-button @click="leave">{{ order ? 'Discard changes' : 'Discard' }}</a-button>
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
