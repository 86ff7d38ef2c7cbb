<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { plural } from '@/parts/words'
import { useGuarded } from './guarded'
import ScanBox from './ScanBox.vue'
import ScannerStandIn from './ScannerStandIn.vue'

/** Cartons go onto a vehicle, each by its scan; one that belongs elsewhere stops it. */
const props = defineProps<{ id: number }>()
const router = useRouter()
const loads = useQuery({
  queryKey: ['dispatch', 'loads', computed(() => session.site)],
  queryFn: () => ask(api.GET('/api/v1/loads', { params: { query: { site: session.site } } })),
  enabled: computed(() => !props.id),
})
const carriers = useQuery({
  queryKey: ['dispatch', 'carriers', computed(() => session.site)],
  queryFn: () => ask(api.GET('/api/v1/carriers', { params: { query: { site: session.site } } })),
  enabled: computed(() => !props.id),
})
const packed = useQuery({
  queryKey: ['pack', 'packed', computed(() => session.site)],
  queryFn: () => ask(api.GET('/api/v1/cartons', { params: { query: { site: session.site, state: 'packed' } } })),
})
const load = useQuery({
  queryKey: ['dispatch', 'load', computed(() => props.id)],
  queryFn: () => ask(api.GET('/api/v1/loads/{id}', { params: { path: { id: props.id } } })),
  enabled: computed(() => props.id > 0),
})
const now = ref<Schemas['DispatchLoad']>()
watch(
  load.data,
  (l) => {
    if (l) now.value = l
  },
  { immediate: true },
)
const { busy, wrong, guarded } = useGuarded()
const open = computed(() => (loads.data.value ?? []).filter((l) => l.state === 'loading'))

const begin = (carrier: string) =>
  guarded(async () => {
    const l = await once((h) =>
      ask(api.POST('/api/v1/loads', { headers: h, body: { site_id: session.site, carrier } })),
    )
    void router.push(`/hand/load/${l.id}`)
  })
const put = (scan: string) =>
  guarded(async () => {
    now.value = await once((h) =>
      ask(api.POST('/api/v1/loads/{id}/scan', { headers: h, params: { path: { id: props.id } }, body: { scan } })),
    )
    void packed.refetch()
  })
const leave = () =>
  guarded(async () => {
    now.value = await once((h) =>
      ask(api.POST('/api/v1/loads/{id}/leave', { headers: h, params: { path: { id: props.id } }, body: {} })),
    )
  })
const labels = computed(() => {
  const out = (packed.data.value ?? []).slice(0, 12)
  const mine = out.filter((c) => c.carrier === now.value?.carrier).slice(0, 3)
  const other = out.filter((c) => c.carrier !== now.value?.carrier).slice(0, 1)
  return [
    ...mine.map((c) => ({ name: `Carton of ${c.order}`, code: `]C100${c.sscc}` })),
    ...other.map((c) => ({ name: `Carton of ${c.carrier}`, code: `]C100${c.sscc}` })),
  ]
})
</script>

<template>
  <div class="top"><router-link :to="id ? '/hand/load' : '/hand'">Back</router-link><span>Load a vehicle</span></div>
  <template v-if="!id">
    <h1>Which vehicle?</h1>
    <router-link v-for="l in open" :key="l.id" :to="`/hand/load/${l.id}`" class="job"
      ><b
        ><span class="mono">{{ l.number }}</span> {{ l.carrier }}</b
      ><span>{{ plural(l.count, 'carton') }}</span></router-link
    >
    <button v-for="c in carriers.data.value" :key="c.name" class="job" :disabled="busy" @click="begin(c.name)">
      <b>Begin: {{ c.name }}</b>
    </button>
    <div v-if="wrong" class="ask wrong" role="alert">{{ wrong }}</div>
  </template>
  <template v-else-if="now">
    <div class="go">{{ now.carrier }} {{ now.vehicle }}</div>
    <div class="bin mono">{{ now.number }}</div>
    <div class="take">
      <div class="q">
        <small>On it</small><b class="mono" data-on>{{ now.count }}</b
        ><small>{{ now.weight_kg }} kg</small>
      </div>
      <div class="ct">
        <small>still at the gate</small><b>{{ now.waiting }}</b>
      </div>
    </div>
    <template v-if="now.state === 'loading'">
      <ScanBox
        :step="`load${now.count}`"
        question="Scan the next carton or pallet"
        hint="One that belongs elsewhere stops here and says where."
        :wrong="wrong"
        @scan="put"
      />
      <button v-if="now.count" class="press" :disabled="busy" @click="leave">
        Depart with {{ plural(now.count, 'carton') }}
      </button>
      <ScannerStandIn v-if="labels.length" :labels="labels" />
    </template>
    <p v-else class="none">Departed. Its shipments are shipped.</p>
  </template>
</template>
