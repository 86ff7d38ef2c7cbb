<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import DeparturesBoard from './DeparturesBoard.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import OriginList from '@/parts/OriginList.vue'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import { usePreview } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import { dayOf, timeOf } from '@/parts/clock'
import { plural, today, when } from '@/parts/words'
import InvoiceWith from './InvoiceWith.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import FormField from '@/parts/FormField.vue'
import SheetTable from '@/parts/SheetTable.vue'
import TakeBackShipment from './TakeBackShipment.vue'

const props = defineProps<{ id?: string }>()
const router = useRouter()
const queries = useQueryClient()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
const ready = useQuery({
  queryKey: ['dispatch', 'ready', site],
  queryFn: () => ask(api.GET('/api/v1/dispatch/ready', { params: { query: { site: site.value } } })),
})
const shipped = useQuery({
  queryKey: ['dispatch', 'shipped', site],
  queryFn: () => ask(api.GET('/api/v1/shipments', { params: { query: { site: site.value } } })),
})
const shipment = useQuery({
  queryKey: ['dispatch', 'one', id],
  queryFn: () => ask(api.GET('/api/v1/shipments/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
const chosen = ref(0)
const order = computed(() => ready.data.value?.find((r) => r.order_id === chosen.value))
const packed = useQuery({
  queryKey: ['dispatch', 'packed', site],
  queryFn: () => ask(api.GET('/api/v1/cartons', { params: { query: { site: site.value, state: 'packed' } } })),
})
const going = computed(
  () => (id.value ? shipment.data.value?.cartons : packed.data.value?.filter((c) => c.order_id === chosen.value)) ?? [],
)
const carriers = useQuery({
  queryKey: ['dispatch', 'carriers', site],
  queryFn: () => ask(api.GET('/api/v1/carriers', { params: { query: { site: site.value } } })),
})
/** What is not shipped stays open, or is cancelled, as agreed with the customer. */
const rest = ref<'open' | 'cancel'>('open')
const rests = [
  { value: 'open' as const, label: 'stays open' },
  { value: 'cancel' as const, label: 'is cancelled, as agreed' },
]
const invoice = ref<Schemas['ShippingTerms']['invoice']>('')
const { busy, problem, done, run } = useCommand()
/** Orders of one carrier that are ticked go in one step. */
const ticked = ref<number[]>([])
const many = computed(() => (ready.data.value ?? []).filter((r) => ticked.value.includes(r.order_id)))
const anyTicked = computed(() => !id.value && many.value.length > 0)
function tick(r: Schemas['DispatchReady']) {
  const others = many.value.filter((o) => o.carrier === r.carrier && o.order_id !== r.order_id)
  const ids = others.map((o) => o.order_id)
  ticked.value = ticked.value.includes(r.order_id) ? ids : [...ids, r.order_id]
  done.value = ''
  if (id.value) void router.push('/dispatch')
}
const body = computed(() => ({
  many: anyTicked.value ? { order_ids: many.value.map((r) => r.order_id), invoice: invoice.value } : undefined,
  one: order.value && { order_id: order.value.order_id, rest: rest.value, invoice: invoice.value },
}))
const {
  plan,
  problem: refused,
  fresh,
} = usePreview(
  'ship',
  computed(() => (body.value.many || body.value.one ? body.value : null)),
  (b) =>
    b.many
      ? ask(api.POST('/api/v1/shipments/many/preview', { body: b.many }))
      : ask(api.POST('/api/v1/shipments/preview', { body: b.one! })),
)

async function ship() {
  if (anyTicked.value) return shipMany()
  const b = body.value.one
  if (!b) return
  const d = await run(
    () => once((h) => ask(api.POST('/api/v1/shipments', { headers: h, body: b }))),
    (x) => `${x.order} is shipped with ${x.number}${x.invoiced ? `, invoiced with ${x.invoiced}` : ''}.`,
  )
  if (d) {
    chosen.value = 0
    void ready.refetch()
    void shipped.refetch()
    void router.push(`/dispatch/${d.id}`)
  }
}
async function shipMany() {
  const b = body.value.many
  if (!b) return
  const carrier = many.value[0]?.carrier
  const all = await run(
    () => once((h) => ask(api.POST('/api/v1/shipments/many', { headers: h, body: b }))),
    (x) => `${x.map((d) => d.number).join(', ')} shipped with ${carrier}.`,
  )
  if (all) {
    ticked.value = []
    chosen.value = 0
    await queries.invalidateQueries({ queryKey: ['dispatch'] })
  }
}
const askAgain = async () => {
  await run(
    () =>
      once((h) =>
        ask(api.POST('/api/v1/shipments/{id}/ask-again', { headers: h, params: { path: { id: id.value } } })),
      ),
    (d) => `${d.carrier} is asked now.`,
  )
  void shipment.refetch()
}
const collects = (name: string) => {
  const next = carriers.data.value?.find((c) => c.name === name)?.next
  if (!next) return ''
  const at = new Date(next)
  return dayOf(at) === today() ? `collects ${timeOf(at)}` : `collects ${dayOf(at)} ${timeOf(at)}`
}
const manyColumns: Column<Schemas['DispatchReady']>[] = [
  { name: 'order', label: 'Order', of: (r) => r.order, to: (r) => `/go/${r.order}`, mono: true },
  { name: 'customer', label: 'Customer', of: (r) => r.customer },
  { name: 'wanted', label: 'Wanted', of: (r) => r.wanted_on, mono: true, late: (r) => r.late },
  { name: 'cartons', label: 'Cartons', of: (r) => r.cartons, right: true, mono: true },
  { name: 'weight', label: 'kg', of: (r) => r.weight_kg, right: true, mono: true },
]
function choose(orderId: number) {
  rest.value = 'open'
  chosen.value = orderId
  ticked.value = []
  done.value = ''
  if (id.value) void router.push('/dispatch')
}
const names = computed(() =>
  [...new Set(ready.data.value?.map((r) => r.carrier))].sort((a, b) => {
    const at = (n: string) => carriers.data.value?.find((c) => c.name === n)?.next ?? '9'
    return at(a).localeCompare(at(b))
  }),
)
</script>

<template>
  <BenchLayout waits="Ready to go and shipped" :waiting="[ready, shipped]" :sheet="id ? [shipment] : []">
    <template #waiting>
      <p class="nb">
        <router-link to="/dispatch/load">Load a vehicle</router-link> ·
        <router-link v-if="can('list-invoices')" to="/dispatch/invoices">Invoices</router-link>
      </p>
      <template v-for="c in names" :key="c">
        <h2>
          <span>{{ c || 'no carrier' }}</span><span>{{
            collects(c) || plural(ready.data.value?.filter((r) => r.carrier === c).length ?? 0, 'order')
          }}</span>
        </h2>
        <div v-for="r in ready.data.value?.filter((x) => x.carrier === c)" :key="r.order_id" class="going">
          <a-checkbox :checked="ticked.includes(r.order_id)" :aria-label="`Tick ${r.order}`" @change="tick(r)" />
          <QueueCard :selected="chosen === r.order_id" @click="choose(r.order_id)">
            <span class="mono">{{ r.order }}</span><span>{{ plural(r.cartons, 'carton') }}</span>
            <template #more
              ><span>{{ r.customer }}</span
              ><span class="nb mono" :class="{ late: r.late }">{{ r.wanted_on }}</span></template
            >
          </QueueCard>
        </div>
      </template>
      <div v-if="ready.data.value?.length === 0" class="empty">
        Nothing is packed. Cartons stand here when the bench has closed them.
      </div>
      <h2><span>Shipped</span><router-link to="/dispatch/shipments">table</router-link></h2>
      <QueueCard v-for="d in shipped.data.value" :key="d.id" :to="`/dispatch/${d.id}`" :selected="id === d.id">
        <span class="mono">{{ d.number }}</span><span class="mono small">{{ when(d.shipped_at) }}</span>
        <template #more
          ><span>{{ d.customer }}</span
          ><span class="mono">{{ d.order }}</span></template
        >
      </QueueCard>
    </template>

    <template v-if="id && shipment.data.value">
      <h1>
        Shipment <span class="mono">{{ shipment.data.value.number }}</span>
      </h1>
      <p class="mute">
        {{ shipment.data.value.customer }}, order
        <router-link class="mono" :to="`/go/${shipment.data.value.order}`">{{
          shipment.data.value.order
        }}</router-link>, shipped {{ when(shipment.data.value.shipped_at) }} by
        {{ shipment.data.value.shipped_by }} with {{ shipment.data.value.carrier }}.
        <template v-if="shipment.data.value.tracking"
          >It is carried as <b class="mono">{{ shipment.data.value.tracking }}</b><template
            v-if="shipment.data.value.rate"
          >
            for {{ shipment.data.value.rate }}</template
          >.</template
        >
        <template v-if="shipment.data.value.load">Departed on {{ shipment.data.value.load }}.</template>
        <template v-if="shipment.data.value.invoiced">Invoiced with {{ shipment.data.value.invoiced }}.</template>
      </p>
      <div v-if="shipment.data.value.said && !shipment.data.value.tracking" class="note w">
        {{ shipment.data.value.said }}; it has no number yet.
        <a-button :disabled="busy" @click="askAgain">Ask again</a-button>
      </div>
      <TakeBackShipment :shipment="shipment.data.value" />
    </template>
    <template v-else-if="anyTicked">
      <h1>{{ plural(many.length, 'order') }} with {{ many[0]!.carrier || 'no carrier' }}</h1>
      <p class="mute">
        They are shipped in one step, each with its delivery note, or none of them. What is not packed of them stays
        open.
      </p>
      <SheetTable data-many label="Orders to ship" :columns="manyColumns" :rows="many" :row-key="(r) => r.order_id" />
      <div class="fields"><InvoiceWith v-model="invoice" /></div>
    </template>
    <template v-else-if="order">
      <h1>
        {{ order.order }} <span class="mute small">{{ order.customer }}</span>
      </h1>
      <p class="mute">
        {{ plural(order.cartons, 'carton') }}, {{ order.weight_kg }} kg, with {{ order.carrier }}, wanted
        <span class="mono" :class="{ late: order.late }">{{ order.wanted_on }}</span>.
      </p>
      <div v-if="order.elsewhere" class="note w">
        {{ plural(order.elsewhere, 'more carton') }} of this order {{ order.elsewhere === 1 ? 'is' : 'are' }} on a round
        or at the bench. Shipping now leaves them for another shipment.
      </div>
      <div class="fields">
        <FormField
          v-if="Number(plan?.open) > 0 || rest === 'cancel' || refused?.code === 'parts_unwanted'"
          label="What is not shipped"
          ><ChoiceEntry v-model="rest" :options="rests" :width="210"
        /></FormField>
        <InvoiceWith v-model="invoice" />
      </div>
    </template>
    <DeparturesBoard v-else-if="!id" />
    <div v-else class="empty">
      Choose an order whose cartons are packed. What goes, and what stays open, stands on the right before it is
      shipped.
    </div>

    <template v-if="id || (order && !anyTicked)">
      <div v-for="c in going" :key="c.id" class="carton">
        <b
          >Carton <router-link class="mono" :to="`/pack/${c.id}`">{{ c.sscc }}</router-link></b
        >
        <span class="mute">{{ c.weight_kg }} kg</span>
        <div v-for="x in c.contents" :key="x.line_id + '/' + x.lot_id" class="small">
          <b class="mono">{{ x.quantity }}</b> {{ x.description }}
          <span class="mono mute">{{ x.sku }} {{ x.lot }}</span>
        </div>
      </div>
    </template>
    <template v-if="(order || anyTicked) && plan?.origins.length">
      <h2><span>Where it was picked</span></h2>
      <OriginList :origins="plan.origins" />
    </template>
    <a v-if="id" class="btn" :href="`/api/v1/shipments/${id}/note.pdf`" target="_blank">Delivery note</a>

    <template #after>
      <BeforeAfter
        by="ship-order"
        :plan="plan"
        :problem="problem ?? refused"
        :done="done"
        :busy="busy"
        :fresh="fresh"
        idle="Choose an order to ship."
        doing="Ship"
        @go="ship"
      />
    </template>
  </BenchLayout>
</template>

<style scoped>
.going {
  display: flex;
  gap: 6px;
  align-items: flex-start;
}
.going .ant-checkbox-wrapper {
  padding: 12px 2px;
  flex: none;
}
.carton {
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 9px 12px;
  margin-bottom: 10px;
}
</style>
