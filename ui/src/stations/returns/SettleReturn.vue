<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import ItemFinder from '@/parts/ItemFinder.vue'
import { newKey } from '@/parts/lines'
import { usePreview } from '@/parts/preview'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import { money } from '@/parts/words'

/** The money that the customer gets for a return, line by line, and what it gets instead, before either is given. */
const props = defineProps<{ of: Schemas['ReturnsReturn'] }>()
const emit = defineEmits<{ settled: [] }>()
interface Instead {
  key: string
  item: number
  sku: string
  text: string
  quantity: string
  price: string
}
interface Typed {
  mail: boolean
  /** The invoice that a line is credited against, by line. */
  against: Record<string, number>
  instead: Instead[]
}
const draft = useDraft<Typed>(
  () => `return/${props.of.id}/settle`,
  () => ({ mail: false, against: {}, instead: [] }),
)
const d = computed(() => draft.mine.value!)
const exchange = computed(() => props.of.gives === 'something else')
const body = computed<Schemas['ReturnsSettling']>(() => ({
  version: props.of.version,
  mail: d.value.mail || undefined,
  against: Object.entries(d.value.against)
    .filter(([, invoice]) => invoice)
    .map(([line, invoice]) => ({ line_id: Number(line), invoice_id: invoice })),
  instead: exchange.value
    ? d.value.instead.map((l) => ({ item_id: l.item, quantity: l.quantity, price: l.price || undefined }))
    : undefined,
}))
const path = computed(() => ({ path: { id: props.of.id } }))
const ready = computed(
  () => !exchange.value || (d.value.instead.length > 0 && d.value.instead.every((l) => l.quantity)),
)
const look = usePreview(
  'settle-return',
  computed(() => (ready.value ? body.value : null)),
  (b) => ask(api.POST('/api/v1/returns/{id}/settle/preview', { params: path.value, body: b })),
)
const invoices = useQuery({
  queryKey: ['returns', 'creditable', computed(() => props.of.id)],
  queryFn: () => ask(api.GET('/api/v1/returns/{id}/creditable', { params: path.value })),
})
const own = (l: Schemas['ReturnsLine']) => (l.shipment_id ? [{ value: 0, label: 'the one it came from' }] : [])
const choices = (l: Schemas['ReturnsLine']) => [
  ...own(l),
  ...(invoices.data.value ?? [])
    .filter((c) => c.item_id === l.item_id)
    .map((c) => ({ value: c.invoice_id, label: `${c.number}, ${c.left} left at ${money(c.price)}` })),
]
const { busy, problem, run } = useCommand()
async function settle() {
  const b = body.value
  const done = await run(() =>
    once((h) => ask(api.POST('/api/v1/returns/{id}/settle', { headers: h, params: path.value, body: b }))),
  )
  if (!done) return
  draft.discard()
  emit('settled')
}
const columns: Column<Schemas['InvoicingReturnPlanLine']>[] = [
  { name: 'item', label: 'Item', of: (l) => l.sku, mono: true },
  { name: 'shipment', label: 'Delivery note', of: (l) => l.shipment, mono: true },
  { name: 'invoice', label: 'Invoice', of: (l) => l.invoice, mono: true },
  { name: 'given', label: 'Not invoiced', of: (l) => l.given_up, right: true, mono: true },
  { name: 'credited', label: 'Credited', of: (l) => l.credited, right: true, mono: true },
  { name: 'price', label: 'At', of: (l) => money(l.price), right: true, mono: true },
  { name: 'amount', label: 'Amount', of: (l) => money(l.amount), right: true, mono: true },
]
const insteadColumns: Column<Instead>[] = [
  { name: 'item', label: 'Item', of: (l) => `${l.sku}, ${l.text}` },
  { name: 'quantity', label: 'Quantity', right: true },
  { name: 'price', label: 'Price', right: true },
  { name: 'amount', label: 'Amount', right: true, mono: true },
  { name: 'does', label: '' },
]
const amountOf = (i: number) => {
  const lines = look.plan.value?.instead?.lines
  return lines?.length === d.value.instead.length ? money(lines[i]!.amount) : ''
}
const add = (item: Schemas['CatalogItem']) =>
  d.value.instead.push({
    key: newKey(),
    item: item.id,
    sku: item.sku,
    text: item.description,
    quantity: '1',
    price: '',
  })
</script>

<template>
  <section data-settle aria-label="To be settled">
    <h2><span>To be settled</span></h2>
    <EntryForm :problem="problem">
      <DraftNotice :of="draft" :labels="() => 'how it is settled'" />
      <div class="fields">
        <FormField
          v-for="l in of.lines.filter((x) => Number(x.received) > 0)"
          :key="l.id"
          :label="`${l.sku} credited against`"
          field="against"
          :required="!l.shipment_id"
          ><ChoiceEntry
            :model-value="d.against[l.id] ?? (l.shipment_id ? 0 : undefined)"
            :options="choices(l)"
            :width="270"
            @update:model-value="(i) => (d.against[l.id] = i ?? 0)"
        /></FormField>
      </div>
      <template v-if="exchange">
        <h2>
          <span>What {{ of.customer }} gets instead</span>
        </h2>
        <SheetTable
          data-instead
          label="What it gets instead"
          :columns="insteadColumns"
          :rows="d.instead"
          :row-key="(l) => l.key"
        >
          <template #quantity="{ row: l, index: i }">
            <QuantityEntry v-model="l.quantity" :label="`${l.sku} instead`" :field="`instead[${i}].quantity`" />
          </template>
          <template #price="{ row: l, index: i }">
            <QuantityEntry
              v-model="l.price"
              :label="`${l.sku} price`"
              placeholder="its own"
              :field="`instead[${i}].price`"
            />
          </template>
          <template #amount="{ index: i }">{{ amountOf(i) }}</template>
          <template #does="{ index: i }">
            <a-button type="link" size="small" @click="d.instead.splice(i, 1)">Remove</a-button>
          </template>
          <template #empty>Nothing yet. Find what it gets instead.</template>
          <template #foot><ItemFinder label="Add an item" @choose="(f) => add(f.item)" /></template>
        </SheetTable>
      </template>
      <template v-if="look.plan.value">
        <SheetTable
          label="What is credited"
          :columns="columns"
          :rows="look.plan.value.lines"
          :row-key="(l) => l.sku + l.shipment + l.invoice"
        />
        <p v-for="n in look.plan.value.notes" :key="n" class="note g">{{ n }}</p>
        <p>
          {{ money(look.plan.value.net) }} before tax<template v-for="t in look.plan.value.taxes" :key="t.pct"
            >, {{ money(t.amount) }} of tax at {{ t.pct }} %</template
          >: <b class="mono">{{ money(look.plan.value.total) }}</b> credited in all<template
            v-if="look.plan.value.instead"
            >; <b class="mono">{{ money(look.plan.value.instead.total) }}</b> for what it gets, with tax</template
          >.
        </p>
      </template>
      <p v-if="look.problem.value && !problem" class="note s" role="alert" data-problem>
        {{ look.problem.value.message }}
      </p>
    </EntryForm>
    <p>
      <a-checkbox v-model:checked="d.mail">Mail the credit note</a-checkbox>
    </p>
    <a-button type="primary" :disabled="!look.plan.value || !look.fresh.value || busy" @click="settle">
      {{ look.plan.value?.button ?? 'Settle it' }}
    </a-button>
  </section>
</template>

<style scoped>
section {
  margin-top: 22px;
}
section :deep(.sheet-table) {
  margin-bottom: 14px;
}
</style>
