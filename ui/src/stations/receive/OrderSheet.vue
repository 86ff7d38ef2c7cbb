<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, seesMoney, session, worksAs } from '@/api/session'
import { useCommand } from '@/parts/command'
import { money, plural, stateWords } from '@/parts/words'
import FreightForm from './FreightForm.vue'
import InvoiceForm from './InvoiceForm.vue'
import OrderForm from './OrderForm.vue'
import OrderInvoices from './OrderInvoices.vue'
import { freightInvoiced } from './purchase'
import QuoteAnswers from './QuoteAnswers.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import CommandNotice from '@/parts/CommandNotice.vue'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import { hasDraft, useDraft } from '@/parts/draft'
import FormField from '@/parts/FormField.vue'
import TextEntry from '@/parts/TextEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'
import QueryState from '@/parts/QueryState.vue'

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
const chosenDock = ref(0)
const dock = computed({
  get: () => chosenDock.value || docks.data.value?.[0]?.id,
  set: (to) => (chosenDock.value = to ?? 0),
})
const dockOptions = computed(() => (docks.data.value ?? []).map((d) => ({ value: d.id, label: d.code })))
const note = useDraft(
  () => `purchase-note/${id.value}`,
  () => (o.value?.id === id.value ? { text: o.value.note } : undefined),
)
const invoicing = ref(false)
const freighting = ref(false)
const changing = ref(false)
const waits = ref(false)
const command = useCommand()
const { busy, problem, done, run } = command
watch(
  id,
  () => {
    // What was being typed when the page was left, or loaded anew, is open again.
    invoicing.value = hasDraft(`supplier-invoice/${id.value}`)
    freighting.value = hasDraft(`freight-invoice/${id.value}`)
    changing.value = hasDraft(`purchase-order/${id.value}`)
    waits.value = false
    done.value = ''
    problem.value = undefined
  },
  { immediate: true },
)

/** Arrivals that are open for the order already. */
const arrivals = useQuery({
  queryKey: ['receive', 'arrivals', 'of', id, computed(() => o.value?.site_id)],
  queryFn: () => ask(api.GET('/api/v1/arrivals', { params: { query: { site: o.value?.site_id, order: id.value } } })),
  enabled: computed(() => !!o.value && open.value),
})
const standing = computed(() => arrivals.data.value ?? [])

async function openArrival() {
  const dockId = dock.value ?? 0
  const a = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/arrivals', {
          headers: h,
          body: {
            order_ids: [id.value],
            dock_id: dockId,
            waits: waits.value,
            another: standing.value.length > 0 || undefined,
          },
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
  void order.refetch()
}

async function annotate() {
  const saved = await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/purchase-orders/{id}/note', {
            headers: h,
            params: { path: { id: id.value } },
            body: { version: o.value?.version ?? 0, note: note.mine.value?.text ?? '' },
          }),
        ),
      ),
    () => 'The note is saved.',
  )
  if (!saved) return
  note.saved()
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

const close = () => change('close', `${o.value?.number} is closed.`)
async function changed(x: Schemas['PurchasingOrder']) {
  changing.value = false
  done.value = `${x.number} is changed.`
  await order.refetch()
}
const leads = computed(() => worksAs('lead'))
const buys = computed(() => worksAs('lead', 'receiver', 'office'))
const docker = computed(() => worksAs('lead', 'receiver'))
/** Comes to more than may be bought unasked, and nobody approved it yet. */
const unapproved = computed(() => !!o.value?.to_approve)
const begun = { order: '', request: 'a request to buy', quote: "the supplier's quote" }
const freighted = computed(() => Number(o.value?.freight ?? 0) > 0)
const open = computed(() => o.value?.state === 'placed' || o.value?.state === 'partly_received')
const missing = computed(
  () => o.value?.lines.filter((l) => !l.closed && Number(l.received) < Number(l.quantity)).length ?? 0,
)
const lineColumns = computed<Column<Schemas['PurchasingLine']>[]>(() => [
  { name: 'line', label: 'Line', of: (l) => String(l.line), mono: true },
  { name: 'item', label: 'Item' },
  { name: 'ordered', label: 'Ordered', of: (l) => l.quantity, right: true, mono: true },
  {
    name: 'allowedFromTo',
    label: 'Allowed from, to',
    of: (l) => (!l.item_id ? 'non-stock' : l.least === l.most ? l.least : `${l.least} to ${l.most}`),
    right: true,
    mono: true,
  },
  { name: 'received', label: 'Received', of: (l) => (l.item_id ? l.received : ''), right: true, mono: true },
  {
    name: 'cancelled',
    label: 'Cancelled',
    of: (l) => (l.cancelled === '0' ? '' : l.cancelled),
    right: true,
    mono: true,
  },
  { name: 'invoiced', label: 'Invoiced', of: (l) => (l.invoiced === '0' ? '' : l.invoiced), right: true, mono: true },
  { name: 'price', money: true, label: 'Price', of: (l) => l.price, right: true, mono: true },
  ...(freighted.value || (o.value && freightInvoiced(o.value))
    ? [
        {
          name: 'landed',
          label: 'With freight',
          of: (l: Schemas['PurchasingLine']) => (l.item_id ? l.landed : ''),
          right: true,
          mono: true,
        },
      ]
    : []),
  { name: 'neededBy', label: 'Needed by', of: (l) => l.needed_on ?? '', mono: true },
])
</script>

<template>
  <QueryState v-if="!o" :query="order" :rows="8" />
  <template v-else>
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
        >Started as {{ begun[o.began_as] }}<template v-if="o.quote"> {{ o.quote }}</template
        ><template v-if="o.quote_until">, whose prices are valid until {{ o.quote_until }}</template
        >.</template
      >
      <template v-if="seesMoney()"
        >Total <b class="mono">{{ money(o.value) }}</b><template v-if="freighted"
          >, of which {{ money(o.freight) }} freight, spread by {{ o.freight_by }}</template
        >.
      </template>
      <template v-if="o.approved_by">Approved by {{ o.approved_by }}. </template>
      <router-link
        v-if="['partly_received', 'received', 'closed'].includes(o.state)"
        :to="`/audit/recall/order/${o.id}`"
        >What became of it</router-link
      >
    </p>
    <OrderForm v-if="changing" :order="o" @saved="changed" @leave="changing = false" />
    <template v-else>
      <SheetTable :columns="lineColumns" :rows="o.lines" :row-key="(l) => l.id"
        ><template #item="{ row: l }"
          ><b>{{ l.description }}</b> <span class="mono mute small">{{ l.sku }}</span></template
        ></SheetTable
      >

      <QuoteAnswers v-if="can('list-answers') && o.began_as === 'request'" :order="o" />
      <CommandNotice :of="command" />
      <div v-if="o.state === 'draft' && buys" class="fields">
        <a-button
          v-if="unapproved && leads"
          type="primary"
          :disabled="busy"
          @click="change('approve', `${o.number} is approved.`)"
        >
          Approve {{ o.number }}, {{ money(o.value) }}
        </a-button>
        <a-button
          :type="!unapproved || !leads ? 'primary' : 'default'"
          :disabled="busy"
          @click="change('send-to-supplier', `${o.number} is sent to the supplier.`)"
        >
          Send {{ o.number }} to {{ o.supplier }}
        </a-button>
        <span v-if="unapproved" class="mute small"
          >{{ o.approve_above ? `Above ${o.approve_above} a` : 'A' }} lead approves it first.</span
        >
      </div>
      <p v-if="standing.length" class="note" data-arrivals>
        <template v-for="(a, i) in standing" :key="a.id"
          >{{ i ? ', ' : '' }}<router-link class="mono" :to="`/receive/arrival/${a.id}`">{{ a.number }}</router-link> is
          open for it at {{ a.dock }}</template
        >.
      </p>
      <div v-if="open && docker" class="fields">
        <FormField label="Dock"><ChoiceEntry v-model="dock" :options="dockOptions" :width="130" /></FormField>
        <a-checkbox v-model:checked="waits" class="tick">Wait on the dock until the order is complete</a-checkbox>
        <ConfirmButton
          v-if="standing.length"
          label="Open another arrival"
          title="Open another arrival?"
          :happens="`${standing.map((a) => a.number).join(' and ')} stays open. Another is for goods of ${o.number} on another vehicle.`"
          does="Open another"
          :busy="busy"
          @confirm="openArrival"
        />
        <a-button v-else type="primary" :disabled="busy" @click="openArrival"
          >Open an arrival for {{ o.number }}</a-button
        >
        <a-button
          v-if="o.state === 'partly_received'"
          :disabled="busy"
          @click="change('release', 'What waited on the dock is free.')"
        >
          Release what waits
        </a-button>
      </div>
      <div class="fields">
        <a class="btn" :href="`/api/v1/purchase-orders/${o.id}/order.pdf`" target="_blank" rel="noopener">Print</a>
        <a-button v-if="buys" :disabled="busy" @click="mail">Mail to {{ o.email || 'the supplier' }}</a-button>
        <a-button v-if="buys && (open || o.state === 'draft')" @click="changing = true">Change the order</a-button>
      </div>
      <div class="fields">
        <FormField v-if="note.mine.value" label="Note on the order"
          ><TextEntry v-model="note.mine.value.text" :maxlength="500" :width="300" @keydown.enter="annotate"
        /></FormField>
        <a-button :disabled="busy || !note.changed.value" @click="annotate">Save the note</a-button>
        <a-button v-if="note.changed.value" @click="note.discard">Discard</a-button>
        <a-button v-if="o.state !== 'draft' && can('enter-invoice')" @click="invoicing = !invoicing">
          {{ invoicing ? 'Close the invoice' : 'Enter an invoice' }}
        </a-button>
        <a-button v-if="o.state !== 'draft' && can('enter-freight')" @click="freighting = !freighting">
          {{ freighting ? 'Close the freight' : 'Enter freight' }}
        </a-button>
        <ConfirmButton
          v-if="o.state !== 'closed' && can('close-purchase-order')"
          label="Close the order"
          :title="`Close ${o.number}?`"
          :happens="
            missing
              ? `What is not received of ${plural(missing, 'line')} is cancelled. A closed order takes no more goods.`
              : 'Everything came. A closed order takes no more goods.'
          "
          :does="missing ? `Close it, cancel ${plural(missing, 'open line')}` : 'Close it'"
          :busy="busy"
          @confirm="close"
        />
      </div>

      <InvoiceForm v-if="invoicing" :order="o" @saved="((invoicing = false), order.refetch())" />
      <FreightForm v-if="freighting" :order="o" @saved="((freighting = false), order.refetch())" />
      <OrderInvoices v-if="can('list-recosts') && o.invoices.length" :order="o" @changed="order.refetch()" />
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
.part {
  margin-top: 18px;
}
.tick {
  align-self: center;
}
</style>
