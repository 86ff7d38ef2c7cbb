<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once } from '@/api/client'
import { session } from '@/api/session'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import { money, plural, when } from '@/parts/words'

/** For the accounts: what is shipped and not billed, and the bills that follow deliveries. */
const props = defineProps<{ id?: string }>()
const queries = useQueryClient()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
const unbilled = useQuery({
  queryKey: ['billing', 'unbilled', site],
  queryFn: () => ask(api.GET('/api/v1/unbilled', { params: { query: { site: site.value } } })),
})
const bills = useQuery({
  queryKey: ['billing', 'bills', site],
  queryFn: () => ask(api.GET('/api/v1/sales-bills', { params: { query: { site: site.value } } })),
})
const bill = useQuery({
  queryKey: ['billing', 'one', id],
  queryFn: () => ask(api.GET('/api/v1/sales-bills/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
const ticked = ref<number[]>([])
const post = ref(false)
const all = computed(() => ticked.value.length > 0 && ticked.value.length === unbilled.data.value?.length)
const tickAll = () => (ticked.value = all.value ? [] : (unbilled.data.value ?? []).map((u) => u.delivery_id))
const sum = computed(() =>
  money(
    String(
      (unbilled.data.value ?? [])
        .filter((u) => !ticked.value.length || ticked.value.includes(u.delivery_id))
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
        ask(api.POST('/api/v1/sales-bills', { headers: h, body: { delivery_ids: ticked.value, mail: post.value } })),
      ),
    (b) => `${b.map((x) => x.number).join(', ')} made${post.value ? ' and given to the mail host' : ''}.`,
  )
  if (made) {
    ticked.value = []
    await queries.invalidateQueries({ queryKey: ['billing'] })
  }
}
const mail = () =>
  run(
    () =>
      once((h) => ask(api.POST('/api/v1/sales-bills/{id}/mail', { headers: h, params: { path: { id: id.value } } }))),
    (b) => `${b.number} is given to the mail host for ${b.email}.`,
  )
</script>

<template>
  <BenchLayout waits="Bills">
    <template #waiting>
      <h2><span>Bills</span><router-link to="/dispatch/bills">not billed</router-link></h2>
      <QueueCard v-for="b in bills.data.value" :key="b.id" :to="`/dispatch/bills/${b.id}`" :selected="id === b.id">
        <span class="mono">{{ b.number }}</span><span class="mono">{{ money(b.total) }}</span>
        <template #more
          ><span>{{ b.customer }}</span
          ><span class="mono">{{ b.billed_on }}</span></template
        >
      </QueueCard>
      <div v-if="bills.data.value?.length === 0" class="empty">No bill was made yet.</div>
    </template>
    <template v-if="id && bill.data.value">
      <h1>
        Bill <span class="mono">{{ bill.data.value.number }}</span>
      </h1>
      <p class="mute">
        {{ bill.data.value.customer }}, for delivery
        <router-link class="mono" :to="`/dispatch/${bill.data.value.delivery_id}`">{{
          bill.data.value.delivery
        }}</router-link>
        of order
        <router-link class="mono" :to="`/orders/${bill.data.value.order_id}`">{{ bill.data.value.order }}</router-link>,
        made {{ bill.data.value.billed_on }} by {{ bill.data.value.made_by }}. {{ bill.data.value.terms }}
      </p>
      <table class="plain" data-bill>
        <thead>
          <tr>
            <th>Item</th>
            <th class="r">Quantity</th>
            <th class="r">Price</th>
            <th class="r">Amount</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in bill.data.value.lines" :key="l.line_id">
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
              <b>{{ money(bill.data.value.total) }}</b>
            </td>
          </tr>
        </tbody>
      </table>
      <div class="fields" style="margin-top: 12px">
        <a class="btn" :href="`/api/v1/sales-bills/${id}/bill.pdf`" target="_blank" rel="noopener">Print it</a>
        <button v-if="may" class="btn" :disabled="busy" @click="mail">Mail it</button>
      </div>
    </template>
    <template v-else>
      <h1>Shipped and not billed</h1>
      <table v-if="unbilled.data.value?.length" class="plain" data-unbilled>
        <thead>
          <tr>
            <th>
              <button class="btn bare" @click="tickAll">{{ all ? 'none' : 'all' }}</button>
            </th>
            <th>Delivery</th>
            <th>Order</th>
            <th>Customer</th>
            <th>Sent</th>
            <th class="r">Lines</th>
            <th class="r">Value</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="u in unbilled.data.value" :key="u.delivery_id">
            <td>
              <input v-model="ticked" type="checkbox" :value="u.delivery_id" :aria-label="`Tick ${u.delivery}`" />
            </td>
            <td class="mono">
              <router-link :to="`/dispatch/${u.delivery_id}`">{{ u.delivery }}</router-link>
            </td>
            <td class="mono">
              <router-link :to="`/orders/${u.order_id}`">{{ u.order }}</router-link>
            </td>
            <td>{{ u.customer }}</td>
            <td class="mono">{{ when(u.sent_at) }}</td>
            <td class="r mono">{{ u.lines }}</td>
            <td class="r mono">{{ money(u.value) }}</td>
          </tr>
        </tbody>
      </table>
      <div v-else-if="unbilled.isSuccess.value" class="empty">Everything that was sent is billed.</div>
      <div v-if="may && unbilled.data.value?.length" class="fields" style="margin-top: 12px">
        <button class="btn go" data-primary :disabled="!ticked.length || busy" @click="make">
          Make {{ plural(ticked.length, 'bill') }}, {{ sum }}
        </button>
        <label><input v-model="post" type="checkbox" /> and mail each</label>
      </div>
    </template>
    <div v-if="problem" class="note s" role="alert" style="margin-top: 12px">{{ problem.message }}</div>
    <div v-if="done" class="note g" role="status" style="margin-top: 12px">{{ done }}</div>
  </BenchLayout>
</template>
