<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import CommandNotice from '@/parts/CommandNotice.vue'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import FormField from '@/parts/FormField.vue'
import SheetTable from '@/parts/SheetTable.vue'
import { plural, stateWords, when } from '@/parts/words'
import TransferCases from './TransferCases.vue'

/** A transfer with both of its halves: what leaves the one site, and what is expected at the other. */
const props = defineProps<{ order: Schemas['TransfersOrder'] }>()
const emit = defineEmits<{ changed: [] }>()
const router = useRouter()
type Half = Schemas['TransfersHalf']
const o = computed(() => props.order)
const path = computed(() => ({ path: { id: o.value.id } }))
const body = computed(() => ({ version: o.value.version }))
const command = useCommand()
const { busy, run } = command
const does = {
  release: () =>
    once((h) =>
      ask(api.POST('/api/v1/transfer-orders/{id}/release', { headers: h, params: path.value, body: body.value })),
    ),
  hold: () =>
    once((h) =>
      ask(api.POST('/api/v1/transfer-orders/{id}/hold', { headers: h, params: path.value, body: body.value })),
    ),
  cancel: () =>
    once((h) =>
      ask(api.POST('/api/v1/transfer-orders/{id}/cancel-open', { headers: h, params: path.value, body: body.value })),
    ),
}
async function act(what: keyof typeof does) {
  const done = await run(does[what], (x) => `${x.number} is ${stateWords(x.state)}.`)
  if (done) emit('changed')
}
/** What is neither on the way nor there, and not cancelled. */
const open = computed(() => Number(o.value.wanted) - Number(o.value.shipped))
const mayCancel = computed(() => ['on_hold', 'released', 'partly_shipped'].includes(o.value.state))

/** Goods are received at the site they come to, at one of its docks. */
const here = computed(() => session.site === o.value.to_site_id)
const docks = useQuery({
  queryKey: ['locations', 'dock', computed(() => session.site)],
  queryFn: () => ask(api.GET('/api/v1/locations', { params: { query: { site: session.site, kind: 'dock' } } })),
  enabled: here,
})
const chosen = ref<number>()
const dock = computed({ get: () => chosen.value ?? docks.data.value?.[0]?.id, set: (id) => (chosen.value = id) })
async function receive(half: Half) {
  if (half.arrival_id) return router.push(`/receive/arrival/${half.arrival_id}`)
  const arrival = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/arrivals', { headers: h, body: { order_ids: [half.inbound_id], dock_id: dock.value ?? 0 } }),
      ),
    ),
  )
  if (arrival) await router.push(`/receive/arrival/${arrival.id}`)
}
const receivable = (h: Half) => here.value && can('open-arrival') && ['placed', 'partly_received'].includes(h.state)
const lines: Column<Schemas['TransfersLine']>[] = [
  { name: 'item', label: 'Item', of: (l) => l.description },
  { name: 'sku', label: 'SKU', of: (l) => l.sku, to: (l) => `/stock/item/${l.item_id}`, mono: true },
  { name: 'quantity', label: 'Wanted', of: (l) => l.quantity, right: true, mono: true },
  { name: 'planned', label: 'On rounds', of: (l) => l.planned, right: true, mono: true },
  { name: 'picked', label: 'In cartons', of: (l) => l.picked, right: true, mono: true },
  { name: 'shipped', label: 'Shipped', of: (l) => l.shipped, right: true, mono: true },
  { name: 'cancelled', label: 'Cancelled', of: (l) => l.cancelled, right: true, mono: true },
]
const halfState = (h: Half) => (h.state === 'placed' ? 'in transit' : stateWords(h.state))
const halves: Column<Half>[] = [
  {
    name: 'shipment',
    label: 'Delivery note',
    of: (h) => h.shipment,
    to: (h) => `/dispatch/${h.shipment_id}`,
    mono: true,
  },
  { name: 'shipped', label: 'Left', of: (h) => when(h.shipped_at), mono: true },
  { name: 'quantity', label: 'Shipped', of: (h) => h.quantity, right: true, mono: true },
  { name: 'received', label: 'Received', of: (h) => h.received, right: true, mono: true },
  { name: 'state', label: 'State', of: halfState },
  {
    name: 'arrival',
    label: 'Arrival',
    of: (h) => h.arrival,
    to: (h) => (h.arrival ? `/go/${h.arrival}` : undefined),
    mono: true,
  },
  { name: 'does', label: '' },
]
</script>

<template>
  <h1>
    Transfer <span class="mono">{{ o.number }}</span> <small>{{ stateWords(o.state) }}</small>
  </h1>
  <p>
    From {{ o.from }} to {{ o.to }}, leaves {{ o.wanted_on }}, due there
    <span :class="{ late: o.late }">{{ o.expected_on }}</span>, {{ o.carrier || 'our own vehicle'
    }}<template v-if="o.reason">: {{ o.reason }}</template
    >.
  </p>
  <div class="figures" data-figures>
    <span
      ><small>Wanted</small> <b class="mono">{{ o.wanted }}</b></span
    >
    <span
      ><small>Shipped</small> <b class="mono">{{ o.shipped }}</b></span
    >
    <span
      ><small>In transit</small> <b class="mono">{{ o.in_transit }}</b></span
    >
    <span
      ><small>Received</small> <b class="mono">{{ o.received }}</b></span
    >
    <span v-if="Number(o.elsewhere)"
      ><small>Settled otherwise</small> <b class="mono">{{ o.elsewhere }}</b></span
    >
  </div>
  <CommandNotice :of="command" />
  <SheetTable label="Lines" :columns="lines" :rows="o.lines" :row-key="(l) => l.id" />
  <template v-if="o.shipments.length">
    <h2><span>On the way and there</span></h2>
    <FormField v-if="o.shipments.some((h) => receivable(h) && !h.arrival_id)" label="Dock"
      ><ChoiceEntry v-model="dock" :options="(docks.data.value ?? []).map((x) => ({ value: x.id, label: x.code }))"
    /></FormField>
    <SheetTable data-halves label="Shipments" :columns="halves" :rows="o.shipments" :row-key="(h) => h.shipment_id">
      <template #does="{ row: h }">
        <a-button v-if="receivable(h)" :disabled="busy" @click="receive(h)">{{
          h.arrival_id ? 'Go on receiving' : 'Receive it'
        }}</a-button>
      </template>
    </SheetTable>
  </template>
  <TransferCases v-if="o.cases.length || (here && o.expected.length)" :order="o" @changed="emit('changed')" />
  <p v-if="can('release-transfer-order')" class="does">
    <a-button v-if="o.state === 'on_hold'" type="primary" :disabled="busy" @click="act('release')"
      >Release {{ o.number }}</a-button
    >
    <a-button v-if="o.state === 'released'" :disabled="busy" @click="act('hold')">Put it on hold</a-button>
    <ConfirmButton
      v-if="mayCancel"
      label="Cancel what is open"
      :title="`Cancel what is open on ${o.number}?`"
      :happens="`${plural(open, 'unit')} are not shipped: they are cancelled, and what is in cartons is returned to stock.`"
      does="Cancel them"
      :busy="busy"
      @confirm="act('cancel')"
    />
  </p>
</template>

<style scoped>
.figures {
  display: flex;
  gap: 26px;
  margin: 10px 0 14px;
}
.figures small {
  display: block;
  color: var(--mute);
}
.figures b {
  font-size: 20px;
}
.does {
  display: flex;
  gap: 8px;
  margin-top: 14px;
}
</style>
