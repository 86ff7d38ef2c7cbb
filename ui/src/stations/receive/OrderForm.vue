<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, reactive, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import ItemFinder from '@/parts/ItemFinder.vue'
import PartyFinder from '@/parts/PartyFinder.vue'
import { useCommand } from '@/parts/preview'
import { plural, today } from '@/parts/words'
import { takeScans } from '@/shell/scan'

/** A purchase order as it is written, or changed while it is open. */
const props = defineProps<{ order?: Schemas['PurchasingOrder'] }>()
const emit = defineEmits<{ saved: [order: Schemas['PurchasingOrder']]; leave: [] }>()

interface Line {
  id?: number
  found?: Schemas['CatalogItemStock']
  text: string
  pack: number
  quantity: string
  price: string
  needed: string
  why?: string
}
const supplier = ref<Schemas['CatalogParty']>()
const form = reactive({
  expected: props.order?.expected_on ?? today(3),
  carrier: props.order?.carrier ?? '',
  terms: props.order?.terms ?? '',
  freight: props.order?.freight ?? '0',
  freightBy: props.order?.freight_by ?? 'value',
  note: '',
  begunAs: 'order' as 'order' | 'request' | 'quote',
  quote: '',
  quoteUntil: today(30),
})
const lines = ref<Line[]>([])
const { busy, problem, run } = useCommand()
const buys = computed(() => ['lead', 'receiver', 'office'].includes(session.person?.role ?? ''))
if (!buys.value) form.begunAs = 'request'

const stockOf = async (sku: string) =>
  (await ask(api.GET('/api/v1/items', { params: { query: { q: sku, site: session.site, limit: 1 } } })))[0]

async function load() {
  for (const l of props.order?.lines ?? []) {
    const pack = l.packs.find((p) => p.id === l.pack_id)
    lines.value.push({
      id: l.id,
      found: l.item_id ? await stockOf(l.sku) : undefined,
      text: l.item_id ? '' : l.description,
      pack: l.pack_id,
      quantity: String(Number(l.quantity) / Number(pack?.holds ?? 1)),
      price: l.price,
      needed: l.needed_on ?? '',
    })
  }
}
void load()

const suggestions = useQuery({
  queryKey: ['stock', 'suggestions', computed(() => session.site), computed(() => supplier.value?.id ?? 0)],
  queryFn: () =>
    ask(
      api.GET('/api/v1/suggestions', {
        params: { query: { site: session.site, supplier: supplier.value?.id ?? 0 } },
      }),
    ),
  enabled: computed(() => !!supplier.value),
})
const suggested = computed(() =>
  (supplier.value ? (suggestions.data.value ?? []) : []).filter(
    (s) => !lines.value.some((l) => l.found?.item.id === s.item.id),
  ),
)

/** Choosing the supplier fills its terms. */
function chose(p?: Schemas['CatalogParty']) {
  supplier.value = p
  if (!p) return
  form.carrier = p.carrier
  form.terms = p.terms
}

const line = (found: Schemas['CatalogItemStock'], more?: Partial<Line>): Line => ({
  found,
  text: '',
  pack: found.item.packs.at(-1)?.id ?? 0,
  quantity: '',
  price: found.item.cost,
  needed: '',
  ...more,
})
const add = (found: Schemas['CatalogItemStock']) => lines.value.push(line(found))
function addSuggested() {
  for (const s of suggested.value)
    lines.value.push(line(s, { pack: s.pack_id, quantity: s.suggest.packs, why: s.suggest.calculation }))
}
/** Lines of the order that are taken off it: said, never implied. */
const removed = ref<number[]>([])
function remove(i: number) {
  const [line] = lines.value.splice(i, 1)
  if (line?.id) removed.value.push(line.id)
}
const addText = () => lines.value.push({ text: '', pack: 0, quantity: '1', price: '0', needed: '' })

takeScans(async (_, reading) => {
  if (!reading?.goods) return false
  const found = await stockOf(reading.goods.item.sku)
  if (found) add(found)
  return true
})

const packs = (l: Line) => l.found?.item.packs ?? []
const base = (l: Line) => Number(l.quantity || 0) * Number(packs(l).find((p) => p.id === l.pack)?.holds ?? 1)
const ready = computed(() => (props.order || supplier.value) && lines.value.length > 0)
const sent = () =>
  lines.value.map((l) => ({
    id: l.id,
    item_id: l.found?.item.id,
    text: l.text || undefined,
    pack_id: l.pack || undefined,
    quantity: l.quantity,
    price: l.price,
    needed_on: l.needed || undefined,
  }))
const terms = () => ({
  expected_on: form.expected,
  carrier: form.carrier || undefined,
  terms: form.terms || undefined,
  freight: form.freight || undefined,
  freight_by: form.freightBy,
})

async function create(send: boolean) {
  const body = {
    supplier_id: supplier.value?.id ?? 0,
    site_id: session.site,
    ...terms(),
    note: form.note,
    began_as: form.begunAs,
    quote: form.begunAs === 'quote' ? form.quote : undefined,
    quote_until: form.begunAs === 'quote' ? form.quoteUntil : undefined,
    send,
    lines: sent(),
  }
  const order = await run(() =>
    once((h) =>
      buys.value
        ? ask(api.POST('/api/v1/purchase-orders', { headers: h, body }))
        : ask(api.POST('/api/v1/purchase-requests', { headers: h, body })),
    ),
  )
  if (order) emit('saved', order)
}

async function amend(o: Schemas['PurchasingOrder']) {
  const order = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/purchase-orders/{id}/amend', {
          headers: h,
          params: { path: { id: o.id } },
          body: { version: o.version, ...terms(), lines: sent(), remove: removed.value },
        }),
      ),
    ),
  )
  if (order) emit('saved', order)
}
const refused = (i: number, part: string) => problem.value?.field === `lines[${i}].${part}`
</script>

<template>
  <div class="fields">
    <label v-if="!order" class="field"
      >Supplier<PartyFinder :model-value="supplier" kind="supplier" label="Supplier" @update:model-value="chose"
    /></label>
    <label class="field">Expected<input v-model="form.expected" class="mono" size="11" /></label>
    <label class="field">Carrier<input v-model="form.carrier" size="18" /></label>
    <label class="field">Terms<input v-model="form.terms" size="14" /></label>
    <label class="field"
      >Freight in all<input v-model="form.freight" class="num mono" inputmode="decimal" aria-label="Freight in all"
    /></label>
    <label class="field"
      >spread by<select v-model="form.freightBy" aria-label="Freight spread by">
        <option value="value">value</option>
        <option value="weight">weight</option>
      </select></label
    >
  </div>
  <div v-if="!order" class="fields">
    <label class="field"
      >It begins as<select v-model="form.begunAs" :disabled="!buys" aria-label="It begins as">
        <option value="order">an order</option>
        <option value="request">a request to buy</option>
        <option value="quote">the supplier's quote</option>
      </select></label
    >
    <template v-if="form.begunAs === 'quote'">
      <label class="field">Quote number<input v-model="form.quote" class="mono" size="12" /></label>
      <label class="field">Prices stand until<input v-model="form.quoteUntil" class="mono" size="11" /></label>
    </template>
    <label class="field">Note<input v-model="form.note" size="30" /></label>
  </div>
  <p v-if="suggested.length" class="note w">
    {{ plural(suggested.length, 'item') }} of {{ supplier?.name }} {{ suggested.length === 1 ? 'is' : 'are' }} at the
    reorder point.
    <button class="btn" @click="addSuggested">Add what is suggested</button>
  </p>
  <table class="plain" data-lines>
    <thead>
      <tr>
        <th>Item</th>
        <th class="r">On hand</th>
        <th class="r">Free</th>
        <th class="r">On order</th>
        <th class="r">Reorder at, to</th>
        <th>Pack</th>
        <th class="r">Quantity</th>
        <th class="r">In base units</th>
        <th class="r">Price</th>
        <th>Needed by</th>
        <th><span class="skip">What to do</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(l, i) in lines" :key="i">
        <template v-if="l.found">
          <td>
            <b>{{ l.found.item.description }}</b>
            <div class="mono mute small">{{ l.found.item.sku }}</div>
            <div v-if="l.why" class="mute small">{{ l.why }}</div>
          </td>
          <td class="r mono">{{ l.found.figures.physical }}</td>
          <td class="r mono">
            {{ l.found.figures.free }}
            <div v-if="l.found.figures.promised !== '0'" class="mute small">
              {{ l.found.figures.promised }} promised
            </div>
          </td>
          <td class="r mono">{{ l.found.figures.on_order }}</td>
          <td class="r mono mute">{{ l.found.levels.reorder_point }}, {{ l.found.levels.target }}</td>
          <td>
            <select v-model.number="l.pack" :aria-label="`${l.found.item.sku} pack`">
              <option v-if="!l.pack" :value="0">{{ l.found.item.base_unit }}</option>
              <option v-for="p in packs(l)" :key="p.id" :value="p.id">{{ p.name }}</option>
            </select>
          </td>
        </template>
        <td v-else colspan="6">
          <input v-model="l.text" size="34" placeholder="such as freight, or a service" aria-label="What it is" />
          <span class="mute small"> non-stock</span>
        </td>
        <td class="r">
          <input
            v-model="l.quantity"
            class="num mono"
            inputmode="decimal"
            :aria-label="`${l.found?.item.sku ?? 'No stock'} quantity`"
            :aria-invalid="refused(i, 'quantity')"
          />
        </td>
        <td class="r mono">{{ l.found ? `${base(l)} ${l.found.item.base_unit}` : '' }}</td>
        <td class="r">
          <input
            v-model="l.price"
            class="num mono"
            inputmode="decimal"
            :aria-label="`${l.found?.item.sku ?? 'No stock'} price`"
          />
        </td>
        <td>
          <input
            v-model="l.needed"
            class="mono"
            size="10"
            :aria-label="`${l.found?.item.sku ?? 'No stock'} needed by`"
          />
        </td>
        <td><button class="btn bare" @click="remove(i)">remove</button></td>
      </tr>
      <tr>
        <td colspan="11">
          <ItemFinder label="Add an item" @choose="add" />
          <button class="btn bare" @click="addText">add a non-stock line</button>
        </td>
      </tr>
    </tbody>
  </table>
  <div v-if="problem" class="note s under" role="alert">{{ problem.message }}</div>
  <div class="fields under">
    <button v-if="order" class="btn go" :disabled="!ready || busy" @click="amend(order)">
      Save {{ order.number }} with {{ plural(lines.length, 'line') }}
    </button>
    <template v-else>
      <button
        v-if="form.begunAs === 'order'"
        class="btn go"
        data-primary
        :disabled="!ready || busy"
        @click="create(true)"
      >
        Send the order, {{ plural(lines.length, 'line') }}
      </button>
      <button class="btn" :disabled="!ready || busy" @click="create(false)">
        {{ form.begunAs === 'order' ? 'Save as a draft' : form.begunAs === 'quote' ? 'Save the quote' : 'Ask for it' }}
      </button>
    </template>
    <button class="btn" @click="emit('leave')">Discard</button>
  </div>
</template>

<style scoped>
.under {
  margin-top: 14px;
}
</style>
