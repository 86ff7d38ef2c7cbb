<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, Problem, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { serialOf } from '@/parts/serials'
import { plural } from '@/parts/words'
import { useGuarded } from './guarded'
import ScanBox from './ScanBox.vue'
import ScannerStandIn from './ScannerStandIn.vue'

/** Reserve is fetched with a trolley and brought to picking bins, a stop after another in the order of the walk. */
const props = defineProps<{ id: number }>()
const router = useRouter()
const queries = useQueryClient()
const key = computed(() => ['refills', 'one', props.id])
const refill = useQuery({
  queryKey: key,
  queryFn: () => ask(api.GET('/api/v1/refills/{id}', { params: { path: { id: props.id } } })),
})
const r = computed(() => refill.data.value)
const step = computed(() => r.value?.steps[0])
const line = computed(() => r.value?.lines.find((l) => l.id === step.value?.line_id))
const others = computed(() => !!r.value?.person && r.value.person !== session.person?.name)
const { busy, wrong, done, guarded } = useGuarded()
/** The bin that somebody stands at; several stops at one bin ask for it once. */
const bin = ref('')
const at = computed(() => !!step.value && !!bin.value && (bin.value === step.value.bin || step.value.does === 'return'))
/** Units that were scanned of what is known one by one. */
const units = ref<string[]>([])
const byUnit = computed(() => line.value?.tracking === 'serial' && !line.value.whole)
/** Fewer are there, or go in, than was planned. */
const fewer = ref(false)
const quantity = ref('')
const ending = ref(false)
const words = {
  fetch: { go: 'Fetch at', put: 'Take', less: 'Not enough here', asked: 'How many are there?' },
  bring: { go: 'Bring to', put: 'Put in', less: 'Not all fit', asked: 'How many fit?' },
  return: { go: 'Bring back to', put: 'Put back', less: '', asked: '' },
}
const w = computed(() => words[step.value?.does ?? 'fetch'])

const begin = () =>
  guarded(async () => {
    queries.setQueryData(
      key.value,
      await once((h) =>
        ask(api.POST('/api/v1/refills/{id}/begin', { headers: h, params: { path: { id: props.id } } })),
      ),
    )
  })

async function takeBin(text: string) {
  const query = { site: r.value!.site_id, code: text }
  const code = (await ask(api.GET('/api/v1/location', { params: { query } }))).code
  // What goes back may go to any bin that can take it.
  if (code !== step.value!.bin && step.value!.does !== 'return')
    throw new Problem(409, 'wrong_bin', `You scanned ${code}. Go to ${step.value!.bin}.`)
  bin.value = code
}

/** The goods, by their label; a carton that goes as it is by its own; units one by one. */
async function takeGoods(text: string) {
  const l = line.value!
  const reading = await ask(api.GET('/api/v1/scan', { params: { query: { site: r.value!.site_id, text } } }))
  if (l.whole) {
    if (!reading.found.some((f) => f.kind === 'carton' && f.code === l.carton))
      throw new Problem(409, 'wrong_carton', `You scanned ${text}. Carton …${l.carton.slice(-4)} goes as it is.`)
    return make(step.value!.quantity, false)
  }
  if (byUnit.value) return takeUnit(text)
  const g = reading.goods
  if (!g || g.item.id !== l.item_id || (g.lot && g.lot !== l.lot))
    throw new Problem(
      409,
      'wrong_item',
      `You scanned ${g ? `${g.item.sku}${g.lot ? ` lot ${g.lot}` : ''}` : text}. It is ${l.sku}${l.lot ? ` lot ${l.lot}` : ''} here.`,
    )
  return make(step.value!.quantity, false)
}

async function takeUnit(text: string) {
  const code = await serialOf(text, line.value!.item_id)
  if (units.value.includes(code)) throw new Problem(409, 'serial_twice', `Serial ${code} is scanned already.`)
  units.value.push(code)
  if (units.value.length >= Number(step.value!.quantity)) return make(step.value!.quantity, false)
}

async function make(how: string, noMore: boolean) {
  const s = step.value!
  const l = line.value!
  const body: Schemas['RefillDoing'] = {
    line_id: s.line_id,
    bin: bin.value,
    quantity: how,
    no_more: noMore || undefined,
    serials: units.value.length ? units.value : undefined,
  }
  const call = { fetch: fetchIt, bring: bringIt, return: returnIt }[s.does]
  const now = await once((h) => call(h, body))
  done.value = `${how} of ${l.sku}: ${s.does === 'fetch' ? 'on the trolley' : `in ${s.bin}`}.`
  units.value = []
  fewer.value = false
  if (s.does === 'return') bin.value = ''
  queries.setQueryData(key.value, now)
}
type Headers = Parameters<Parameters<typeof once>[0]>[0]
const path = () => ({ path: { id: props.id } })
const fetchIt = (h: Headers, body: Schemas['RefillDoing']) =>
  ask(api.POST('/api/v1/refills/{id}/fetch', { headers: h, params: path(), body }))
const bringIt = (h: Headers, body: Schemas['RefillDoing']) =>
  ask(api.POST('/api/v1/refills/{id}/bring', { headers: h, params: path(), body }))
const returnIt = (h: Headers, body: Schemas['RefillDoing']) =>
  ask(api.POST('/api/v1/refills/{id}/return', { headers: h, params: path(), body }))

/** A scan meets the question that stands when its turn comes. */
const scan = (text: string) => guarded(() => (at.value ? takeGoods(text) : takeBin(text)))

function toggleFewer() {
  fewer.value = !fewer.value
  quantity.value = byUnit.value ? String(units.value.length) : ''
}
const less = () => guarded(() => make(quantity.value || '0', true))

const end = () =>
  guarded(async () => {
    await once((h) => ask(api.POST('/api/v1/refills/{id}/end', { headers: h, params: path() })))
    await queries.invalidateQueries({ queryKey: ['refills'] })
    void router.push('/hand')
  })

const labels = computed(() => {
  const l = line.value
  if (!step.value || !l) return []
  if (!at.value)
    return [
      { name: 'The bin told', code: step.value.bin },
      { name: 'Another bin', code: step.value.does === 'fetch' ? l.to : l.from },
    ]
  if (l.whole) return [{ name: 'The carton', code: `]C100${l.carton}` }]
  if (byUnit.value) return l.serials.filter((c) => !units.value.includes(c)).map((code) => ({ name: 'A unit', code }))
  return [{ name: l.item, code: l.sku }]
})
</script>

<template>
  <div class="top">
    <router-link to="/hand">Back</router-link><span class="mono">{{ r?.number }}</span
    ><span>{{ plural(r?.steps.length ?? 0, 'stop') }} left</span>
  </div>
  <div v-if="r && r.state === 'walking'" class="dots" aria-hidden="true">
    <i v-for="n in Math.max(0, r.step_count - r.steps.length)" :key="n" class="d" /><i
      v-for="(s, i) in r.steps"
      :key="s.does + s.line_id"
      :class="{ n: i === 0 }"
    />
  </div>
  <div v-if="done" class="ask" style="border-color: #2f8a74" role="status">{{ done }}</div>
  <template v-if="r && (r.state === 'planned' || (r.state === 'walking' && others))">
    <h1>{{ plural(r.lines.length, 'line') }}, {{ r.metres }} m</h1>
    <p v-if="others" class="none" role="status">{{ r.person }} walks it. Ask before you take it over.</p>
    <p v-else class="none">From reserve to {{ [...new Set(r.lines.map((l) => l.to))].join(', ') }}, with a trolley.</p>
    <div v-if="wrong" class="ask wrong" role="alert">{{ wrong }}</div>
    <button class="press" :disabled="busy" data-begin @click="begin">
      {{ others ? 'Take it over' : 'Start walking' }}
    </button>
  </template>
  <template v-else-if="r && step && line && r.state === 'walking'">
    <div class="go">{{ w.go }}</div>
    <div class="bin mono" data-go>{{ step.bin }}</div>
    <div class="it">
      <div class="n">{{ line.item }}</div>
      <div class="m">
        <span class="mono">{{ line.sku }}</span><template v-if="line.lot"
          >, lot <span class="mono">{{ line.lot }}</span></template
        ><template v-if="line.carton"
          >, {{ line.whole ? 'carton' : 'out of carton' }}
          <span class="mono">…{{ line.carton.slice(-4) }}</span></template
        >
      </div>
    </div>
    <div class="take">
      <div class="q">
        <small>{{ w.put }}</small><b class="mono" data-take>{{ step.quantity }}</b
        ><small>{{
          step.does === 'fetch' ? `for ${line.to}` : step.does === 'bring' ? `from ${line.from}` : `${line.to} is full`
        }}</small>
      </div>
      <div v-if="line.whole" class="ct">
        <small>goes</small><b class="as">as it is</b><small class="mono">…{{ line.carton.slice(-4) }}</small>
      </div>
    </div>
    <form v-if="fewer" class="ask" :class="{ wrong }" @submit.prevent="less">
      <div v-if="wrong" role="alert" data-wrong>{{ wrong }}</div>
      <label>{{ w.asked }}<input v-model="quantity" data-scan inputmode="decimal" :disabled="byUnit" /></label>
      <span>{{
        step.does === 'fetch' ? 'The place is put down for counting.' : 'What is left goes back to where it was.'
      }}</span>
      <button class="press" style="margin: 8px 0 0; width: 100%" :disabled="busy">Only {{ quantity || 0 }}</button>
    </form>
    <ScanBox
      v-else-if="!at"
      :step="'bin' + step.line_id + step.does"
      question="Scan the bin"
      :hint="
        step.does === 'return' ? 'Another bin is fine if it can take them.' : 'A wrong scan stops here and says why.'
      "
      :wrong="wrong"
      @scan="scan"
    />
    <ScanBox
      v-else
      :step="'goods' + step.line_id + step.does + units.length"
      :question="
        line.whole
          ? 'Scan the carton'
          : byUnit
            ? `Scan the units, ${units.length} of ${step.quantity}`
            : 'Scan the goods'
      "
      hint="So that the right ones go."
      :wrong="wrong"
      @scan="scan"
    />
    <div class="alt">
      <button v-if="at && w.less" @click="toggleFewer">{{ fewer ? 'Back' : w.less }}</button>
      <button v-if="units.length" @click="units.pop()">Remove {{ units.at(-1) }}</button>
      <button v-if="!ending" @click="ending = true">End it here</button>
      <template v-else>
        <button @click="ending = false">Go on</button>
        <button :disabled="busy" data-end @click="end">End it, what is on the trolley goes back</button>
      </template>
    </div>
  </template>
  <template v-else-if="r">
    <h1>{{ r.state === 'done' ? 'All brought' : 'Given up' }}</h1>
    <p class="none">{{ r.number }} is over: nothing of it is on a trolley.</p>
    <button class="press" @click="router.push('/hand')">What now?</button>
  </template>
  <p v-else-if="refill.isError.value" class="ask wrong" role="alert">{{ refill.error.value?.message }}</p>
  <p v-else class="none" role="status">Opening the refill</p>
  <ScannerStandIn v-if="r?.state === 'walking' && !others && labels.length" :labels="labels" />
</template>
