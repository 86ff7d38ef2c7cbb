<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, Problem } from '@/api/client'
import { plural } from '@/parts/words'
import { useGuarded } from './guarded'
import ScanBox from './ScanBox.vue'
import ScannerStandIn from './ScannerStandIn.vue'

/** A trolley full is put away, one stop after another in the order of the shortest walk. */
const props = defineProps<{ id: number }>()
const router = useRouter()
const queries = useQueryClient()
const key = computed(() => ['putaway', 'walk', props.id])
const walk = useQuery({
  queryKey: key,
  queryFn: () => ask(api.GET('/api/v1/put-away/walks/{id}', { params: { path: { id: props.id } } })),
})
const w = computed(() => walk.data.value)
const stop = computed(() => w.value?.stops[0])
const bin = ref('')
const { wrong, done, guarded } = useGuarded()
const total = ref(0)

/** First the bin, then the goods that go into it: both are scanned. */
async function takeBin(text: string) {
  const query = { site: w.value!.site_id, code: text }
  bin.value = (await ask(api.GET('/api/v1/location', { params: { query } }))).code
}

async function takeGoods(text: string) {
  const s = stop.value!
  const read = await ask(api.GET('/api/v1/scan', { params: { query: { site: w.value!.site_id, text } } }))
  const g = read.goods
  if (!g || g.item.id !== s.item_id || (g.lot && g.lot !== s.lot))
    throw new Problem(
      409,
      'wrong_item',
      `You scanned ${g ? `${g.item.sku}${g.lot ? ` lot ${g.lot}` : ''}` : text}. Into ${bin.value} goes ${s.sku}${s.lot ? ` lot ${s.lot}` : ''}.`,
    )
  const now = await once((h) =>
    ask(
      api.POST('/api/v1/put-away/walks/{id}/put-away', {
        headers: h,
        params: { path: { id: props.id } },
        body: {
          bin: bin.value,
          item_id: s.item_id,
          lot_id: s.lot_id ?? undefined,
          quantity: s.quantity,
          serials: s.serials.length ? s.serials : undefined,
        },
      }),
    ),
  )
  total.value++
  done.value = `${s.quantity} of ${s.sku} are in ${bin.value}.`
  bin.value = ''
  queries.setQueryData(key.value, now)
}

/** A scan meets the question that stands when its turn comes: behind a bin the goods are scanned. */
const scan = (text: string) => guarded(() => (bin.value ? takeGoods(text) : takeBin(text)))

const end = () =>
  guarded(async () => {
    await once((h) =>
      ask(api.POST('/api/v1/put-away/walks/{id}/end', { headers: h, params: { path: { id: props.id } } })),
    )
    await queries.invalidateQueries({ queryKey: ['putaway'] })
    void router.push('/hand/put-away')
  })

const labels = computed(() => {
  const s = stop.value
  if (!s) return []
  const other = w.value?.stops.find((x) => x.bin !== s.bin)
  return bin.value
    ? [{ name: s.description, code: s.sku }, ...(other ? [{ name: 'Other goods', code: other.sku }] : [])]
    : [{ name: 'The bin told', code: s.bin }, ...(other ? [{ name: 'Another bin', code: other.bin }] : [])]
})
</script>

<template>
  <div class="top">
    <router-link to="/hand">Back</router-link><span class="mono">{{ w?.number }}</span
    ><span>{{ plural(w?.stops.length ?? 0, 'stop') }} left</span>
  </div>
  <div v-if="w" class="dots" aria-hidden="true">
    <i v-for="n in total" :key="n" class="d" /><i
      v-for="(s, i) in w.stops"
      :key="s.bin + s.sku + s.lot"
      :class="{ n: i === 0 }"
    />
  </div>
  <div v-if="done" class="ask" style="border-color: #2f8a74" role="status">{{ done }}</div>
  <template v-if="stop">
    <div class="go">{{ bin ? 'You are at' : `Go to, ${w?.metres} m in all` }}</div>
    <div class="bin mono" data-go>{{ bin || stop.bin }}</div>
    <div class="it">
      <div class="n">{{ stop.description }}</div>
      <div class="m">
        <span class="mono">{{ stop.sku }}</span><template v-if="stop.lot"
          >, lot <span class="mono">{{ stop.lot }}</span></template
        >
        <div v-if="stop.serials.length" class="mono">{{ stop.serials.join(' ') }}</div>
      </div>
    </div>
    <div class="take">
      <div class="q">
        <small>Put in</small><b class="mono">{{ stop.quantity }}</b
        ><small>{{ stop.why[0] }}</small>
      </div>
    </div>
    <ScanBox
      v-if="!bin"
      step="bin"
      question="Scan the bin"
      hint="Another bin is fine if it can take them."
      :wrong="wrong"
      @scan="scan"
    />
    <ScanBox
      v-else
      step="goods"
      question="Scan the goods"
      hint="So that the right ones go in."
      :wrong="wrong"
      @scan="scan"
    />
    <div class="alt">
      <button v-if="bin" @click="bin = ''">Not this bin</button>
      <button @click="end">Return the rest to the dock</button>
    </div>
  </template>
  <template v-else-if="w">
    <div v-for="x in w.unassigned" :key="x.sku + x.lot" class="ask wrong" role="alert">
      No bin can take {{ x.quantity }} of {{ x.description }}. Ask the lead, or return them to the dock.
    </div>
    <p v-if="w.done" class="none">The trolley is empty.</p>
    <div class="alt">
      <button v-if="!w.done" @click="end">Return the rest to the dock</button>
      <router-link v-else to="/hand/put-away" class="job"><b>Next goods</b></router-link>
    </div>
  </template>
  <ScannerStandIn v-if="labels.length" :labels="labels" />
</template>
