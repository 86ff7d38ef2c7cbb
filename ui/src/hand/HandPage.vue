<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, onMounted, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { connected } from '@/api/live'
import { can, session, worksAs } from '@/api/session'
import { plural } from '@/parts/words'
import HandCount from './HandCount.vue'
import HandDecide from './HandDecide.vue'
import HandLoad from './HandLoad.vue'
import HandMove from './HandMove.vue'
import HandReceive from './HandReceive.vue'
import HandRefill from './HandRefill.vue'
import HandRound from './HandRound.vue'
import HandPutAway from './HandPutAway.vue'
import HandWalk from './HandWalk.vue'
import { followPresence, signOff } from './presence'
import { loaded, mine, withQueued } from './queue'
import QueuedSteps from './QueuedSteps.vue'
import { forgetRound, keepRound, type KeptRound, keptRounds } from './store'
import { keepApplication, newer, takeUp } from './version'

const props = defineProps<{ task?: string; id?: string }>()
const site = computed(() => session.site)
const rounds = useQuery({
  queryKey: ['pick', 'rounds', site],
  queryFn: () => ask(api.GET('/api/v1/rounds', { params: { query: { site: site.value } } })),
  enabled: computed(() => !props.task),
})
const waiting = useQuery({
  queryKey: ['putaway', 'waiting', site],
  queryFn: () => ask(api.GET('/api/v1/put-away/waiting', { params: { query: { site: site.value } } })),
  enabled: computed(() => !props.task),
})
const arrivals = useQuery({
  queryKey: ['receive', 'arrivals', site],
  queryFn: () => ask(api.GET('/api/v1/arrivals', { params: { query: { site: site.value } } })),
  enabled: computed(() => !props.task),
})
const walks = useQuery({
  queryKey: ['putaway', 'walks', site],
  queryFn: () => ask(api.GET('/api/v1/put-away/walks', { params: { query: { site: site.value } } })),
  enabled: computed(() => !props.task),
})
const refills = useQuery({
  queryKey: ['refills', 'open', site],
  queryFn: () => ask(api.GET('/api/v1/refills', { params: { query: { site: site.value } } })),
  enabled: computed(() => !props.task),
})

const queries = useQueryClient()
/** What only the server can tell. */
const needs = computed(() => (connected.value ? '' : 'needs a connection'))
const me = computed(() => session.person?.id ?? 0)

/** The rounds at hand, as this device keeps them: what a connection that is away leaves. */
const kept = ref<KeptRound[]>([])
const readKept = async () => (kept.value = await keptRounds(me.value).catch(() => []))
const shown = computed(() => {
  const at = kept.value.map(({ round }) => {
    const r = withQueued(round)
    return { ...r, stop_count: r.stops.length, done_count: r.stops.filter((s) => s.state !== 'open').length }
  })
  const behind = new Map(at.filter((r) => mine.value.some((s) => s.round === r.id)).map((r) => [r.id, r]))
  return rounds.data.value?.map((r) => behind.get(r.id) ?? r) ?? at
})

/** Keeps the rounds that somebody walks, and forgets those that are over. */
watch(rounds.data, async (all) => {
  if (!all) return
  for (const r of all.filter((x) => x.picker_id === me.value)) await keepWhole(r.id)
  for (const k of await readKept())
    if (!all.some((r) => r.id === k.id) && !mine.value.some((s) => s.round === k.id)) await forgetRound(me.value, k.id)
})
async function keepWhole(id: number) {
  const read = () => ask(api.GET('/api/v1/rounds/{id}', { params: { path: { id } } }))
  const whole = await queries.fetchQuery({ queryKey: ['pick', 'round', id], queryFn: read }).catch(() => undefined)
  if (whole) await keepRound(me.value, whole as Schemas['PickRound']).catch(() => undefined)
}

/** Between rounds: none of theirs is under way, and nothing is left to send. */
const between = computed(
  () =>
    !props.task && !mine.value.length && !shown.value.some((r) => r.state === 'walking' && r.picker_id === me.value),
)
onMounted(async () => {
  followPresence()
  await Promise.all([keepApplication(), loaded, readKept()])
})
watch(
  () => [between.value, newer.value, rounds.data.value && connected.value] as const,
  ([free, , known]) => {
    if (free && known) void takeUp()
  },
  { immediate: true },
)

const route = useRoute()
const leaving = ref(route.query.leaving === 'unsent')
async function leave(anyway: boolean) {
  await loaded
  if (mine.value.length && !anyway) return (leaving.value = true)
  leaving.value = false
  await signOff()
  queries.clear()
}
</script>

<template>
  <main class="hand">
    <div v-if="!connected" class="cut" role="status" data-away>
      No connection this moment<template v-if="task && task !== 'round'"
        >. What is open here goes on when it is back; rounds go on without it.</template
      >
    </div>
    <QueuedSteps />
    <HandRound v-if="task === 'round'" :id="Number(id)" />
    <HandLoad v-else-if="task === 'load'" :id="Number(id) || 0" :key="id" />
    <HandReceive v-else-if="task === 'receive'" :id="Number(id) || 0" :key="id" />
    <HandPutAway v-else-if="task === 'put-away'" />
    <HandWalk v-else-if="task === 'walk'" :id="Number(id)" :key="id" />
    <HandRefill v-else-if="task === 'refill'" :id="Number(id)" :key="id" />
    <HandMove v-else-if="task === 'move'" />
    <HandCount v-else-if="task === 'count'" :id="Number(id) || 0" :key="id" />
    <HandDecide v-else-if="task === 'decide'" :id="Number(id) || 0" :key="id" />
    <template v-else>
      <div class="top">
        <span>{{ session.person?.name }}</span><button @click="leave(false)">Sign off</button>
      </div>
      <div v-if="leaving && mine.length" class="ask wrong" role="alert" data-leaving>
        <b>{{ plural(mine.length, 'step') }} of yours {{ mine.length === 1 ? 'is' : 'are' }} not sent.</b>
        <div>What is not sent stays on this device until you sign on here again.</div>
        <div class="alt" style="margin: 8px 0 0">
          <button @click="leaving = false">Stay signed on</button>
          <button @click="leave(true)">Sign off all the same</button>
        </div>
      </div>
      <h1>What now?</h1>
      <router-link v-if="worksAs('lead', 'receiver')" to="/hand/receive" class="job"
        ><b>Receive</b
        ><span>{{ arrivals.data.value ? `${arrivals.data.value.length} at the dock` : needs }}</span></router-link
      >
      <router-link to="/hand/put-away" class="job"
        ><b>Put away</b
        ><span>{{ waiting.data.value ? `${waiting.data.value.length} on the dock` : needs }}</span></router-link
      >
      <router-link v-for="x in walks.data.value" :key="x.number" :to="`/hand/walk/${x.id}`" class="job">
        <b
          >Trolley <span class="mono">{{ x.number }}</span></b
        ><span>{{ plural(x.lines, 'line') }} to put away, {{ x.person }}</span>
      </router-link>
      <router-link v-for="x in refills.data.value" :key="x.number" :to="`/hand/refill/${x.id}`" class="job">
        <b
          >Refill <span class="mono">{{ x.number }}</span></b
        ><span>{{ plural(x.steps.length, 'stop') }} left, {{ x.person || 'nobody yet' }}</span>
      </router-link>
      <router-link v-for="r in shown" :key="r.id" :to="`/hand/round/${r.id}`" class="job">
        <b
          >Round <span class="mono">{{ r.number }}</span></b
        ><span>{{ r.done_count }} of {{ r.stop_count }} stops, {{ r.picker || 'nobody yet' }}</span>
      </router-link>
      <router-link v-if="can('decide-return')" to="/hand/decide" class="job"
        ><b>Decide on returns</b><span>{{ connected ? 'at the returns corner' : needs }}</span></router-link
      >
      <router-link v-if="can('count')" to="/hand/count" class="job"
        ><b>Count</b><span>{{ connected ? 'the list of today' : needs }}</span></router-link
      >
      <router-link to="/hand/move" class="job"
        ><b>Move</b><span>{{ connected ? 'from bin to bin' : needs }}</span></router-link
      >
      <router-link to="/hand/load" class="job"
        ><b>Load a vehicle</b><span>{{ connected ? 'cartons by scan' : needs }}</span></router-link
      >
      <p v-if="rounds.data.value?.length === 0" class="none">No round is released. The lead plans them at Pick.</p>
      <router-link v-if="worksAs('lead')" to="/" class="desk">To the desk</router-link>
    </template>
  </main>
</template>

<style src="./hand.css"></style>
