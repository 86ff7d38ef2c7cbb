<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once } from '@/api/client'
import { session } from '@/api/session'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import { money, plural, when } from '@/parts/words'

/** For the accounts: what is shipped and not invoiced, and the invoices that follow shipments. */
const props = defineProps<{ id?: string }>()
const queries = useQueryClient()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
const uninvoiced = useQuery({
  queryKey: ['invoicing', 'uninvoiced', site],
  queryFn: () => ask(api.GET('/api/v1/uninvoiced', { params: { query: { site: site.value } } })),
})
const invoices = useQuery({
  queryKey: ['invoicing', 'invoices', site],
  queryFn: () => ask(api.GET('/api/v1/invoices', { params: { query: { site: site.value } } })),
})
const invoice = useQuery({
  queryKey: ['invoicing', 'one', id],
  queryFn: () => ask(api.GET('/api/v1/invoices/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
const ticked = ref<number[]>([])
const post = ref(false)
const all = computed(() => ticked.value.length > 0 && ticked.value.length === uninvoiced.data.value?.length)
const tickAll = () => (ticked.value = all.value ? [] : (uninvoiced.data.value ?? []).map((u) => u.shipment_id))
const sum = computed(() =>
  money(
    String(
      (uninvoiced.data.value ?? [])
        .filter((u) => !ticked.value.length || ticked.value.includes(u.shipment_id))
        .reduce((n, u) => n + Number(u.value), 0),
    ),
  ),
)
const { busy, problem, done, run } = useCommand()
const may = computed(() => ['lead', 'office'].includes(session.person?.role ?? ''))
async function make() {
  const made = await run(
    () =>
      once((h) =>
        ask(api.POST('/api/v1/invoices', { headers: h, body: { shipment_ids: ticked.value, mail: post.value } })),
      ),
    (b) => `${b.map((x) => x.number).join(', ')} made${post.value ? ' and given to the mail host' : ''}.`,
  )
  if (made) {
    ticked.value = []
    await queries.invalidateQueries({ queryKey: ['invoicing'] })
  }
}
const mail = () =>
  run(
    () => once((h) => ask(api.POST('/api/v1/invoices/{id}/mail', { headers: h, params: { path: { id: id.value } } }))),
    (b) => `${b.number} is given to the mail host for ${b.email}.`,
  )
</script>

<template>
  <BenchLayout waits="Invoices">
    <template #waiting>
      <h2><span>Invoices</span><router-link to="/dispatch/invoices">not invoiced</router-link></h2>
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
        Invoice <span class="mono">{{ invoice.data.value.number }}</span>
      </h1>
      <p class="mute">
        {{ invoice.data.value.customer }}, for shipment
        <router-link class="mono" :to="`/dispatch/${invoice.data.value.shipment_id}`">{{
          invoice.data.value.shipment
        }}</router-link>
        of order
        <router-link class="mono" :to="`/orders/${invoice.data.value.order_id}`">{{
          invoice.data.value.order
        }}</router-link>, made {{ invoice.data.value.invoiced_on }} by {{ invoice.data.value.made_by }}.
        {{ invoice.data.value.terms }}
      </p>
      <table class="plain" data-invoice>
        <thead>
          <tr>
            <th>Item</th>
            <th class="r">Quantity</th>
            <th class="r">Price</th>
            <th class="r">Amount</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in invoice.data.value.lines" :key="l.line_id">
            <td>
              <b>{{ l.description }}</b> <span class="mono mute small">{{ l.sku }}</span>
            </td>
            <td class="r mono">{{ l.quantity }} {{ l.unit }}</td>
            <td class="r mono">{{ l.price }}</td>
            <td class="r mono">{{ money(l.amount) }}</td>
          </tr>
          <tr>
            <td colspan="3" class="r">In all</td>
            <td class="r mono">
              <b>{{ money(invoice.data.value.total) }}</b>
            </td>
          </tr>
        </tbody>
      </table>
      <div class="fields" style="margin-top: 12px">
        <a class="btn" :href="`/api/v1/invoices/${id}/invoice.pdf`" target="_blank" rel="noopener">Print it</a>
        <button v-if="may" class="btn" :disabled="busy" @click="mail">Mail it</button>
      </div>
    </template>
    <template v-else>
      <h1>Shipped and not invoiced</h1>
      <table v-if="uninvoiced.data.value?.length" class="plain" data-uninvoiced>
        <thead>
          <tr>
            <th>
              <button class="btn bare" @click="tickAll">{{ all ? 'none' : 'all' }}</button>
            </th>
            <th>Shipment</th>
            <th>Order</th>
            <th>Customer</th>
            <th>Shipped</th>
            <th class="r">Lines</th>
            <th class="r">Value</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="u in uninvoiced.data.value" :key="u.shipment_id">
            <td>
              <input v-model="ticked" type="checkbox" :value="u.shipment_id" :aria-label="`Tick ${u.shipment}`" />
            </td>
            <td class="mono">
              <router-link :to="`/dispatch/${u.shipment_id}`">{{ u.shipment }}</router-link>
            </td>
            <td class="mono">
              <router-link :to="`/orders/${u.order_id}`">{{ u.order }}</router-link>
            </td>
            <td>{{ u.customer }}</td>
            <td class="mono">{{ when(u.shipped_at) }}</td>
            <td class="r mono">{{ u.lines }}</td>
            <td class="r mono">{{ money(u.value) }}</td>
          </tr>
        </tbody>
      </table>
      <div v-else-if="uninvoiced.isSuccess.value" class="empty">Everything that was shipped is invoiced.</div>
      <div v-if="may && uninvoiced.data.value?.length" class="fields" style="margin-top: 12px">
        <button class="btn go" data-primary :disabled="!ticked.length || busy" @click="make">
          Make {{ plural(ticked.length, 'invoice') }}, {{ sum }}
        </button>
        <label><input v-model="post" type="checkbox" /> and mail each</label>
      </div>
    </template>
    <div v-if="problem" class="note s" role="alert" style="margin-top: 12px">{{ problem.message }}</div>
    <div v-if="done" class="note g" role="status" style="margin-top: 12px">{{ done }}</div>
  </BenchLayout>
</template>
