<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/command'
import { usePreview } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import { plural, when } from '@/parts/words'
import InvoiceWith from './InvoiceWith.vue'
import FormField from '@/parts/FormField.vue'
import TextEntry from '@/parts/TextEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'
import EntryForm from '@/parts/EntryForm.vue'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'

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
const cancel = () =>
  act(
    (h) => ask(api.POST('/api/v1/loads/{id}/cancel', { headers: h, params: { path: { id: id.value } } })),
    (l) => `${l.number} is cancelled.`,
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
    (l) => `${l.number} departed with ${plural(l.count, 'carton')}. Its shipments are shipped.`,
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
const columns: Column<Schemas['CartonsCarton']>[] = [
  { name: 'carton', label: 'Carton', mono: true },
  { name: 'order', label: 'Order', of: (c) => c.order, mono: true },
  { name: 'customer', label: 'Customer', of: (c) => c.customer },
  { name: 'kg', label: 'kg', of: (c) => c.weight_kg, right: true, mono: true },
  { name: 'pallet', label: 'Pallet', of: (c) => (c.pallet ? `…${c.pallet.slice(-5)}` : ''), mono: true },
  { name: 'does', label: '' },
]
const carrierOptions = computed(() => (carriers.data.value ?? []).map((c) => ({ value: c.name, label: c.name })))
</script>

<template>
  <BenchLayout waits="Vehicles" :waiting="[loads]" :sheet="id ? [load] : []">
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
      <EntryForm @submit="begin">
        <FormField label="Carrier of the vehicle" required
          ><ChoiceEntry v-model="carrier" :options="carrierOptions" :width="240"
        /></FormField>
        <FormField label="Plate" tip="Or what else tells the vehicle apart."
          ><TextEntry v-model="vehicle" :maxlength="40" :width="240"
        /></FormField>
        <a-button html-type="submit" :disabled="!carrier.trim() || busy">Begin to load</a-button>
      </EntryForm>
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
      <EntryForm v-if="load.data.value.state === 'loading'" @submit="put"
        ><div class="fields">
          <FormField label="Scan a carton or a pallet"
            ><TextEntry v-model="scan" data-load mono :width="260"
          /></FormField>
          <a-button html-type="submit" :disabled="busy">Load</a-button>
          <a-button v-if="load.data.value.count" :disabled="busy" @click="off()"> Take all off </a-button>
          <InvoiceWith v-if="load.data.value.count" v-model="invoice" />
          <ConfirmButton
            v-else
            label="Cancel vehicle"
            :title="`Cancel ${load.data.value.number}?`"
            happens="Nothing is on it. It is on no list any more."
            :does="`Cancel ${load.data.value.number}`"
            :busy="busy"
            @confirm="cancel"
          /></div
      ></EntryForm>
      <SheetTable
        v-if="load.data.value.cartons.length"
        data-loaded
        :columns="columns"
        :rows="load.data.value.cartons ?? []"
        :row-key="(c) => c.id"
        ><template #carton="{ row: c }"
          ><router-link :to="`/pack/${c.id}`">{{ c.sscc }}</router-link></template
        ><template #does="{ row: c }"
          ><a-button
            v-if="load.data.value.state === 'loading'"
            type="link"
            size="small"
            :disabled="busy"
            @click="off([c.id])"
          >
            Take off
          </a-button></template
        ></SheetTable
      >
      <div v-else class="empty">
        {{
          load.data.value.state === 'cancelled'
            ? 'It is cancelled: it was opened by mistake, and nothing was on it.'
            : 'Nothing is on it yet. Scan the cartons as they go on.'
        }}
      </div>
    </template>
    <div v-else class="empty">
      Begin to load a vehicle of a carrier on the left. Each carton is scanned as it goes on; one of another carrier, or
      on another vehicle, is refused.
    </div>
    <template v-if="id" #after>
      <BeforeAfter
        by="leave"
        :plan="plan"
        :problem="problem ?? refused"
        :done="done"
        :busy="busy"
        :fresh="fresh"
        idle="Nothing is on the vehicle."
        doing="Departing"
        @go="leave"
      />
    </template>
  </BenchLayout>
</template>
