<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand, usePreview } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import { plural, when } from '@/parts/words'
import InvoiceWith from './InvoiceWith.vue'

/** Vehicles that are loaded carton by carton, and leave with all that is on them. */
const props = defineProps<{ id?: string }>()
const router = useRouter()
const queries = useQueryClient()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
const loads = useQuery({
  queryKey: ['dispatch', 'loads', site],
  queryFn: () => ask(api.GET('/api/v1/loads', { params: { query: { site: site.value } } })),
})
const load = useQuery({
  queryKey: ['dispatch', 'load', id],
  queryFn: () => ask(api.GET('/api/v1/loads/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
const carriers = useQuery({
  queryKey: ['dispatch', 'carriers', site],
  queryFn: () => ask(api.GET('/api/v1/carriers', { params: { query: { site: site.value } } })),
})
const carrier = ref('')
const vehicle = ref('')
const scan = ref('')
const invoice = ref<Schemas['ShippingTerms']['invoice']>('')
const { busy, problem, done, run } = useCommand()

async function act(
  call: (h: { 'Idempotency-Key': string }) => Promise<Schemas['DispatchLoad']>,
  say: (l: Schemas['DispatchLoad']) => string,
) {
  const l = await run(() => once(call), say)
  if (l) await queries.invalidateQueries({ queryKey: ['dispatch'] })
  return l
}
async function begin() {
  const l = await act(
    (h) =>
      ask(
        api.POST('/api/v1/loads', {
          headers: h,
          body: { site_id: site.value, carrier: carrier.value, vehicle: vehicle.value || undefined },
        }),
      ),
    () => '',
  )
  if (l) {
    vehicle.value = ''
    void router.push(`/dispatch/load/${l.id}`)
  }
}
async function put() {
  const text = scan.value.trim()
  scan.value = ''
  if (text)
    await act(
      (h) =>
        ask(
          api.POST('/api/v1/loads/{id}/scan', { headers: h, params: { path: { id: id.value } }, body: { scan: text } }),
        ),
      (l) => `${plural(l.count, 'carton')} on ${l.number}.`,
    )
}
const off = (cartons?: number[]) =>
  act(
    (h) =>
      ask(
        api.POST('/api/v1/loads/{id}/off', {
          headers: h,
          params: { path: { id: id.value } },
          body: { carton_ids: cartons },
        }),
      ),
    (l) => `${plural(l.count, 'carton')} on ${l.number} now.`,
  )
const leave = () =>
  act(
    (h) =>
      ask(
        api.POST('/api/v1/loads/{id}/leave', {
          headers: h,
          params: { path: { id: id.value } },
          body: { invoice: invoice.value },
        }),
      ),
    (l) => `${l.number} left with ${plural(l.count, 'carton')}. Its shipments are shipped.`,
  )
const body = computed(() =>
  load.data.value?.state === 'loading' && load.data.value.count
    ? { id: id.value, count: load.data.value.count, invoice: invoice.value }
    : null,
)
const {
  plan,
  problem: refused,
  fresh,
} = usePreview('leave', body, (b) =>
  ask(api.POST('/api/v1/loads/{id}/leave/preview', { params: { path: { id: b.id } }, body: { invoice: b.invoice } })),
)
</script>

<template>
  <BenchLayout waits="Vehicles">
    <template #waiting>
      <h2><span>Vehicles</span><router-link to="/dispatch">what is packed</router-link></h2>
      <QueueCard v-for="l in loads.data.value" :key="l.id" :to="`/dispatch/load/${l.id}`" :selected="id === l.id">
        <span class="mono">{{ l.number }}</span><span>{{ plural(l.count, 'carton') }}</span>
        <template #more
          ><span>{{ l.carrier }} {{ l.vehicle }}</span
          ><span>{{ l.left_at ? `left ${when(l.left_at)}` : `${l.waiting} wait` }}</span></template
        >
      </QueueCard>
      <div v-if="loads.data.value?.length === 0" class="empty">No vehicle is being loaded.</div>
      <form @submit.prevent="begin">
        <label class="field"
          >Carrier<input v-model="carrier" list="carriers" aria-label="Carrier of the vehicle" /><datalist
            id="carriers"
          >
            <option v-for="c in carriers.data.value" :key="c.name" :value="c.name" /></datalist
        ></label>
        <label class="field">Plate, or what tells it apart<input v-model="vehicle" maxlength="40" /></label>
        <button class="btn" :disabled="!carrier.trim() || busy">Begin to load</button>
      </form>
    </template>
    <template v-if="id && load.data.value">
      <h1>
        Vehicle <span class="mono">{{ load.data.value.number }}</span>
        <span class="mute small"
          >{{ load.data.value.carrier }} {{ load.data.value.vehicle }}, {{ load.data.value.state }}</span
        >
      </h1>
      <p class="mute">
        {{ plural(load.data.value.count, 'carton') }}, <b class="mono">{{ load.data.value.weight_kg }}</b> kg.
        {{ plural(load.data.value.waiting, 'packed carton') }} of {{ load.data.value.carrier }} on no vehicle yet.
      </p>
      <form v-if="load.data.value.state === 'loading'" class="fields" @submit.prevent="put">
        <label class="field">Scan a carton or a pallet<input v-model="scan" class="mono" size="26" data-load /></label>
        <button class="btn" :disabled="busy">Load it</button>
        <button v-if="load.data.value.count" type="button" class="btn" :disabled="busy" @click="off()">
          Take all off again
        </button>
        <InvoiceWith v-if="load.data.value.count" v-model="invoice" />
      </form>
      <table v-if="load.data.value.cartons.length" class="plain" data-loaded>
        <thead>
          <tr>
            <th>Carton</th>
            <th>Order</th>
            <th>Customer</th>
            <th class="r">kg</th>
            <th>Pallet</th>
            <th><span class="skip">What to do</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in load.data.value.cartons" :key="c.id">
            <td class="mono">
              <router-link :to="`/pack/${c.id}`">{{ c.sscc }}</router-link>
            </td>
            <td class="mono">{{ c.order }}</td>
            <td>{{ c.customer }}</td>
            <td class="r mono">{{ c.weight_kg }}</td>
            <td class="mono">{{ c.pallet ? `…${c.pallet.slice(-5)}` : '' }}</td>
            <td>
              <button v-if="load.data.value.state === 'loading'" class="btn bare" :disabled="busy" @click="off([c.id])">
                take off
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <div v-else class="empty">Nothing is on it yet. Scan the cartons as they go on.</div>
    </template>
    <div v-else class="empty">
      Begin to load a vehicle of a carrier on the left. Each carton is scanned as it goes on; one of another carrier, or
      on another vehicle, is refused.
    </div>
    <template v-if="id" #after>
      <BeforeAfter
        :plan="plan"
        :problem="problem ?? refused"
        :done="done"
        :busy="busy"
        :fresh="fresh"
        idle="Nothing is on the vehicle."
        doing="Let it leave"
        @go="leave"
      />
    </template>
  </BenchLayout>
</template>
