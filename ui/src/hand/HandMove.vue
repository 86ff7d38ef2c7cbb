<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, once, Problem, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { serialOf } from '@/parts/serials'
import { useGuarded } from './guarded'
import ScanBox from './ScanBox.vue'
import ScannerStandIn from './ScannerStandIn.vue'

/** Goods are moved within the site by scan: from where, what, how many, where to. */
type Holding = Schemas['StockHolding']
const from = ref<Schemas['StockLocationStock']>()
const goods = ref<Holding>()
/** A carton or pallet that is moved as it is. */
const whole = ref<{ id: number; sscc: string; holds: Holding[] }>()
const quantity = ref('')
const counted = ref(false)
const units = ref<string[]>([])
const byUnit = computed(() => (goods.value?.serials.length ?? 0) > 0)
const { busy, wrong, done, guarded } = useGuarded()
const good = computed(() => from.value?.holdings.filter((h) => h.condition === 'good') ?? [])
const step = computed(() =>
  !from.value ? 'from' : !goods.value && !whole.value ? 'goods' : !counted.value ? 'count' : 'to',
)

async function takeFrom(text: string) {
  const query = { site: session.site, code: text }
  const there = await ask(api.GET('/api/v1/location', { params: { query } }))
  const sheet = await ask(api.GET('/api/v1/locations/{id}', { params: { path: { id: there.id } } }))
  if (!sheet.holdings.some((h) => h.condition === 'good'))
    throw new Problem(409, 'nothing_moves', `Nothing that could be moved lies in ${there.code}.`)
  from.value = sheet
}

async function takeGoods(text: string) {
  const reading = await ask(api.GET('/api/v1/scan', { params: { query: { site: session.site, text } } }))
  const carton = reading.found.find((f) => f.kind === 'carton')
  const holds = good.value.filter((h) => h.carton && h.carton === carton?.code)
  if (holds.length) {
    whole.value = { id: holds[0]!.carton_id!, sscc: carton!.code, holds }
    counted.value = true
    return
  }
  const unit = good.value.find((h) => h.serials.includes(text.toUpperCase()) || h.serials.includes(text))
  const g = reading.goods
  const found =
    unit ?? (g && good.value.find((h) => h.item_id === g.item.id && !h.carton_id && (!g.lot || h.lot === g.lot)))
  if (!found)
    throw new Problem(
      409,
      'wrong_item',
      `You scanned ${g ? `${g.item.sku}${g.lot ? ` lot ${g.lot}` : ''}` : text}, which does not lie in ${from.value!.location.code}.`,
    )
  choose(found)
}

function choose(h: Holding) {
  goods.value = h
  quantity.value = h.serials.length ? '' : h.quantity
}

async function takeUnit(text: string) {
  const code = await serialOf(text, goods.value!.item_id)
  if (units.value.includes(code)) throw new Problem(409, 'serial_twice', `Serial ${code} is scanned already.`)
  if (!goods.value!.serials.includes(code))
    throw new Problem(409, 'serial_elsewhere', `Serial ${code} does not lie in ${from.value!.location.code}.`)
  units.value.push(code)
  quantity.value = String(units.value.length)
}

async function putDown(text: string) {
  const f = from.value!.location
  const said = whole.value
    ? await once((h) =>
        ask(api.POST('/api/v1/transfers/carton', { headers: h, body: { carton_id: whole.value!.id, to: text } })),
      )
    : await once((h) =>
        ask(
          api.POST('/api/v1/transfers', {
            headers: h,
            body: {
              from_id: f.id,
              to: text,
              item_id: goods.value!.item_id,
              lot_id: goods.value!.lot_id ?? undefined,
              carton_id: goods.value!.carton_id ?? undefined,
              quantity: quantity.value,
              serials: units.value.length ? units.value : undefined,
            },
          }),
        ),
      )
  done.value = `${said.done}.`
  again()
}

/** The next goods, from anywhere. */
function again() {
  from.value = undefined
  goods.value = undefined
  whole.value = undefined
  quantity.value = ''
  units.value = []
  counted.value = false
}

const scan = (text: string) =>
  guarded(async () => {
    if (step.value === 'from') return takeFrom(text)
    if (step.value === 'goods') return takeGoods(text)
    if (step.value === 'count') return takeUnit(text)
    return putDown(text)
  })

const labels = computed(() => {
  if (step.value === 'goods')
    return good.value
      .slice(0, 4)
      .map((h) => (h.carton ? { name: 'A carton', code: `]C100${h.carton}` } : { name: h.description, code: h.sku }))
  if (step.value === 'count' && byUnit.value)
    return goods
      .value!.serials.filter((c) => !units.value.includes(c))
      .slice(0, 2)
      .map((code) => ({ name: 'A unit', code }))
  return []
})
</script>

<template>
  <div class="top">
    <router-link to="/hand">Back</router-link><span>Move</span><span class="mono">{{ from?.location.code }}</span>
  </div>
  <div v-if="done" class="ask" style="border-color: #2f8a74" role="status">{{ done }}</div>
  <template v-if="goods || whole">
    <div class="go">From {{ from!.location.code }}</div>
    <div class="it">
      <template v-if="whole">
        <div class="n">
          Carton <span class="mono">…{{ whole.sscc.slice(-4) }}</span> as it is
        </div>
        <div class="m">{{ whole.holds.map((h) => `${h.quantity} ${h.sku}`).join(', ') }}</div>
      </template>
      <template v-else>
        <div class="n">{{ goods!.description }}</div>
        <div class="m">
          <span class="mono">{{ goods!.sku }}</span><template v-if="goods!.lot"
            >, lot <span class="mono">{{ goods!.lot }}</span></template
          >, {{ goods!.quantity }} there
        </div>
      </template>
    </div>
  </template>
  <ScanBox v-if="step === 'from'" step="from" question="Scan the bin to move from" :wrong="wrong" @scan="scan" />
  <template v-else-if="step === 'goods'">
    <ScanBox
      step="goods"
      question="Scan the goods"
      hint="A carton or pallet by its own label moves as it is."
      :wrong="wrong"
      @scan="scan"
    />
    <button
      v-for="(h, i) in good.filter((x) => !x.carton_id)"
      :key="i"
      class="job"
      style="border: 0; text-align: left; font: inherit"
      @click="guarded(async () => choose(h))"
    >
      <b>{{ h.description }}</b><span class="mono">{{ h.quantity }}</span
      ><span>{{ h.lot ? `lot ${h.lot}` : h.sku }}</span>
    </button>
  </template>
  <template v-else-if="step === 'count'">
    <ScanBox
      v-if="byUnit"
      :step="'unit' + units.length"
      :question="`Scan the units that move, ${units.length} so far`"
      :wrong="wrong"
      @scan="scan"
    />
    <form class="ask" @submit.prevent="counted = true">
      <label v-if="!byUnit"
        >How many move?<input v-model="quantity" data-scan inputmode="decimal" data-quantity
      /></label>
      <button class="press" style="margin: 8px 0 0; width: 100%" :disabled="!Number(quantity)" data-press>
        Take {{ quantity || 0 }}
      </button>
    </form>
  </template>
  <ScanBox
    v-else
    step="to"
    :question="`Scan the bin that ${whole ? 'it goes' : `${quantity} go`} to`"
    hint="It is refused beyond what fits."
    :wrong="wrong"
    @scan="scan"
  />
  <div v-if="from" class="alt">
    <button v-if="units.length && step === 'count'" @click="units.pop()">Remove {{ units.at(-1) }}</button>
    <button v-if="step === 'to' && !whole" @click="counted = false">Another quantity</button>
    <button :disabled="busy" @click="again">Start again</button>
  </div>
  <ScannerStandIn v-if="labels.length" :labels="labels" />
</template>
