<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { can, session } from '@/api/session'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import TextEntry from '@/parts/TextEntry.vue'
import QueueCard from '@/parts/QueueCard.vue'
import { money, plural, when } from '@/parts/words'
import type { Column, Sort } from '@/parts/columns'
import CommandNotice from '@/parts/CommandNotice.vue'
import PagedList from '@/parts/PagedList.vue'
import { useServerList } from '@/parts/serverList'
import { sumOf } from '@/parts/sums'
import { usePreview } from '@/parts/preview'
import QueryView from '@/parts/QueryView.vue'
import SheetTable from '@/parts/SheetTable.vue'
import TaxFoot from '@/parts/TaxFoot.vue'

/** For the accounts: what is shipped and not invoiced, and the invoices that follow shipments. */
const props = defineProps<{ id?: string }>()
const queries = useQueryClient()
const router = useRouter()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
type Uninvoiced = Schemas['InvoicingUninvoiced']
type By = NonNullable<operations['list-uninvoiced']['parameters']['query']>['sort']
const sort = ref<Sort | undefined>({ by: 'shipment', down: false })
const uninvoiced = useServerList<Uninvoiced>(
  ['invoicing', 'uninvoiced', site],
  sort,
  (at) => ask(api.GET('/api/v1/uninvoiced', { params: { query: { site: site.value, ...at, sort: at.sort as By } } })),
  500,
)
const { query: toInvoice, rows: listed, total, sums } = uninvoiced
const invoices = useQuery({
  queryKey: ['invoicing', 'invoices', site],
  queryFn: () => ask(api.GET('/api/v1/invoices', { params: { query: { site: site.value } } })),
})
const invoice = useQuery({
  queryKey: ['invoicing', 'one', id],
  queryFn: () => ask(api.GET('/api/v1/invoices/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
const ticked = ref<(string | number)[]>([])
const post = ref(false)
/** Of those that are ticked, without tax; of all while none is. */
const sum = computed(() =>
  money(
    ticked.value.length
      ? sumOf(listed.value.filter((u) => ticked.value.includes(u.shipment_id)).map((u) => u.value))
      : (sums.value.value ?? '0'),
  ),
)
/** Which invoices would be made of what is ticked. */
const asked = computed(() =>
  ticked.value.length ? { shipment_ids: ticked.value.map(Number), mail: post.value } : null,
)
const {
  plan: coming,
  problem: refused,
  fresh,
} = usePreview('invoices', asked, (body) => ask(api.POST('/api/v1/invoices/preview', { body })))
const command = useCommand()
const { busy, run } = command
const may = computed(() => can('invoice-shipments'))
async function make() {
  const made = await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/invoices', {
            headers: h,
            body: asked.value!,
          }),
        ),
      ),
    (b) => `${b.map((x) => x.number).join(', ')} made${post.value ? ' and given to the mail host' : ''}.`,
  )
  if (made) {
    ticked.value = []
    await queries.invalidateQueries({ queryKey: ['invoicing'] })
  }
}
/** An invoice made by mistake is taken back by a credit note. */
const taking = ref(false)
const why = useDraft<{ reason: string }>(
  () => `invoice/${id.value}/credit`,
  () => ({ reason: '' }),
)
const reason = computed<string>({
  get: () => why.mine.value?.reason ?? '',
  set: (text) => (why.mine.value = { reason: text }),
})
watch(id, () => (taking.value = false))
async function credit() {
  const note = await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/invoices/{id}/credit', {
            headers: h,
            params: { path: { id: id.value } },
            body: { reason: reason.value },
          }),
        ),
      ),
    (b) => `${b.number} takes ${b.credits_number} back; ${b.shipment.replaceAll(' ', ', ')} can be invoiced anew.`,
  )
  if (!note) return
  why.discard()
  taking.value = false
  await queries.invalidateQueries({ queryKey: ['invoicing'] })
  void router.push(`/dispatch/invoices/${note.id}`)
}
const mail = () =>
  run(
    () => once((h) => ask(api.POST('/api/v1/invoices/{id}/mail', { headers: h, params: { path: { id: id.value } } }))),
    (b) => `${b.number} is given to the mail host for ${b.email}.`,
  )
const columns: Column<Uninvoiced>[] = [
  {
    name: 'shipment',
    sort: true,
    label: 'Shipment',
    of: (u) => u.shipment,
    to: (u) => `/dispatch/${u.shipment_id}`,
    mono: true,
    width: 130,
  },
  {
    name: 'order',
    sort: true,
    label: 'Order',
    of: (u) => u.order,
    to: (u) => `/orders/${u.order_id}`,
    mono: true,
    width: 110,
  },
  { name: 'customer', sort: true, label: 'Customer', of: (u) => u.customer, width: 230 },
  { name: 'shipped', sort: true, label: 'Shipped', of: (u) => when(u.shipped_at), mono: true, width: 160 },
  { name: 'lines', sort: true, label: 'Lines', of: (u) => String(u.lines), right: true, mono: true, width: 80 },
  { name: 'value', sort: true, label: 'Value', of: (u) => money(u.value), right: true, mono: true, width: 120 },
]
const numbersOf = (b: Schemas['InvoicingInvoice']) => [...b.shipment.split(' '), ...b.order.split(' ')]
const lineColumns: Column<Schemas['InvoicingLine']>[] = [
  { name: 'shipment', label: 'Shipment', of: (l) => l.shipment, mono: true },
  { name: 'item', label: 'Item' },
  { name: 'quantity', label: 'Quantity', of: (l) => `${l.quantity} ${l.unit}`, right: true, mono: true },
  { name: 'price', label: 'Price', of: (l) => l.price, right: true, mono: true },
  { name: 'tax', label: 'Tax', of: (l) => (Number(l.tax_pct) ? `${l.tax_pct} %` : ''), right: true, mono: true },
  { name: 'amount', label: 'Amount', of: (l) => money(l.amount), right: true, mono: true },
]
</script>

<template>
  <BenchLayout waits="Invoices" :waiting="[invoices]" :sheet="id ? [invoice] : []">
    <template #waiting>
      <h2>
        <span>Invoices</span
        ><span class="nb"
          ><router-link to="/dispatch/invoices/list">table</router-link>,
          <router-link to="/dispatch/invoices">not invoiced</router-link></span
        >
      </h2>
      <QueueCard
        v-for="b in invoices.data.value"
        :key="b.id"
        :to="`/dispatch/invoices/${b.id}`"
        :selected="id === b.id"
      >
        <span class="mono">{{ b.number }}</span><span class="mono">{{ money(b.total) }}</span>
        <template #more
          ><span>{{ b.customer }}</span
          ><span class="mono">{{ b.invoiced_on }}</span></template
        >
      </QueueCard>
      <div v-if="invoices.data.value?.length === 0" class="empty">No invoice was made yet.</div>
    </template>
    <template v-if="id && invoice.data.value">
      <h1>
        {{ invoice.data.value.credits ? 'Credit note' : 'Invoice' }}
        <span class="mono">{{ invoice.data.value.number }}</span>
      </h1>
      <p class="mute">
        {{ invoice.data.value.customer }}, for
        <template v-for="(n, i) in numbersOf(invoice.data.value)" :key="n"
          ><template v-if="i">, </template><router-link class="mono" :to="`/go/${n}`">{{ n }}</router-link></template
        >, made {{ invoice.data.value.invoiced_on }} by {{ invoice.data.value.made_by }}.
        <template v-if="!invoice.data.value.credits"
          >Due <b class="mono">{{ invoice.data.value.due_on }}</b>{{
            invoice.data.value.terms && `, ${invoice.data.value.terms}`
          }}.</template
        >
      </p>
      <p v-if="invoice.data.value.credits" class="note w">
        It takes
        <router-link class="mono" :to="`/dispatch/invoices/${invoice.data.value.credits}`">{{
          invoice.data.value.credits_number
        }}</router-link>
        back: {{ invoice.data.value.reason }}
      </p>
      <p v-if="invoice.data.value.credited_by" class="note w">
        Taken back by
        <router-link class="mono" :to="`/dispatch/invoices/${invoice.data.value.credited_by}`">{{
          invoice.data.value.credited_number
        }}</router-link>.
      </p>
      <SheetTable
        data-invoice
        label="Lines"
        :columns="lineColumns"
        :rows="invoice.data.value.lines"
        :row-key="(l) => `${l.shipment_id}/${l.line_id}`"
      >
        <template #item="{ row: l }">
          <b>{{ l.description }}</b> <span class="mono mute small">{{ l.sku }}</span>
        </template>
        <template #foot>
          <TaxFoot :taxes="invoice.data.value.taxes" :total="invoice.data.value.total" />
        </template>
      </SheetTable>
      <div class="fields" style="margin-top: 12px">
        <a class="btn" :href="`/api/v1/invoices/${id}/invoice.pdf`" target="_blank" rel="noopener">Print</a>
        <a-button v-if="may" :disabled="busy" @click="mail">Mail</a-button>
        <a-button
          v-if="may && !invoice.data.value.credits && !invoice.data.value.credited_by"
          :aria-expanded="taking"
          @click="taking = !taking"
          >Take it back</a-button
        >
      </div>
      <EntryForm v-if="taking || why.changed.value" @submit="credit">
        <p class="mute">
          A credit note over {{ money(invoice.data.value.total) }} is made. What was shipped with
          {{ invoice.data.value.shipment.replaceAll(' ', ', ') }} is not invoiced any more, and can be invoiced anew.
        </p>
        <div class="fields">
          <FormField label="Reason" required><TextEntry v-model="reason" :maxlength="200" :width="360" /></FormField>
          <a-button html-type="submit" :disabled="busy || !reason.trim()"
            >Make a credit note, {{ money(invoice.data.value.total) }}</a-button
          >
        </div>
      </EntryForm>
    </template>
    <template v-else>
      <h1>Shipped and not invoiced</h1>
      <QueryView :query="toInvoice" :empty="() => !listed.length">
        <template #default>
          <PagedList
            v-model:sort="sort"
            v-model:ticked="ticked"
            data-uninvoiced
            name="uninvoiced"
            label="Shipped and not invoiced"
            style="--list-height: 56vh"
            :columns="columns"
            :list="uninvoiced"
            :file="`/api/v1/uninvoiced/export?site=${site}`"
            :row-key="(u) => u.shipment_id"
            :to="(u) => `/dispatch/${u.shipment_id}`"
            :tick-label="(u) => `Tick ${u.shipment}`"
            :sums="{ shipment: plural(ticked.length || total, 'shipment'), value: sum }"
          />
        </template>
        <template #empty>Everything that was shipped is invoiced.</template>
      </QueryView>
      <div v-if="may && listed.length" class="fields" style="margin-top: 12px">
        <a-button type="primary" data-primary :disabled="!ticked.length || busy || !!refused" @click="make">
          {{ coming?.button ?? 'Make invoices' }}
        </a-button>
        <a-checkbox v-model:checked="post">Mail each</a-checkbox>
      </div>
      <p v-if="coming" class="mute">
        With tax. <template v-for="n in coming.notes" :key="n">{{ n }} </template>
      </p>
      <div v-if="refused && fresh" class="note s" role="alert">{{ refused.message }}</div>
    </template>
    <CommandNotice :of="command" />
  </BenchLayout>
</template>
