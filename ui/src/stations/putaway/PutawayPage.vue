<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Problem, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/command'
import DraftNotice from '@/parts/DraftNotice.vue'
import QueueCard from '@/parts/QueueCard.vue'
import { since, stateWords } from '@/parts/words'
import { takeScans } from '@/shell/scan'
import DockOverview from './DockOverview.vue'
import { usePalletBin } from './palletBin'
import Restocks from './Restocks.vue'
import { keyOf, useSpread } from './spread'
import FormField from '@/parts/FormField.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import BinEntry from '@/parts/BinEntry.vue'
import TextEntry from '@/parts/TextEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'

const site = computed(() => session.site)
const waiting = useQuery({
  queryKey: ['putaway', 'waiting', site],
  queryFn: () => ask(api.GET('/api/v1/put-away/waiting', { params: { query: { site: site.value } } })),
})
const pallets = useQuery({
  queryKey: ['putaway', 'pallets', site],
  queryFn: () => ask(api.GET('/api/v1/put-away/pallets', { params: { query: { site: site.value } } })),
})
/** What finds no bin when all of it is put away, and why. */
const stuck = useQuery({
  queryKey: ['putaway', 'stuck', site],
  queryFn: () => ask(api.GET('/api/v1/put-away/stuck', { params: { query: { site: site.value } } })),
})
const stuckOf = (w: Schemas['PutawayWaiting']) =>
  stuck.data.value?.find((x) => x.location_id === w.location_id && x.item_id === w.item_id && x.lot_id === w.lot_id)
const route = useRoute()
const router = useRouter()
/** What is chosen stands in the address, so that a reload finds it again. */
const chosen = ref((route.query.goods as string | undefined) ?? '')
watch(chosen, (goods) => void router.replace({ query: goods ? { goods } : {} }))
const palletId = ref(0)
const pallet = computed(() => pallets.data.value?.find((p) => p.id === palletId.value))
const goods = computed(() => waiting.data.value?.find((w) => keyOf(w) === chosen.value))
const command = useCommand()
const { busy, problem, done } = command
const spread = useSpread(goods, command)
const { draft, quantity, locations, proposal, placed, propose, fit, addBin, onlyBin, nameUnits } = spread
const { plan, problem: refused, fresh } = spread.preview
const whole = usePalletBin(pallet, command)
const { bin: palletBin, offers: palletOffers, preview: asOne } = whole
const scanned = ref('')

function choose(w: Schemas['PutawayWaiting']) {
  chosen.value = keyOf(w)
  palletId.value = 0
  done.value = ''
}

function choosePallet(p: Schemas['CartonsPallet']) {
  palletId.value = p.id
  chosen.value = ''
  done.value = ''
  problem.value = undefined
}
watch(waiting.data, (list) => {
  if (chosen.value && !list?.some((w) => keyOf(w) === chosen.value)) chosen.value = ''
})

const offers = computed(
  () => new Map([...(proposal.value?.locations ?? []), ...(proposal.value?.others ?? [])].map((o) => [o.bin, o])),
)
function addTyped(location: Schemas['CatalogLocation']) {
  addBin(location.code)
  scanned.value = ''
}

async function putAwayPallet() {
  if (!(await whole.putAway())) return
  palletId.value = 0
  await pallets.refetch()
}

async function putAway() {
  if (!(await spread.putAway())) return
  chosen.value = ''
  await waiting.refetch()
}

takeScans(
  (text, reading) => {
    const whole = pallets.data.value?.find((p) => reading?.found.some((f) => f.kind === 'carton' && f.code === p.sscc))
    if (whole) {
      choosePallet(whole)
      return true
    }
    if (pallet.value && reading?.found.some((f) => f.kind === 'bin' && f.code.toUpperCase() === text.toUpperCase())) {
      palletBin.value = text.toUpperCase()
      return true
    }
    const g = reading?.goods
    const line = g && waiting.data.value?.find((w) => w.item_id === g.item.id && (!g.lot || w.lot === g.lot))
    if (line) {
      choose(line)
      return true
    }
    if (goods.value && reading?.found.some((f) => f.kind === 'bin' && f.code.toUpperCase() === text.toUpperCase())) {
      addBin(text)
      return true
    }
    return false
  },
  () => !!goods.value || !!pallet.value,
)
const share = (o?: Schemas['PutawayOffer']) =>
  o?.max_units ? Math.min(100, (Number(o.holds) / Number(o.max_units)) * 100) : 0
const adds = (o: Schemas['PutawayOffer'] | undefined, q: string) =>
  o?.max_units ? Math.min(100 - share(o), (Number(q) / Number(o.max_units)) * 100) : 30
const error = computed(() => problem.value ?? (refused.value as Problem | undefined))
const columns: Column<Schemas['CartonsOnPallet']>[] = [
  { name: 'c0', label: '', of: (h) => h.sku, mono: true },
  { name: 'c1', label: '', of: (h) => h.description },
  { name: 'c2', label: '', of: (h) => h.lot, mono: true },
  { name: 'c3', label: '', of: (h) => (h.condition === 'good' ? '' : stateWords(h.condition)) },
  { name: 'does', label: '', right: true, mono: true },
]
</script>

<template>
  <BenchLayout waits="Goods without a bin" :waiting="[waiting, pallets]" :sheet="[]">
    <template #waiting>
      <h2>
        <span>On the dock, not put away</span><span>{{ waiting.data.value?.length ?? 0 }}</span>
      </h2>
      <QueueCard v-for="w in waiting.data.value" :key="keyOf(w)" :selected="chosen === keyOf(w)" @click="choose(w)">
        <span>{{ w.description }}</span><span class="mono">{{ w.quantity }}</span>
        <template #more
          ><span>{{ w.location }}, {{ since(w.since) }}</span
          ><span class="mono">{{ w.lot }}</span
          ><span v-if="stuckOf(w)" class="late">no bin for {{ stuckOf(w)!.left }}</span></template
        >
      </QueueCard>
      <template v-if="pallets.data.value?.length">
        <h2>
          <span>On pallets and in cartons</span><span>{{ pallets.data.value.length }}</span>
        </h2>
        <QueueCard v-for="p in pallets.data.value" :key="p.id" :selected="palletId === p.id" @click="choosePallet(p)">
          <span
            >{{ p.kind }} <span class="mono">…{{ p.sscc.slice(-4) }}</span></span
          ><span>{{ p.location }}</span>
          <template #more
            ><span>{{ p.holds.map((h) => `${h.quantity} ${h.sku}`).join(', ') }}</span></template
          >
        </QueueCard>
      </template>
      <div v-if="waiting.data.value?.length === 0" class="empty">
        The docks are clear. What is received stands here until it has a bin.
      </div>
    </template>

    <template v-if="goods">
      <h1>
        {{ goods.description }} <span class="mono mute small">{{ goods.sku }}</span>
      </h1>
      <p class="mute">
        {{ goods.quantity }} {{ goods.unit }} at {{ goods.location
        }}<template v-if="goods.lot"
          >, lot <span class="mono">{{ goods.lot }}</span></template
        >. Take the bins proposed, or scan or type another.
      </p>
      <DraftNotice :of="draft" :labels="() => 'where the goods go'" />
      <div class="fields">
        <FormField label="To put away"><QuantityEntry v-model="quantity" :width="98" @change="propose" /></FormField>
        <a-button :disabled="busy" @click="propose">Propose again</a-button>
      </div>
      <div class="split">
        <div class="top">
          <b>Where the {{ quantity }} go</b
          ><span :class="{ late: placed !== Number(quantity) }" class="mono"
            >{{ placed }} of {{ quantity }} placed</span
          >
        </div>
        <div v-for="(p, i) in locations" :key="i" class="l" :data-place="p.bin">
          <b class="mono">{{ p.bin }}</b>
          <div>
            <div class="cap" aria-hidden="true">
              <i :style="{ width: share(offers.get(p.bin)) + '%' }" /><u
                :style="{ left: share(offers.get(p.bin)) + '%', width: adds(offers.get(p.bin), p.quantity) + '%' }"
              />
            </div>
            <div class="mute small">{{ offers.get(p.bin)?.why.join(', ') ?? 'chosen by you' }}</div>
            <label v-if="goods.tracking === 'serial'" class="small units"
              >Units<TextEntry
                :model-value="(p.serials ?? []).join(' ')"
                :label="`Units for ${p.bin}`"
                mono
                @change="nameUnits(p, ($event.target as HTMLInputElement).value)"
            /></label>
          </div>
          <span class="r"
            ><QuantityEntry v-model="p.quantity" :label="`Quantity for ${p.bin}`" @change="fit(p)" />
            <a-button type="link" size="small" :aria-label="`Remove ${p.bin}`" @click="locations.splice(i, 1)">
              Remove
            </a-button></span
          >
        </div>
        <div class="l">
          <BinEntry v-model="scanned" placeholder="scan a bin" label="Another bin" @found="addTyped" />
          <span class="mute small"
            >or choose one that can take some:
            <a-button
              v-for="o in proposal?.others"
              :key="o.bin"
              type="link"
              size="small"
              class="mono"
              :title="o.why.join(', ')"
              @click="addBin(o.bin)"
            >
              {{ o.bin }} ({{ o.takes }})
            </a-button></span
          >
          <span />
        </div>
      </div>
      <div v-if="proposal && Number(proposal.left) > 0" class="note w" style="margin-top: 12px">
        No bin can take {{ proposal.left }} of these. {{ stuckOf(goods)?.why }} Make room, or leave them at
        {{ goods.location }}.
      </div>
      <p v-if="locations.length > 1" class="small">
        <a-button v-for="p in locations" :key="p.bin" type="link" size="small" @click="onlyBin(p.bin)">
          all into {{ p.bin }}
        </a-button>
      </p>
    </template>
    <template v-else-if="pallet">
      <h1>
        {{ pallet.kind === 'pallet' ? 'Pallet' : 'Carton' }} <span class="mono">…{{ pallet.sscc.slice(-4) }}</span>
        <span class="mono mute small">{{ pallet.sscc }}</span>
      </h1>
      <p class="mute">
        Stands at {{ pallet.location }}. It is put away as one, with all that is on it: take the bin proposed, or scan
        or type another.
      </p>
      <SheetTable :columns="columns" :rows="pallet.holds" :row-key="(h) => h.item_id + (h.lot ?? '') + h.condition"
        ><template #does="{ row: h }">{{ h.quantity }} {{ h.unit }}</template></SheetTable
      >
      <div class="split">
        <div v-for="o in palletOffers.data.value" :key="o.bin" class="l">
          <a-button class="mono" :aria-pressed="palletBin === o.bin" @click="palletBin = o.bin">{{ o.bin }}</a-button>
          <div class="mute small">{{ o.why.join(', ') }}</div>
          <span v-if="palletBin === o.bin" class="r">chosen</span><span v-else />
        </div>
        <div class="l">
          <BinEntry v-model="palletBin" label="Bin for the whole" />
          <span class="mute small">or another bin</span><span />
        </div>
      </div>
      <div v-if="palletOffers.error.value" class="note s" role="alert">{{ palletOffers.error.value.message }}</div>
      <div v-else-if="palletOffers.data.value?.length === 0" class="note w">
        No bin takes all of it as one. Take goods off it by a transfer, or make room.
      </div>
    </template>
    <template v-else>
      <Restocks />
      <DockOverview :stuck="stuck.data.value ?? []" />
      <div class="empty">
        Choose goods on the left, or scan their label. Bins are proposed with the reason for each; nothing moves before
        you have seen it.
      </div>
    </template>

    <template v-if="pallet" #after>
      <BeforeAfter
        by="put-away-pallet"
        :plan="asOne.plan.value"
        :problem="problem ?? asOne.problem.value"
        :done="done"
        :busy="busy"
        :fresh="asOne.fresh.value"
        idle="Choose a bin. The moves stand here before they are made."
        doing="Put away as one"
        @go="putAwayPallet"
      />
    </template>
    <template v-else #after>
      <BeforeAfter
        by="put_away"
        :plan="plan"
        :problem="error"
        :done="done"
        :busy="busy"
        :fresh="fresh"
        idle="Choose goods. The moves stand here before they are made."
        doing="Put away"
        @go="putAway"
      />
    </template>
  </BenchLayout>
</template>

<style scoped>
.split {
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 12px 14px;
}
.top {
  display: flex;
  justify-content: space-between;
  margin-bottom: 4px;
}
.l {
  display: grid;
  grid-template-columns: 120px 1fr 150px;
  gap: 10px;
  align-items: center;
  padding: 7px 0;
  border-bottom: 1px dashed var(--line);
}
.l:last-child {
  border: 0;
}
.l input {
  font: inherit;
  border: 1px solid var(--edge);
  border-radius: 5px;
  padding: 4px 8px;
  background: var(--sheet);
  color: var(--ink);
}
.l input.mono {
  font-family: 'Atkinson Hyperlegible Mono', monospace;
}
.units {
  display: flex;
  gap: 6px;
  align-items: center;
}
.units input {
  flex: 1;
  min-width: 0;
}
.num {
  width: 84px;
  text-align: right;
}
.cap {
  height: 14px;
  border-radius: 4px;
  background: var(--track);
  position: relative;
  overflow: hidden;
}
.cap i {
  position: absolute;
  inset: 0 auto 0 0;
  background: var(--held);
}
.cap u {
  position: absolute;
  top: 0;
  bottom: 0;
  background: repeating-linear-gradient(135deg, var(--act) 0 6px, var(--act-hover) 6px 12px);
}
</style>
