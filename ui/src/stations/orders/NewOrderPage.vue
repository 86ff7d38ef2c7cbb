<script setup lang="ts">
import { useQueries, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import ItemFinder from '@/parts/ItemFinder.vue'
import PartyFinder from '@/parts/PartyFinder.vue'
import { useCommand } from '@/parts/preview'
import { today } from '@/parts/words'

const router = useRouter()
const queries = useQueryClient()
const customer = ref<Schemas['CatalogParty']>()
const wanted = ref(today(1))
const reference = ref('')
const reason = ref('')
const lines = ref<{ item: Schemas['CatalogItem']; quantity: string }[]>([])
const { busy, problem, run } = useCommand()
const asked = refDebounced(
  computed(() => lines.value.map((l) => ({ id: l.item.id, quantity: l.quantity || '0' }))),
  150,
)
const outlooks = useQueries({
  queries: computed(() =>
    asked.value.map((l) => ({
      queryKey: ['stock', 'outlook', l.id, l.quantity, session.site],
      queryFn: () =>
        ask(
          api.GET('/api/v1/outlook', { params: { query: { item: l.id, site: session.site, quantity: l.quantity } } }),
        ),
      retry: false,
    })),
  ),
})

async function save(letGo: boolean) {
  const order = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/sales-orders', {
          headers: h,
          body: {
            customer_id: customer.value?.id ?? 0,
            site_id: session.site,
            wanted_on: wanted.value,
            reference: reference.value,
            reason: reason.value || undefined,
            let_go: letGo,
            lines: lines.value.map((l) => ({ item_id: l.item.id, quantity: l.quantity })),
          },
        }),
      ),
    ),
  )
  if (order) {
    await queries.invalidateQueries({ queryKey: ['orders'] })
    void router.push(`/orders/${order.id}`)
  }
}
/** A customer that owes raises a question, which a lead may answer. */
const asksWhy = computed(
  () =>
    session.person?.role === 'lead' &&
    (!!reason.value || ['customer_owes', 'reason_short'].includes(problem.value?.code ?? '')),
)
const refused = (i: number) => problem.value?.field === `lines[${i}].quantity`
</script>

<template>
  <div class="page">
    <h1>New order</h1>
    <div class="fields">
      <label class="field">Customer<PartyFinder v-model="customer" kind="customer" label="Customer" /></label>
      <label class="field">Wanted<input v-model="wanted" class="mono" size="11" /></label>
      <label class="field">Their order number<input v-model="reference" size="18" /></label>
      <span v-if="customer" class="mute small">goes with {{ customer.carrier }}</span>
    </div>
    <table class="plain">
      <thead>
        <tr>
          <th>Item</th>
          <th class="r">Wanted</th>
          <th class="r">Free</th>
          <th class="r">Free after</th>
          <th>More comes</th>
          <th>Can go</th>
          <th><span class="skip">What to do</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(l, i) in lines" :key="i">
          <td>
            <b>{{ l.item.description }}</b> <span class="mono mute small">{{ l.item.sku }}</span>
          </td>
          <td class="r">
            <input
              v-model="l.quantity"
              class="num mono"
              inputmode="decimal"
              :aria-label="`${l.item.sku} wanted`"
              :aria-invalid="refused(i)"
            />
          </td>
          <td class="r mono">{{ outlooks[i]?.data?.free }}</td>
          <td class="r mono" :class="{ late: Number(outlooks[i]?.data?.free_after) < 0 }">
            {{ outlooks[i]?.data?.free_after }}
          </td>
          <td class="mono small">
            {{
              outlooks[i]?.data?.next_on
                ? `${outlooks[i]?.data?.next_quantity} on ${outlooks[i]?.data?.next_on}`
                : 'none on order'
            }}
          </td>
          <td class="mono small" :class="{ late: outlooks[i]?.data && outlooks[i]!.data!.promise > wanted }">
            {{ !Number(l.quantity) ? '' : outlooks[i]?.data?.promise || (outlooks[i]?.data ? 'no day known' : '') }}
          </td>
          <td><button class="btn bare" @click="lines.splice(i, 1)">leave out</button></td>
        </tr>
        <tr>
          <td colspan="7">
            <ItemFinder label="Add an item" @choose="(f) => lines.push({ item: f.item, quantity: '' })" />
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="problem" class="note s" role="alert" style="margin-top: 12px">{{ problem.message }}</div>
    <label v-if="asksWhy" class="field" style="margin-top: 12px"
      >Take it all the same, because<input v-model="reason" size="50" maxlength="200"
    /></label>
    <div class="fields" style="margin-top: 14px">
      <button class="btn go" data-primary :disabled="!customer || !lines.length || busy" @click="save(true)">
        Take the order and let it go
      </button>
      <button class="btn" :disabled="!customer || !lines.length || busy" @click="save(false)">
        Take it and hold it
      </button>
      <router-link to="/orders" class="btn">Leave it</router-link>
    </div>
  </div>
</template>
