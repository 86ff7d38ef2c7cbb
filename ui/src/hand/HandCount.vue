<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, Problem, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { serialOf } from '@/parts/serials'
import { countOf } from '@/stations/audit/count'
import { whyWords } from '@/stations/audit/queue'
import { useGuarded } from './guarded'
import ScanBox from './ScanBox.vue'
import ScannerStandIn from './ScannerStandIn.vue'

/** The list of the day is walked bin by bin and counted blind: what the books say is on no screen. */
const site = computed(() => session.site)
const today = useQuery({
  queryKey: ['audit', 'today', site],
  queryFn: () => ask(api.GET('/api/v1/counts/today', { params: { query: { site: site.value } } })),
})
type Due = Schemas['AuditDue']
const keyOf = (d: Due) => `${d.location_id}/${d.item_id}`
/** What is passed over for now: it comes again at the end. */
const passed = ref<string[]>([])
const rows = computed(() => {
  const all = today.data.value?.rows ?? []
  const later = (d: Due) => passed.value.includes(keyOf(d))
  return [...all.filter((d) => !later(d)), ...all.filter(later)]
})
const next = computed(() => rows.value[0])
const { busy, wrong, done, guarded } = useGuarded()
const sheet = ref<Schemas['AuditSheet']>()
/** What is there: typed kind by kind, or scanned unit by unit. */
const counts = ref<string[]>([])
const units = ref<string[]>([])
const byUnit = computed(() => sheet.value?.tracking === 'serial')
const ready = computed(() => !!sheet.value && (byUnit.value || counts.value.every((c) => c !== '')))

const stand = (text: string) =>
  guarded(async () => {
    const d = next.value!
    const there = await ask(api.GET('/api/v1/location', { params: { query: { site: site.value, code: text } } }))
    const at = rows.value.find((x) => x.location_id === there.id) ?? d
    if (there.id !== at.location_id)
      throw new Problem(409, 'wrong_bin', `You scanned ${there.code}, and ${d.bin} is to be counted.`)
    const query = { location: at.location_id, item: at.item_id }
    const s = await ask(api.GET('/api/v1/counts/sheet', { params: { query } }))
    counts.value = s.kinds.map(() => '')
    units.value = []
    sheet.value = s
  })
/** Units are written to the first kind of the sheet. */
const takeUnit = (text: string) =>
  guarded(async () => {
    const serial = await serialOf(text, sheet.value!.item_id)
    if (units.value.includes(serial))
      throw new Problem(409, 'serial_twice', `${serial} is scanned already. Scan the next unit.`)
    units.value.push(serial)
  })
const confirm = () =>
  guarded(async () => {
    const s = sheet.value!
    const body = countOf(s, (i) =>
      byUnit.value ? { serials: i === 0 ? units.value : [] } : { quantity: counts.value[i]! },
    )
    try {
      const d = await once((h) => ask(api.POST('/api/v1/counts', { headers: h, body })))
      done.value = d.words
    } catch (e) {
      // Something moved there meanwhile: it is counted anew.
      if (e instanceof Problem && e.code === 'moved_since') sheet.value = undefined
      throw e
    }
    sheet.value = undefined
    await today.refetch()
  })
function later() {
  if (next.value) passed.value = [...passed.value.filter((k) => k !== keyOf(next.value!)), keyOf(next.value)]
  sheet.value = undefined
  wrong.value = ''
}
const kindWords = (k: Schemas['AuditKind']) =>
  [k.lot ? `lot ${k.lot}` : '', k.carton ? `in …${k.carton.slice(-4)}` : ''].filter(Boolean).join(', ')
</script>

<template>
  <div class="top">
    <router-link to="/hand">Back</router-link><span>Count</span
    ><span>{{ rows.length ? `${rows.length} left` : '' }}</span>
  </div>
  <div v-if="done" class="ask" style="border-color: #2f8a74" role="status">{{ done }}</div>
  <template v-if="sheet">
    <div class="go">Count in</div>
    <div class="bin mono" data-go>{{ sheet.bin }}</div>
    <div class="it">
      <div class="n">{{ sheet.description }}</div>
      <div class="m mono">{{ sheet.sku }}</div>
    </div>
    <ScanBox
      v-if="byUnit"
      :step="'unit' + units.length"
      :question="`Scan each unit, ${units.length} so far`"
      :wrong="wrong"
      @scan="takeUnit"
    />
    <form class="ask" :class="{ wrong: wrong && !byUnit }" data-count @submit.prevent="confirm">
      <div v-if="wrong && !byUnit" role="alert" data-wrong>{{ wrong }}</div>
      <template v-if="!byUnit">
        <label v-for="(k, i) in sheet.kinds" :key="i"
          >How many {{ sheet.unit }}{{ kindWords(k) ? ` of ${kindWords(k)}` : '' }}?<input
            v-model="counts[i]"
            inputmode="decimal"
            autocomplete="off"
            :data-quantity="i"
        /></label>
      </template>
      <button class="press" style="margin: 8px 0 0; width: 100%" :disabled="busy || !ready" data-press>
        {{ byUnit ? `${units.length} are there` : 'That is what is there' }}
      </button>
    </form>
    <div class="alt"><button @click="later">Later</button></div>
  </template>
  <template v-else-if="next">
    <div class="go">Go to</div>
    <div class="bin mono" data-go>{{ next.bin }}</div>
    <div class="it">
      <div class="n">{{ next.description }}</div>
      <div class="m">
        <span class="mono">{{ next.sku }}</span>, {{ whyWords(next) }}
      </div>
    </div>
    <ScanBox
      step="bin"
      question="Scan the bin"
      hint="Count what lies there, without looking up what should."
      :wrong="wrong"
      @scan="stand"
    />
    <div class="alt"><button @click="later">Later</button></div>
  </template>
  <p v-else-if="today.data.value" class="none">
    Nothing is to be counted today<template v-if="today.data.value.left"
      >: {{ today.data.value.left }} more have a reason and do not fit into the day</template
    >.
  </p>
  <ScannerStandIn v-if="!sheet && next" :labels="[{ name: 'The bin', code: next.bin }]" />
</template>
