<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Problem, type Schemas } from '@/api/client'
import { can, worksAs } from '@/api/session'
import { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import { asksFound, foundOptions } from '@/parts/found'
import EntryForm from '@/parts/EntryForm.vue'
import { byLots, byUnits } from '@/parts/tracking'
import type { useArrival } from './arrival'
import ArrivalReceipts from './ArrivalReceipts.vue'
import ComingCartons from './ComingCartons.vue'
import SerialEntry from './SerialEntry.vue'
import BinEntry from '@/parts/BinEntry.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import CommandNotice from '@/parts/CommandNotice.vue'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import DateEntry from '@/parts/DateEntry.vue'
import DraftNotice from '@/parts/DraftNotice.vue'
import FormField from '@/parts/FormField.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import { plural } from '@/parts/words'
import LabelEntry from '@/parts/LabelEntry.vue'
import { readLabel } from '@/parts/serials'
import TextEntry from '@/parts/TextEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'

/** One arrival at the dock, checked off line by line against its orders. */
const props = defineProps<{ step: ReturnType<typeof useArrival>; problem?: Problem }>()
const router = useRouter()
const a = computed(() => props.step.arrival.value!)
const open = computed(() => a.value.state === 'open')
const entries = props.step.entries
const pallet = props.step.pallet
const intoBins = props.step.straight
const command = useCommand()
const { busy, run } = command
const several = computed(() => a.value.orders.length > 1)
/** A non-stock line is on the order's page alone. */
const lines = computed(() => a.value.lines.filter((l) => l.item_id))

async function close() {
  const ok = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/arrivals/{id}/close', {
          headers: h,
          params: { path: { id: a.value.id } },
          body: { version: a.value.version },
        }),
      ),
    ),
  )
  if (ok) void router.push('/receive')
}

const adding = ref(false)
/** Other orders whose goods may be on the same vehicle. */
const others = useQuery({
  queryKey: ['receive', 'orders', 'beside', computed(() => a.value.id)],
  queryFn: () => ask(api.GET('/api/v1/arrivals/{id}/beside', { params: { path: { id: a.value.id } } })),
  enabled: adding,
})
const joinable = computed(() => others.data.value ?? [])
async function join(order: number) {
  const ok = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/arrivals/{id}/orders', {
          headers: h,
          params: { path: { id: a.value.id } },
          body: { version: a.value.version, order_id: order },
        }),
      ),
    ),
  )
  if (!ok) return
  adding.value = false
  await props.step.query.refetch()
}

/** The number on the delivery note, as it is typed. */
const noteDraft = useDraft<{ number: string }>(
  () => `arrival/${a.value.id}/delivery-note`,
  () => ({ number: a.value.delivery_note }),
)
const note = computed<string>({
  get: () => noteDraft.mine.value?.number ?? '',
  set: (number) => (noteDraft.mine.value = { number }),
})
async function saveNote() {
  const body = { version: a.value.version, number: note.value }
  const ok = await run(() =>
    once((h) =>
      ask(api.POST('/api/v1/arrivals/{id}/delivery-note', { headers: h, params: { path: { id: a.value.id } }, body })),
    ),
  )
  if (!ok) return
  await props.step.query.refetch()
  noteDraft.discard()
}

async function makeLot(l: Schemas['InboundLine'], i: number) {
  const made = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/arrivals/{id}/lots', {
          headers: h,
          params: { path: { id: a.value.id } },
          body: { item_id: l.item_id },
        }),
      ),
    ),
  )
  if (!made) return
  const lot = entries.value[l.id]!.lots[i]!
  lot.code = made.code
  lot.supplier ??= ''
  lot.expires_on ||= made.expires_on
}

/** A line that is refused for what a lead may accept asks for the reason; so does one that has one. */
function asksWhy(l: Schemas['InboundLine']) {
  if (entries.value[l.id]?.reason) return true
  const p = props.problem
  const at = props.step.body.value?.lines.findIndex((x) => x.line_id === l.id) ?? -1
  return (
    at >= 0 &&
    !!p?.field?.startsWith(`lines[${at}]`) &&
    ['over_allowance', 'short_lived', 'lot_expired', 'lead_decides', 'reason_short'].includes(p.code)
  )
}

const ways = [
  { value: 'dock' as const, label: 'to the dock, then put away' },
  { value: 'bins' as const, label: 'into bins at once' },
]
const goes = computed<'dock' | 'bins'>({
  get: () => (intoBins.value ? 'bins' : 'dock'),
  set: (way) => (intoBins.value = way === 'bins'),
})
const units = [
  { value: '' as const, label: 'none' },
  { value: 'pallet' as const, label: 'one pallet' },
  { value: 'carton' as const, label: 'one carton' },
]
const packOptions = (l: Schemas['InboundLine']) => [
  { value: 0, label: l.unit },
  ...l.packs.filter((p) => p.holds !== '1').map((p) => ({ value: p.id, label: p.name })),
]
/** Enter goes to the next field a scan would go to. */
function next(e: KeyboardEvent) {
  if (e.ctrlKey) return
  e.preventDefault()
  const all = [...document.querySelectorAll<HTMLInputElement>('.sheet input:not(:disabled)')]
  all[all.indexOf(e.target as HTMLInputElement) + 1]?.focus()
}
/** Where an entry is among the lines that are sent, as the server names it. */
const fieldOf = (l: Schemas['InboundLine'], part: string) => {
  const at = props.step.body.value?.lines.findIndex((x) => x.line_id === l.id) ?? -1
  return at < 0 ? '' : `lines[${at}].${part}`
}
/** What closing leaves behind, in numbers. */
const missing = computed(() => lines.value.filter((l) => !l.closed && Number(l.received) < Number(l.quantity)).length)
/** The orders that wait for what stands here, for one round straight from the dock. */
const straight = computed(() => ({
  path: '/pick',
  query: { orders: [...new Set(a.value.wanted.map((w) => w.order_id))].join(','), from: String(a.value.dock_id) },
}))
const takes = (l: Schemas['InboundLine']) => open.value && can('receive') && !l.closed && !!entries.value[l.id]
const columns: Column<Schemas['InboundLine']>[] = [
  { name: 'item', label: 'Item' },
  { name: 'ordered', label: 'Ordered', right: true, mono: true },
  { name: 'received', label: 'Received', of: (l) => l.received, right: true, mono: true },
  { name: 'hereNow', label: 'Here now', right: true },
  { name: 'lotExpiryUnits', label: 'Lot, expiry, units' },
]
</script>

<template>
  <h1>
    Arrival <span class="mono">{{ a.number }}</span>
  </h1>
  <p class="mute">
    {{ a.source }}, on
    <template v-for="(o, i) in a.orders" :key="o.id"
      >{{ i ? ', ' : ''
      }}<router-link class="mono" :to="`/receive/order/${o.id}`">{{ o.number }}</router-link></template
    >, at {{ a.dock }}. Enter what is here, or scan it on the line above: a GS1 code fills item, lot, serial and count.
    <router-link :to="`/audit/recall/arrival/${a.id}`">What became of it</router-link>
    <b v-if="a.waits">What comes waits on the dock, not free, until its order is complete.</b>
  </p>
  <EntryForm @submit="saveNote">
    <div class="fields">
      <FormField label="Delivery note" tip="The number on the paper that came with the goods. The scan line finds it."
        ><TextEntry v-model="note" mono :width="170" :maxlength="60"
      /></FormField>
      <a-button v-if="note !== a.delivery_note && can('note-delivery')" html-type="submit" :disabled="busy"
        >Keep the number</a-button
      >
    </div>
  </EntryForm>
  <div v-if="open && can('receive')" class="fields">
    <FormField
      label="Goods go"
      tip="At the dock they stop on the way and are put away from there. Into bins at once is for whoever stands at the bin: the home bin of an item is filled in."
      ><ChoiceEntry v-model="goes" :options="ways" :width="232"
    /></FormField>
    <FormField label="Load unit" tip="What all that is entered stands on. It is put away as one."
      ><ChoiceEntry v-model="pallet.kind" :options="units" :width="130"
    /></FormField>
    <FormField
      v-if="pallet.kind"
      label="Number of the load unit"
      tip="The SSCC on its label; without one, a new one is made and printed."
      ><TextEntry v-model="pallet.sscc" placeholder="none: a new one is made" mono :width="224"
    /></FormField>
    <a-button v-if="!adding" @click="adding = true">Add another order</a-button>
    <template v-else>
      <a-button v-for="o in joinable" :key="o.id" class="mono" :disabled="busy" @click="join(o.id)">
        {{ o.number }}
      </a-button>
      <span v-if="others.isSuccess.value && !joinable.length" class="mute small"
        >No other order of {{ a.source }} is open.</span
      >
      <a-button type="link" size="small" @click="adding = false">Close</a-button>
    </template>
  </div>
  <CommandNotice :of="command" />
  <DraftNotice :of="step.draft" :labels="() => 'the entry'" />
  <div v-if="a.wanted.length" class="note w wanted" data-wanted>
    <div>
      <b>Waiting orders want what stands at {{ a.dock }}:</b>
      <span v-for="w in a.wanted.slice(0, 4)" :key="w.line_id" class="w-line"
        ><span class="mono">{{ w.order }}</span> {{ w.customer }}:
        <span class="mono">{{ w.quantity }} {{ w.sku }}</span></span
      >
      <span v-if="a.wanted.length > 4" class="mute">and {{ a.wanted.length - 4 }} lines more</span>
    </div>
    <router-link v-if="worksAs('lead')" class="btn" :to="straight">Take it straight to the bench</router-link>
  </div>
  <ComingCartons :step="step" />
  <SheetTable
    data-arrival
    :columns="columns"
    :rows="lines"
    :row-key="(l) => l.id"
    :now="(l) => !!entries[l.id]?.quantity"
    ><template #item="{ row: l }"
      ><b>{{ l.description }}</b>
      <div class="mono mute small">
        {{ l.sku }}<template v-if="several">, {{ l.order }}</template>
      </div></template
    ><template #ordered="{ row: l }"
      >{{ l.quantity }}
      <div v-if="l.least !== l.most" class="mute small">{{ l.least }} to {{ l.most }}</div></template
    ><template #hereNow="{ row: l }"
      ><template v-if="takes(l)">
        <div class="here">
          <QuantityEntry
            v-model="entries[l.id]!.quantity"
            :label="`${l.sku} here now`"
            :field="fieldOf(l, 'quantity')"
            :readonly="byUnits(l)"
            @keydown.enter="next"
          />
          <ChoiceEntry
            v-if="!byUnits(l) && l.packs.length > 1"
            v-model="entries[l.id]!.pack"
            :label="`${l.sku} pack`"
            :options="packOptions(l)"
            :width="110"
          />
          <a-checkbox
            v-if="entries[l.id]!.quantity && step.left(l) > 0"
            v-model:checked="entries[l.id]!.follows"
            class="rest"
            :aria-label="`${l.sku} keep the rest open`"
            >Keep the rest open</a-checkbox
          >
          <ChoiceEntry
            v-if="asksFound(a, l) && entries[l.id]!.quantity"
            :model-value="entries[l.id]!.found || undefined"
            :label="`Condition that ${l.sku} came in`"
            :field="fieldOf(l, 'found')"
            placeholder="condition"
            :options="foundOptions"
            :width="120"
            @update:model-value="(f) => (entries[l.id]!.found = f ?? '')"
          />
          <BinEntry
            v-if="intoBins"
            v-model="entries[l.id]!.bin"
            :placeholder="a.homes[l.item_id] ?? 'bin'"
            :label="`${l.sku} into bin`"
            :field="fieldOf(l, 'bin')"
            :width="110"
          />
        </div>
      </template>
      <span v-else class="mute">{{
        l.cancelled === '0' ? (l.closed ? 'received' : 'not now') : `${l.cancelled} cancelled`
      }}</span></template
    ><template #lotExpiryUnits="{ row: l }"
      ><SerialEntry
        v-if="takes(l) && byUnits(l)"
        :line="l"
        :serials="entries[l.id]!.serials"
        :said="step.said.value?.line === l.id ? step.said.value.text : ''"
        @add="(code) => step.addSerial(l, code)"
        @drop="(code) => step.dropSerial(l, code)" />
      <template v-else-if="takes(l) && byLots(l)">
        <div v-for="(lot, i) in entries[l.id]!.lots" :key="i" class="lot">
          <LabelEntry
            v-model="lot.code"
            :item="l.item_id"
            placeholder="lot"
            :label="`${l.sku} lot ${i + 1}`"
            :field="fieldOf(l, `lots[${i}].code`)"
            :width="126"
            @read="(said) => (lot.expires_on = said.expires || lot.expires_on)"
            @next="next"
          />
          <TextEntry
            v-if="lot.supplier !== undefined"
            v-model="lot.supplier"
            mono
            placeholder="supplier's lot"
            :label="`${l.sku} lot ${i + 1} of the supplier`"
            :maxlength="60"
            :width="126"
            @keydown.enter="next"
          />
          <DateEntry
            v-if="l.tracking === 'lot_expiry'"
            v-model="lot.expires_on"
            placeholder="expires"
            :label="`${l.sku} lot ${i + 1} expires`"
            :field="fieldOf(l, `lots[${i}].expires_on`)"
            :scanned="async (text) => (await readLabel(l.item_id, 'expiry', text)).expires"
            @keydown.enter="next"
          />
          <QuantityEntry
            v-if="entries[l.id]!.lots.length > 1"
            v-model="lot.quantity"
            :label="`${l.sku} lot ${i + 1} quantity`"
            @keydown.enter="next"
          />
          <a-button v-if="!lot.code" type="link" size="small" :disabled="busy" @click="makeLot(l, i)"
            >Make a lot</a-button
          >
        </div>
        <a-button
          type="link"
          size="small"
          @click="entries[l.id]!.lots.push({ code: '', expires_on: '', quantity: '' })"
        >
          Add a lot
        </a-button>
      </template>
      <span v-else-if="!byLots(l) && !byUnits(l)" class="mute small">{{
        { serial_out: 'serials on the way out', lot_out: 'lots on the way out' }[l.tracking] ?? 'no lots'
      }}</span>
      <FormField v-if="asksWhy(l) && worksAs('lead')" :label="`${l.sku} reason for accepting`"
        ><TextEntry v-model="entries[l.id]!.reason" :width="240" /></FormField></template
  ></SheetTable>
  <ArrivalReceipts :arrival="a" @undone="step.query.refetch()" />
  <p v-if="open && can('close-arrival')" class="close">
    <ConfirmButton
      :label="`Close ${a.number}`"
      :title="`Close ${a.number}?`"
      :happens="
        missing
          ? `${plural(missing, 'line')} not whole yet: what is missing stays open on its order, for another arrival.`
          : 'Everything that was ordered came.'
      "
      :does="`Close ${a.number}`"
      :busy="busy"
      @confirm="close"
    />
  </p>
</template>

<style scoped>
.rest {
  white-space: nowrap;
  font-size: 13px;
  margin-top: 4px;
}
.lot {
  align-items: center;
  white-space: nowrap;
  display: flex;
  gap: 5px;
  margin-bottom: 4px;
}
.here {
  display: flex;
  flex-wrap: wrap;
  justify-content: flex-end;
  gap: 6px 8px;
}
.wanted {
  display: flex;
  gap: 14px;
  align-items: center;
  justify-content: space-between;
  margin-bottom: 12px;
}
.close {
  margin-top: 14px;
}
.w-line {
  display: block;
}
</style>
