<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { useCommand } from '@/parts/preview'
import { money, stateWords } from '@/parts/words'
import InvoiceForm from './InvoiceForm.vue'
import OrderForm from './OrderForm.vue'

const props = defineProps<{ id: number }>()
const router = useRouter()
const id = computed(() => props.id)
const order = useQuery({
  queryKey: ['receive', 'order', id],
  queryFn: () => ask(api.GET('/api/v1/purchase-orders/{id}', { params: { path: { id: id.value } } })),
})
const docks = useQuery({
  queryKey: ['locations', 'dock', computed(() => session.site)],
  queryFn: () => ask(api.GET('/api/v1/locations', { params: { query: { site: session.site, kind: 'dock' } } })),
})
const o = computed(() => order.data.value)
const dock = ref(0)
const note = ref('')
const closing = ref(false)
const invoicing = ref(false)
const changing = ref(false)
const waits = ref(false)
watch(o, (now, before) => {
  if (now?.id !== before?.id || now?.note !== before?.note) note.value = now?.note ?? ''
})
const { busy, problem, done, run } = useCommand()
watch(id, () => {
  closing.value = false
  invoicing.value = false
  changing.value = false
  waits.value = false
  done.value = ''
  problem.value = undefined
})

async function openArrival() {
  const dockId = dock.value || docks.data.value?.[0]?.id || 0
  const a = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/arrivals', {
          headers: h,
          body: { order_ids: [id.value], dock_id: dockId, waits: waits.value },
        }),
      ),
    ),
  )
  if (a) void router.push(`/receive/arrival/${a.id}`)
}

async function change(step: 'send-to-supplier' | 'close' | 'approve' | 'release', say: string) {
  await run(
    () =>
      once((h) =>
        ask(
          api.POST(`/api/v1/purchase-orders/{id}/${step}`, {
            headers: h,
            params: { path: { id: id.value } },
            body: { version: o.value?.version ?? 0 },
          }),
        ),
      ),
    () => say,
  )
  closing.value = false
  void order.refetch()
}

async function annotate() {
  await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/purchase-orders/{id}/note', {
            headers: h,
            params: { path: { id: id.value } },
            body: { version: o.value?.version ?? 0, note: note.value },
          }),
        ),
      ),
    () => 'The note is saved.',
  )
  void order.refetch()
}
/** The order's paper goes to the supplier by mail, at once or as soon as the host takes it. */
const mail = () =>
  run(
    () =>
      once((h) =>
        ask(api.POST('/api/v1/purchase-orders/{id}/mail', { headers: h, params: { path: { id: id.value } } })),
      ),
    (x) => `${x.number} is given to the mail host for ${x.email}.`,
  )

async function changed(x: Schemas['PurchasingOrder']) {
  changing.value = false
  done.value = `${x.number} is changed.`
  await order.refetch()
}
const role = computed(() => session.person?.role ?? '')
const buys = computed(() => ['lead', 'receiver', 'office'].includes(role.value))
const docker = computed(() => ['lead', 'receiver'].includes(role.value))
/** It comes to more than may be bought unasked, and nobody approved it yet. */
const unapproved = computed(
  () => o.value?.approve_above != null && !o.value.approved_by && Number(o.value.value) > Number(o.value.approve_above),
)
const begun = { order: '', request: 'a request to buy', quote: "the supplier's quote" }
const freighted = computed(() => Number(o.value?.freight ?? 0) > 0)
const open = computed(() => o.value?.state === 'placed' || o.value?.state === 'partly_received')
const missing = computed(
  () => o.value?.lines.filter((l) => !l.closed && Number(l.received) < Number(l.quantity)).length ?? 0,
)
</script>

<template>
  <template v-if="o">
    <h1>
      Order <span class="mono">{{ o.number }}</span> <span class="mute small">{{ stateWords(o.state) }}</span>
    </h1>
    <p class="mute">
      {{ o.supplier }}, expected <span class="mono" :class="{ late: o.late }">{{ o.expected_on }}</span><template
        v-if="o.carrier"
        >, with {{ o.carrier }}</template
      ><template v-if="o.terms">, {{ o.terms }}</template
      >.
      <template v-if="begun[o.began_as]"
        >It began as {{ begun[o.began_as] }}<template v-if="o.quote"> {{ o.quote }}</template
        ><template v-if="o.quote_until">, whose prices stand until {{ o.quote_until }}</template
        >.</template
      >
      In all <b class="mono">{{ money(o.value) }}</b><template v-if="freighted"
        >, of which {{ money(o.freight) }} freight, spread by {{ o.freight_by }}</template
      >.
      <template v-if="o.approved_by">Approved by {{ o.approved_by }}.</template>
    </p>
    <OrderForm v-if="changing" :key="o.version" :order="o" @saved="changed" @leave="changing = false" />
    <template v-else>
      <table class="plain">
        <thead>
          <tr>
            <th>Line</th>
            <th>Item</th>
            <th class="r">Ordered</th>
            <th class="r">Allowed from, to</th>
            <th class="r">Received</th>
            <th class="r">Cancelled</th>
            <th class="r">Invoiced</th>
            <th class="r">Price</th>
            <th v-if="freighted" class="r">With freight</th>
            <th>Needed by</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in o.lines" :key="l.id">
            <td class="mono">{{ l.line }}</td>
            <td>
              <b>{{ l.description }}</b> <span class="mono mute small">{{ l.sku }}</span>
            </td>
            <td class="r mono">{{ l.quantity }}</td>
            <td class="r mono mute">
              {{ !l.item_id ? 'non-stock' : l.least === l.most ? l.least : `${l.least} to ${l.most}` }}
            </td>
            <td class="r mono">{{ l.item_id ? l.received : '' }}</td>
            <td class="r mono">{{ l.cancelled === '0' ? '' : l.cancelled }}</td>
            <td class="r mono">{{ l.invoiced === '0' ? '' : l.invoiced }}</td>
            <td class="r mono">{{ l.price }}</td>
            <td v-if="freighted" class="r mono">
              {{ l.item_id ? l.landed : '' }}
            </td>
            <td class="mono">{{ l.needed_on }}</td>
          </tr>
        </tbody>
      </table>

      <div v-if="done" class="note g" role="status">{{ done }}</div>
      <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
      <div v-if="o.state === 'draft' && buys" class="fields">
        <button
          v-if="unapproved && role === 'lead'"
          class="btn go"
          :disabled="busy"
          @click="change('approve', `${o.number} is approved.`)"
        >
          Approve {{ o.number }}, {{ money(o.value) }}
        </button>
        <button
          class="btn"
          :class="{ go: !unapproved || role !== 'lead' }"
          :disabled="busy"
          @click="change('send-to-supplier', `${o.number} is sent to the supplier.`)"
        >
          Send {{ o.number }} to {{ o.supplier }}
        </button>
        <span v-if="unapproved" class="mute small">Above {{ o.approve_above }} a lead approves it first.</span>
      </div>
      <div v-if="open && docker" class="fields">
        <label class="field"
          >Dock<select v-model.number="dock">
            <option :value="0">{{ docks.data.value?.[0]?.code }}</option>
            <option v-for="d in docks.data.value?.slice(1)" :key="d.id" :value="d.id">{{ d.code }}</option>
          </select></label
        >
        <label class="tick"
          ><input v-model="waits" type="checkbox" /> what comes waits on the dock until the order is complete</label
        >
        <button class="btn go" :disabled="busy" @click="openArrival">Open an arrival for {{ o.number }}</button>
        <button
          v-if="o.state === 'partly_received'"
          class="btn"
          :disabled="busy"
          @click="change('release', 'What waited on the dock is free.')"
        >
          Let what waits go without the rest
        </button>
      </div>
      <div class="fields">
        <a class="btn" :href="`/api/v1/purchase-orders/${o.id}/order.pdf`" target="_blank" rel="noopener">Print</a>
        <button v-if="buys" class="btn" :disabled="busy" @click="mail">Mail to {{ o.email || 'the supplier' }}</button>
        <button v-if="buys && (open || o.state === 'draft')" class="btn" @click="changing = true">
          Change the order
        </button>
      </div>
      <div class="fields">
        <label class="field wide-note"
          >Note<input v-model="note" maxlength="500" aria-label="Note on the order" @keydown.enter="annotate"
        /></label>
        <button class="btn" :disabled="busy || note === o.note" @click="annotate">Save the note</button>
        <button
          v-if="o.state !== 'draft' && ['lead', 'office'].includes(role)"
          class="btn"
          @click="invoicing = !invoicing"
        >
          {{ invoicing ? 'Leave the invoice' : 'Enter an invoice' }}
        </button>
        <template v-if="o.state !== 'closed'">
          <button v-if="!closing" class="btn" @click="closing = true">Close the order</button>
          <button v-else class="btn" :disabled="busy" @click="change('close', `${o.number} is closed.`)">
            {{
              missing
                ? `Close it for good, cancel ${missing} open ${missing === 1 ? 'line' : 'lines'}`
                : 'Close it for good'
            }}
          </button>
        </template>
      </div>

      <InvoiceForm v-if="invoicing" :order="o" @saved="((invoicing = false), order.refetch())" />
      <template v-if="o.invoices.length">
        <h2 class="part"><span>Invoices</span></h2>
        <table class="plain small">
          <tbody>
            <tr v-for="b in o.invoices" :key="b.number">
              <td class="mono">{{ b.number }}</td>
              <td class="mono">{{ b.invoiced_on }}</td>
              <td>entered by {{ b.person }}</td>
              <td class="r mono">{{ b.amount }}</td>
            </tr>
          </tbody>
        </table>
      </template>
    </template>
  </template>
</template>

<style scoped>
.fields {
  margin-top: 14px;
}
.note {
  margin-top: 12px;
}
.wide-note input {
  width: 300px;
}
.part {
  margin-top: 18px;
}
.tick {
  align-self: center;
}
</style>
