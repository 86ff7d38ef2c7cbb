<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, Problem, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { fates, fateWords } from '@/stations/returns/returning'
import { useGuarded } from './guarded'
import ScanBox from './ScanBox.vue'
import ScannerStandIn from './ScannerStandIn.vue'

/** What became of goods at the returns corner is decided by scan, one return after another. */
const props = defineProps<{ id: number }>()
const site = computed(() => session.site)
const open = useQuery({
  queryKey: ['returns', 'deciding', site],
  queryFn: () =>
    ask(
      api.GET('/api/v1/returns', { params: { query: { site: site.value, open: true, sort: 'send_by', limit: 200 } } }),
    ),
  enabled: computed(() => !props.id),
})
const waiting = computed(() => (open.data.value?.rows ?? []).filter((r) => Number(r.received) > Number(r.decided)))
const one = useQuery({
  queryKey: ['returns', 'one', computed(() => props.id)],
  queryFn: () => ask(api.GET('/api/v1/returns/{id}', { params: { path: { id: props.id } } })),
  enabled: computed(() => props.id > 0),
})
const r = computed(() => one.data.value)
const left = (l: Schemas['ReturnsLine']) => Number(l.received) - Number(l.decided)
const lines = computed(() => r.value?.lines.filter((l) => left(l) > 0) ?? [])
const { busy, wrong, done, guarded } = useGuarded()
const at = ref(0)
const unit = ref('')
const quantity = ref('1')
const fate = ref<Schemas['ReturnsVerdict']['fate']>()
const reason = ref('')
const line = computed(() => lines.value.find((l) => l.id === at.value))

const take = (text: string) =>
  guarded(async () => {
    const serial = lines.value.find((l) => l.here.includes(text.toUpperCase()) || l.here.includes(text))
    if (serial)
      return choose(
        serial,
        serial.here.find((u) => u.toUpperCase() === text.toUpperCase())!,
      )
    const reading = await ask(api.GET('/api/v1/scan', { params: { query: { site: site.value, text } } }))
    const known = lines.value.find((l) => reading.goods && l.item_id === reading.goods.item.id)
    if (!known)
      throw new Problem(409, 'wrong_item', `You scanned ${text}, which waits for nothing on ${r.value!.number}.`)
    if (known.tracking === 'serial' && !reading.goods?.serial)
      throw new Problem(409, 'serials_missing', `Scan the serial of ${known.sku}: each unit is decided on its own.`)
    choose(known, reading.goods?.serial ?? '')
  })
function choose(l: Schemas['ReturnsLine'], serial: string) {
  at.value = l.id
  unit.value = serial
  quantity.value = serial ? '1' : String(left(l))
  fate.value = undefined
  reason.value = ''
}
const decide = () =>
  guarded(async () => {
    const l = line.value!
    const body: Schemas['ReturnsVerdict'] = {
      version: r.value!.version,
      line_id: l.id,
      fate: fate.value!,
      quantity: quantity.value,
      serials: unit.value ? [unit.value] : undefined,
      reason: reason.value || undefined,
    }
    await once((h) =>
      ask(api.POST('/api/v1/returns/{id}/decide', { headers: h, params: { path: { id: props.id } }, body })),
    )
    done.value = `${quantity.value} of ${l.sku}${unit.value ? ` ${unit.value}` : ''}: ${fateWords(fate.value!)}.`
    at.value = 0
    await one.refetch()
  })
const labels = computed(() =>
  lines.value
    .slice(0, 3)
    .map((l) => (l.here[0] ? { name: 'A unit', code: l.here[0] } : { name: l.description, code: l.sku })),
)
</script>

<template>
  <div class="top">
    <router-link :to="id ? '/hand/decide' : '/hand'">Back</router-link><span v-if="r" class="mono">{{ r.number }}</span
    ><span v-else>Returns</span><span>{{ r?.customer ?? '' }}</span>
  </div>
  <div v-if="done" class="ask" style="border-color: #2f8a74" role="status">{{ done }}</div>
  <template v-if="!id">
    <h1>Which return?</h1>
    <router-link v-for="x in waiting" :key="x.id" :to="`/hand/decide/${x.id}`" class="job">
      <b
        ><span class="mono">{{ x.number }}</span> {{ x.customer }}</b
      ><span>{{ Number(x.received) - Number(x.decided) }} to be decided</span>
    </router-link>
    <p v-if="open.data.value && !waiting.length" class="none">Nothing at the returns corner waits to be decided on.</p>
  </template>
  <template v-else-if="line">
    <div class="it">
      <div class="n">{{ line.description }}</div>
      <div class="m">
        <span class="mono">{{ [line.sku, unit || line.lot].filter(Boolean).join(' ') }}</span>, {{ line.reason
        }}<template v-if="line.found">; found {{ line.found }}</template>
      </div>
    </div>
    <form class="ask" :class="{ wrong }" data-verdict @submit.prevent="decide">
      <div v-if="wrong" role="alert" data-wrong>{{ wrong }}</div>
      <label v-if="!unit">How many?<input v-model="quantity" inputmode="decimal" data-quantity /></label>
      <div class="choices" role="group" aria-label="Becomes">
        <button
          v-for="f in fates"
          :key="f.value"
          type="button"
          :aria-pressed="fate === f.value"
          @click="fate = f.value"
        >
          {{ f.label }}
        </button>
      </div>
      <label v-if="fate && fate !== 'stock'">Why?<input v-model="reason" autocomplete="off" maxlength="200" /></label>
      <button class="press" style="margin: 8px 0 0; width: 100%" :disabled="busy || !fate" data-press>
        {{ fate ? `${quantity} ${fateWords(fate)}` : 'Say what becomes of it' }}
      </button>
    </form>
    <div class="alt"><button @click="at = 0">Other goods</button></div>
  </template>
  <template v-else-if="r">
    <ScanBox
      v-if="lines.length"
      step="goods"
      question="Scan what you decide on"
      hint="Its label, or the serial of a unit."
      :wrong="wrong"
      @scan="take"
    />
    <div v-for="l in lines" :key="l.id" class="it">
      <div class="n">{{ l.description }}</div>
      <div class="m">
        <span class="mono">{{ [l.sku, l.here.join(' ') || l.lot].filter(Boolean).join(' ') }}</span>, {{ left(l) }} to
        be decided
      </div>
    </div>
    <p v-if="!lines.length" class="none">All of {{ r.number }} that came is decided.</p>
  </template>
  <ScannerStandIn v-if="r && !line && labels.length" :labels="labels" />
</template>
