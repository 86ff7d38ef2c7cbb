<script setup lang="ts">
import { keepPreviousData, useQueries, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import ItemFinder from '@/parts/ItemFinder.vue'
import PartyFinder from '@/parts/PartyFinder.vue'
import { useCommand } from '@/parts/preview'
import { money, today } from '@/parts/words'

/** Takes an order or a quote, or changes one that is open. */
const props = defineProps<{ order?: Schemas['OrdersOrder'] }>()
const emit = defineEmits<{ saved: [order: Schemas['OrdersOrder']]; leave: [] }>()
const queries = useQueryClient()
type Entry = {
  id?: number
  item_id: number
  sku: string
  description: string
  text: string
  quantity: string
  price: string
  shipped: number
}
const customer = ref<Schemas['CatalogParty']>()
const wanted = ref(props.order?.wanted_on ?? today(1))
const reference = ref(props.order?.reference ?? '')
const carrier = ref(props.order?.carrier ?? '')
const note = ref(props.order?.note ?? '')
const until = ref(props.order?.quote_until ?? today(14))
const reason = ref('')
const lines = ref<Entry[]>(
  (props.order?.lines ?? [])
    .filter((l) => Number(l.cancelled) < Number(l.quantity))
    .map((l) => ({
      id: l.id,
      item_id: l.item_id,
      sku: l.sku,
      description: l.description,
      text: l.item_id ? '' : l.description,
      quantity: String(Number(l.quantity) - Number(l.cancelled)),
      price: l.price,
      shipped: Number(l.shipped),
    })),
)
const { busy, problem, run } = useCommand()
const payer = computed(() => props.order?.customer_id ?? customer.value?.id ?? 0)
const asked = refDebounced(
  computed(() => lines.value.map((l) => ({ id: l.item_id, quantity: l.quantity || '0' }))),
  150,
)
const outlooks = useQueries({
  queries: computed(() =>
    asked.value.map((l) => ({
      queryKey: ['stock', 'outlook', l.id, l.quantity, session.site, payer.value],
      queryFn: () =>
        ask(
          api.GET('/api/v1/outlook', {
            params: { query: { item: l.id, site: session.site, quantity: l.quantity, customer: payer.value } },
          }),
        ),
      enabled: l.id > 0,
      retry: false,
    })),
  ),
})

function add(item: Schemas['CatalogItem'], quantity = '') {
  lines.value.push({
    item_id: item.id,
    sku: item.sku,
    description: item.description,
    text: '',
    quantity,
    price: '',
    shipped: 0,
  })
}
/** Lines of the order that are taken off it: said, never implied. */
const removed = ref<number[]>([])
function remove(i: number) {
  const [line] = lines.value.splice(i, 1)
  if (line?.id) removed.value.push(line.id)
}
const charge = () =>
  lines.value.push({ item_id: 0, sku: '', description: '', text: '', quantity: '1', price: '0', shipped: 0 })

/** Many lines at once: a list of items to tick, narrowed by words. */
const many = ref(false)
const words = ref('')
const rested = refDebounced(words, 200)
const items = useQuery({
  queryKey: ['stock', 'items', rested, computed(() => session.site), 'many'],
  queryFn: () =>
    ask(api.GET('/api/v1/items', { params: { query: { q: rested.value, site: session.site, limit: 100 } } })),
  enabled: many,
  // What is on the list stays until the narrower one is there: somebody may be typing in it.
  placeholderData: keepPreviousData,
})
const ticked = ref<Record<number, string>>({})
const count = computed(() => Object.values(ticked.value).filter((q) => Number(q) > 0).length)
const seen = new Map<number, Schemas['CatalogItem']>()
function tick(found: Schemas['CatalogItemStock'], quantity: string) {
  seen.set(found.item.id, found.item)
  ticked.value = { ...ticked.value, [found.item.id]: quantity }
}
function addTicked() {
  for (const [id, quantity] of Object.entries(ticked.value)) {
    const item = seen.get(Number(id))
    if (item && Number(quantity) > 0) add(item, quantity)
  }
  ticked.value = {}
  many.value = false
}

const body = () => ({
  wanted_on: wanted.value,
  reference: reference.value,
  carrier: carrier.value || undefined,
  note: note.value || undefined,
  reason: reason.value || undefined,
  lines: lines.value.map((l) => ({
    id: l.id,
    item_id: l.item_id,
    text: l.item_id ? undefined : l.text,
    quantity: l.quantity,
    price: l.price || undefined,
  })),
})
async function save(how: 'released' | 'hold' | 'quote' | 'change') {
  const order = await run(() =>
    once((h) =>
      how === 'change'
        ? ask(
            api.POST('/api/v1/sales-orders/{id}/change', {
              headers: h,
              params: { path: { id: props.order!.id } },
              body: {
                ...body(),
                version: props.order!.version,
                remove: removed.value,
                quote_until: props.order!.state === 'quote' ? until.value : undefined,
              },
            }),
          )
        : ask(
            api.POST('/api/v1/sales-orders', {
              headers: h,
              body: {
                ...body(),
                customer_id: customer.value?.id ?? 0,
                site_id: session.site,
                release: how === 'released',
                quote_until: how === 'quote' ? until.value : undefined,
              },
            }),
          ),
    ),
  )
  if (order) {
    // Told before it is read anew: the form may be gone by then.
    emit('saved', order)
    void queries.invalidateQueries({ queryKey: ['orders'] })
  }
}
/** A customer that owes raises a question, which a lead may answer. */
const asksWhy = computed(
  () =>
    session.person?.role === 'lead' &&
    (!!reason.value || ['customer_owes', 'reason_short'].includes(problem.value?.code ?? '')),
)
/** Where a line's price comes from. */
function priceWhy(l: Entry, i: number) {
  if (!l.item_id) return ''
  const own = props.order?.lines.find((x) => x.id === l.id)
  if (own && Number(own.price) === Number(l.price)) return own.price_why
  if (l.price) return 'as entered'
  const given = outlooks.value[i]?.data
  return given ? (given.price?.why ?? 'no sales price: enter one') : ''
}
const refused = (i: number) => problem.value?.field === `lines[${i}].quantity`
const total = computed(() =>
  money(
    String(
      lines.value.reduce(
        (sum, l, i) =>
          sum + (Number(l.quantity) || 0) * (Number(l.price || outlooks.value[i]?.data?.price?.amount) || 0),
        0,
      ),
    ),
  ),
)
const ready = computed(() => lines.value.length > 0 && (!!props.order || !!customer.value))
</script>

<template>
  <div class="fields">
    <label v-if="!order" class="field"
      >Customer<PartyFinder v-model="customer" kind="customer" label="Customer"
    /></label>
    <label class="field">Wanted<input v-model="wanted" class="mono" size="11" /></label>
    <label class="field">Their order number<input v-model="reference" size="14" /></label>
    <label class="field">Carrier<input v-model="carrier" size="18" :placeholder="customer?.carrier" /></label>
    <label v-if="order?.state === 'quote'" class="field"
      >Holds until<input v-model="until" class="mono" size="11"
    /></label>
    <span v-if="customer && !carrier" class="mute small">goes with {{ customer.carrier }}</span>
    <label class="field">Note<input v-model="note" size="18" maxlength="500" /></label>
  </div>
  <table class="plain">
    <thead>
      <tr>
        <th>Item</th>
        <th class="r">Wanted</th>
        <th class="r">Price</th>
        <th class="r">Free</th>
        <th class="r">Free after</th>
        <th>More comes</th>
        <th>Can go</th>
        <th><span class="skip">What to do</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(l, i) in lines" :key="i">
        <td v-if="l.item_id">
          <b>{{ l.description }}</b> <span class="mono mute small">{{ l.sku }}</span>
          <span v-if="l.shipped" class="mute small">, {{ l.shipped }} shipped</span>
        </td>
        <td v-else>
          <input
            v-model="l.text"
            size="24"
            maxlength="120"
            placeholder="freight, a service"
            :aria-label="`What line ${i + 1} is`"
          />
        </td>
        <td class="r">
          <input
            v-model="l.quantity"
            class="num mono"
            inputmode="decimal"
            :aria-label="`${l.sku || 'charge'} wanted`"
            :aria-invalid="refused(i)"
          />
        </td>
        <td class="r">
          <input
            v-model="l.price"
            class="num mono"
            inputmode="decimal"
            :placeholder="outlooks[i]?.data?.price?.amount"
            :aria-label="`${l.sku || 'charge'} price`"
          />
          <div class="mute small">{{ priceWhy(l, i) }}</div>
        </td>
        <td class="r mono">{{ outlooks[i]?.data?.free }}</td>
        <td class="r mono" :class="{ late: Number(outlooks[i]?.data?.free_after) < 0 }">
          {{ l.id ? '' : outlooks[i]?.data?.free_after }}
        </td>
        <td class="mono small">
          <template v-if="l.item_id">{{
            outlooks[i]?.data?.next_on
              ? `${outlooks[i]?.data?.next_quantity} on ${outlooks[i]?.data?.next_on}`
              : 'none on order'
          }}</template>
        </td>
        <td class="mono small" :class="{ late: outlooks[i]?.data && outlooks[i]!.data!.promise > wanted }">
          {{
            !Number(l.quantity) || !l.item_id || l.id
              ? ''
              : outlooks[i]?.data?.promise || (outlooks[i]?.data ? 'no day known' : '')
          }}
        </td>
        <td><button class="btn bare" @click="remove(i)">remove</button></td>
      </tr>
      <tr>
        <td colspan="8">
          <div class="adding">
            <ItemFinder label="Add an item" style="flex: 1" @choose="(f) => add(f.item)" />
            <button class="btn" @click="many = !many">{{ many ? 'One by one' : 'Many at once' }}</button>
            <button class="btn" @click="charge">A charge</button>
          </div>
        </td>
      </tr>
    </tbody>
  </table>
  <div v-if="many" class="many">
    <div class="fields">
      <label class="field">Words or SKU<input v-model="words" size="24" /></label>
      <button class="btn go" :disabled="!count" @click="addTicked">
        Add {{ count }} {{ count === 1 ? 'line' : 'lines' }}
      </button>
    </div>
    <div class="list" tabindex="0" role="group" aria-label="Items to tick">
      <label v-for="f in items.data.value" :key="f.item.id" class="pickable">
        <input
          class="num mono"
          inputmode="decimal"
          :value="ticked[f.item.id] ?? ''"
          :aria-label="`${f.item.sku} how many`"
          @input="tick(f, ($event.target as HTMLInputElement).value)"
        />
        <b class="mono">{{ f.item.sku }}</b> {{ f.item.description }}
        <span class="mono mute small">{{ f.figures.free }} free</span>
      </label>
    </div>
  </div>
  <p class="mute">
    It comes to <b class="mono">{{ total }}</b>.
  </p>
  <div v-if="problem" class="note s" role="alert" style="margin-top: 12px">{{ problem.message }}</div>
  <label v-if="asksWhy" class="field" style="margin-top: 12px"
    >Take it all the same, because<input v-model="reason" size="50" maxlength="200"
  /></label>
  <div v-if="order" class="fields" style="margin-top: 14px">
    <button class="btn go" data-primary :disabled="!ready || busy" @click="save('change')">
      Change {{ order.number }}
    </button>
    <button class="btn" @click="$emit('leave')">Discard changes</button>
    <span class="mute small"
      >What is picked and not wanted any more is returned to stock; lines that are removed are cancelled.</span
    >
  </div>
  <div v-else class="fields" style="margin-top: 14px">
    <button class="btn go" data-primary :disabled="!ready || busy" @click="save('released')">
      Take the order and release it
    </button>
    <button class="btn" :disabled="!ready || busy" @click="save('hold')">Take the order, on hold</button>
    <button class="btn" :disabled="!ready || busy" @click="save('quote')">Write a quote until</button>
    <input v-model="until" class="entry mono" size="11" aria-label="The quote holds until" />
    <button class="btn" @click="$emit('leave')">Discard</button>
  </div>
</template>

<style scoped>
.adding {
  display: flex;
  gap: 8px;
}
.many {
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 10px 12px;
  margin-top: 8px;
}
.list {
  max-height: 260px;
  overflow-y: auto;
  margin-top: 8px;
}
.pickable {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 3px 0;
  border-bottom: 1px solid var(--line);
}
.pickable .num {
  width: 64px;
}
.pickable span {
  margin-left: auto;
}
</style>
