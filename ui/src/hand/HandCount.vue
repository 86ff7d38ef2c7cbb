<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { api, ask, once, Problem } from '@/api/client'
import { session } from '@/api/session'
import { barredHere, useSheets, whyWords } from '@/stations/audit/queue'
import CountOne from './CountOne.vue'
import { useGuarded } from './guarded'
import ScanBox from './ScanBox.vue'
import ScannerStandIn from './ScannerStandIn.vue'

/**
 * The list of the day, or a count sheet, is walked bin by bin and counted blind: what the books say is on no screen. On
 * a sheet each bin ends with what else lies there.
 */
const props = defineProps<{ id: number }>()
const site = computed(() => session.site)
const today = useQuery({
  queryKey: ['audit', 'today', site],
  queryFn: () => ask(api.GET('/api/v1/counts/today', { params: { query: { site: site.value } } })),
  enabled: computed(() => !props.id),
})
const sheet = useQuery({
  queryKey: ['audit', 'sheet', computed(() => props.id)],
  queryFn: () => ask(api.GET('/api/v1/count-sheets/{id}', { params: { path: { id: props.id } } })),
  enabled: computed(() => props.id > 0),
})
const sheets = useSheets()
const openSheets = computed(() => (sheets.data.value ?? []).filter((s) => s.state === 'open'))
/** Which team of which sheet this device counts for. */
const teams = useStorage<Record<number, number>>('hand.count-teams', {})
const team = computed(() => (sheet.data.value?.teams === 1 ? 1 : (teams.value[props.id] ?? 0)))

/** Something to be counted; without an item it is whatever else lies in the bin. */
interface Task {
  key: string
  location: number
  bin: string
  item: number
  sku: string
  description: string
  why: string
}
const tasks = computed<Task[]>(() =>
  props.id
    ? (sheet.data.value?.rows ?? [])
        .filter((r) => r.state === 'open' && r.team === team.value && !barredHere(r))
        .map((r) => ({
          key: `${r.location_id}/${r.item_id ?? 0}`,
          location: r.location_id,
          bin: r.bin,
          item: r.item_id ?? 0,
          sku: r.sku,
          description: r.description,
          why: r.again ? 'by another person' : '',
        }))
    : (today.data.value?.rows ?? [])
        .filter((d) => !barredHere(d))
        .map((d) => ({
          key: `${d.location_id}/${d.item_id}`,
          location: d.location_id,
          bin: d.bin,
          item: d.item_id,
          sku: d.sku,
          description: d.description,
          why: whyWords(d),
        })),
)
/** Whoever walks goes on as they began, though the list is made anew meanwhile: what comes to it is walked at the end. */
const begun = ref<string[]>([])
watch(tasks, (all) => begun.value.push(...all.map((t) => t.key).filter((k) => !begun.value.includes(k))), {
  immediate: true,
})
/** What is passed over for now: it comes again at the end. */
const passed = ref<string[]>([])
const rows = computed(() => {
  const later = (t: Task) => passed.value.includes(t.key)
  const place = new Map(begun.value.map((k, i) => [k, i]))
  const walked = [...tasks.value].sort((a, b) => (place.get(a.key) ?? Infinity) - (place.get(b.key) ?? Infinity))
  return [...walked.filter((t) => !later(t)), ...walked.filter(later)]
})
const { busy, wrong, done, guarded } = useGuarded()
/** The bin that was scanned, and what is counted in it besides what is on the list. */
const standing = ref(0)
const besides = ref(0)
const here = computed(() => rows.value.filter((t) => t.location === standing.value))
const now = computed(() => here.value.find((t) => t.item) ?? here.value[0])
const next = computed(() => rows.value[0])
const counting = computed(() => (standing.value ? besides.value || now.value?.item || 0 : 0))

const stand = (text: string) =>
  guarded(async () => {
    const there = await ask(api.GET('/api/v1/location', { params: { query: { site: site.value, code: text } } }))
    if (!rows.value.some((t) => t.location === there.id))
      throw new Problem(409, 'wrong_bin', `You scanned ${there.code}, and ${next.value!.bin} is to be counted.`)
    standing.value = there.id
  })
/** Anything else that lies in the bin: its label begins a count of it. */
const whatElse = (text: string) =>
  guarded(async () => {
    const read = await ask(api.GET('/api/v1/scan', { params: { query: { site: site.value, text } } }))
    const item = read.goods?.item.id
    if (!item) throw new Problem(409, 'item_unknown', `${text} is no item's label. Scan the label on the goods.`)
    besides.value = item
  })
const refetch = () => (props.id ? sheet.refetch() : today.refetch())
async function counted(words: string) {
  done.value = words
  besides.value = 0
  await refetch()
  if (!here.value.length) standing.value = 0
}
const nothingElse = () =>
  guarded(async () => {
    const d = await once((h) =>
      ask(
        api.POST('/api/v1/count-sheets/{id}/nothing-else', {
          headers: h,
          params: { path: { id: props.id } },
          body: { location_id: standing.value },
        }),
      ),
    )
    standing.value = 0
    done.value = d.words
    await refetch()
  })
function later() {
  const bin = standing.value || next.value?.location
  const keys = rows.value.filter((t) => t.location === bin).map((t) => t.key)
  passed.value = [...passed.value.filter((k) => !keys.includes(k)), ...keys]
  standing.value = 0
  besides.value = 0
  wrong.value = ''
}
const over = computed(() => props.id > 0 && sheet.data.value && sheet.data.value.state !== 'open')
</script>

<template>
  <div class="top">
    <router-link :to="id ? '/hand/count' : '/hand'">Back</router-link
    ><span
      >{{ sheet.data.value?.number ?? 'Count' }}<template v-if="id && team">, team {{ team }}</template></span
    ><span>{{ rows.length ? `${rows.length} left` : '' }}</span>
  </div>
  <div v-if="done" class="ask right" role="status">{{ done }}</div>
  <div v-if="over" class="ask wrong" role="alert" data-over>
    {{ sheet.data.value!.number }} is {{ sheet.data.value!.state
    }}<template v-if="sheet.data.value!.ended_by"> by {{ sheet.data.value!.ended_by }}</template
    >. Nothing more is counted on it.
  </div>
  <template v-else-if="id && sheet.data.value && !team">
    <h1>{{ sheet.data.value.described }}</h1>
    <p class="none">For which team do you count?</p>
    <div class="alt teams">
      <button v-for="n in sheet.data.value.teams" :key="n" @click="teams = { ...teams, [id]: n }">Team {{ n }}</button>
    </div>
  </template>
  <CountOne
    v-else-if="counting"
    :key="`${standing}/${counting}`"
    :location="standing"
    :item="counting"
    :sheet="id || undefined"
    @counted="counted"
    @later="besides ? (besides = 0) : later()"
  />
  <template v-else-if="standing && now">
    <div class="go">What else is in</div>
    <div class="bin mono" data-go>{{ now.bin }}</div>
    <ScanBox
      step="else"
      question="Scan anything else that lies here"
      hint="What was counted already is not meant."
      :wrong="wrong"
      @scan="whatElse"
    />
    <button class="press" :disabled="busy" data-press @click="nothingElse">Nothing else</button>
    <div class="alt"><button @click="later">Later</button></div>
  </template>
  <template v-else-if="next">
    <div class="go">Go to</div>
    <div class="bin mono" data-go>{{ next.bin }}</div>
    <div class="it">
      <div class="n">{{ next.description || 'Whatever lies there' }}</div>
      <div class="m">
        <span class="mono">{{ next.sku }}</span><template v-if="next.sku && next.why">, </template>{{ next.why }}
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
  <p v-else-if="id && sheet.data.value" class="none">Nothing is left to count for you on this sheet.</p>
  <p v-else-if="today.data.value" class="none">
    Nothing is to be counted today<template v-if="today.data.value.left"
      >: {{ today.data.value.left }} more have a reason and do not fit into the day</template
    >.
  </p>
  <template v-if="!id && !standing && openSheets.length">
    <div class="go">Or a count sheet</div>
    <router-link v-for="s in openSheets" :key="s.id" class="job" :to="`/hand/count/${s.id}`"
      ><b class="mono">{{ s.number }}</b
      ><span>{{ s.described }}, {{ s.counted }} of {{ s.lines }}</span></router-link
    >
  </template>
  <ScannerStandIn v-if="!standing && next" :labels="[{ name: 'The bin', code: next.bin }]" />
</template>

<style scoped>
.right {
  border-color: #2f8a74;
}
.teams {
  flex-wrap: wrap;
}
</style>
