<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useStorage } from '@vueuse/core'
import { useRouter } from 'vue-router'
import { api, ask } from '@/api/client'
import { session } from '@/api/session'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { useForecast, verdictOf } from '@/parts/forecast'
import FloorMap from '@/parts/FloorMap.vue'
import { type FloorViewName, floorViews } from '@/parts/floorViews'
import { plural, stateWords, when } from '@/parts/words'
import QueryState from '@/parts/QueryState.vue'
import RewindBar from './RewindBar.vue'

const router = useRouter()
const site = computed(() => session.site)
const floor = useQuery({
  queryKey: ['floor', site],
  queryFn: () => ask(api.GET('/api/v1/floor', { params: { query: { site: site.value } } })),
})
const opened = ref(0)
/** The instant that the floor is looked at, in ms; null for now. */
const at = ref<number | null>(null)
const instant = computed(() => (at.value === null ? '' : new Date(at.value).toISOString()))
const past = useQuery({
  queryKey: ['floor-past', site, instant],
  queryFn: () => ask(api.GET('/api/v1/floor/past', { params: { query: { site: site.value, at: instant.value } } })),
  enabled: computed(() => at.value !== null),
  placeholderData: keepPreviousData,
  staleTime: Infinity,
})
const then = computed(() => (at.value === null ? undefined : past.data.value))
const plan = computed(() => then.value ?? floor.data.value)
const stood = useQuery({
  queryKey: ['floor-past', 'location', computed(() => opened.value), instant],
  queryFn: () =>
    ask(
      api.GET('/api/v1/holdings/past', {
        params: { query: { of: 'location', id: opened.value, at: instant.value, limit: 200 } },
      }),
    ),
  enabled: computed(() => opened.value > 0 && at.value !== null),
  placeholderData: keepPreviousData,
})
const row = useQuery({
  queryKey: ['row', site],
  queryFn: () => ask(api.GET('/api/v1/row', { params: { query: { site: site.value } } })),
})
const forecast = useForecast()
/** Collections for which anything is left to do. */
const coming = computed(() => (forecast.data.value?.collections ?? []).filter((o) => o.ready_at))
const location = useQuery({
  queryKey: ['stock', 'location', opened],
  queryFn: () => ask(api.GET('/api/v1/locations/{id}', { params: { path: { id: opened.value } } })),
  enabled: computed(() => opened.value > 0),
})
const full = computed(() => {
  const bins = plan.value?.bins ?? []
  return bins.length ? Math.round((bins.reduce((sum, b) => sum + b.full, 0) / bins.length) * 100) : 0
})
const stuck = computed(() => (row.data.value ?? []).filter((l) => l.state === 'flare'))
const names: Record<string, string> = {
  receive: 'Receive',
  putaway: 'Put away',
  orders: 'Orders',
  pick: 'Pick',
  pack: 'Pack',
  dispatch: 'Dispatch',
  audit: 'Audit',
}
const schedules = useQuery({
  queryKey: ['schedules', site],
  queryFn: () => ask(api.GET('/api/v1/schedules', { params: { query: { site: site.value } } })),
})
/** Schedules and stopped. */
const halted = computed(() => (schedules.data.value ?? []).filter((s) => s.state === 'stopped'))
const countRequests = computed(() => (floor.data.value?.bins ?? []).filter((b) => b.count_request))
/** What the plan's colours say, as it was chosen last. */
const view = useStorage<FloorViewName>('floor.view', 'fullness')
const views = Object.entries(floorViews).map(([value, v]) => ({ value: value as FloorViewName, label: v.label }))
const legend = computed(() => floorViews[view.value].legend)
const uses = useQuery({
  queryKey: ['floor', 'uses', site],
  queryFn: () => ask(api.GET('/api/v1/floor/uses', { params: { query: { site: site.value } } })),
  enabled: computed(() => !!floorViews[view.value].uses),
})
</script>

<template>
  <QueryState v-if="!floor.data.value || !plan" class="page" :query="floor" :rows="10" />
  <div v-else class="floor">
    <section class="plan">
      <h1>
        {{ plan.site }}
        <span
          >{{ plan.bins.length }} bins, {{ full }}% full on the whole. Three levels stand side by side, the lowest on
          the left.</span
        >
      </h1>
      <FloorMap :plan="plan" :view="view" :uses="uses.data.value" walks @open="opened = $event" />
      <div class="key">
        <ChoiceEntry v-model="view" label="What the colours show" size="small" :options="views" :width="164" />
        <template v-for="(l, i) in legend" :key="i"
          ><span v-if="l"><i :class="`k${i}`" />{{ l }}</span></template
        ><span v-if="view !== 'count'"><i class="kd" />to be counted</span
        ><span><i class="ka" />dock, bench or gate with goods</span>
      </div>
      <RewindBar v-model:at="at" :first="floor.data.value.first" />
      <p v-if="past.error.value && at !== null" class="note s">{{ past.error.value.message }}</p>
      <div class="edge">
        <button
          v-for="p in plan.locations"
          :key="p.id"
          class="location"
          :class="{ has: Number(p.units) > 0 }"
          @click="opened = p.id"
        >
          {{ p.code }}<b class="mono">{{ Number(p.units) > 0 ? p.units : '' }}</b>
        </button>
      </div>
    </section>
    <aside v-if="then" aria-label="What was then" data-then>
      <template v-if="opened">
        <h2>
          <span
            >In <b class="mono">{{ location.data.value?.location.code }}</b> then</span
          ><a-button type="link" size="small" @click="opened = 0">close</a-button>
        </h2>
        <div v-for="(h, i) in stood.data.value?.rows" :key="i" class="p" data-stood>
          <div class="t">
            <span>{{ h.description }}</span><span class="mono">{{ h.quantity }}</span>
          </div>
          <div class="d">
            <span class="mono">{{ h.sku }} {{ h.lot }}</span
            ><span>{{ h.condition === 'good' ? '' : stateWords(h.condition) }}</span>
          </div>
        </div>
        <div v-if="stood.data.value?.rows.length === 0" class="empty">Nothing lay here then.</div>
        <a-button @click="router.push(`/stock/location/${opened}?at=${encodeURIComponent(instant)}`)"
          >Open it as it was</a-button
        >
      </template>
      <h2>
        <span>On the floor then</span><span>{{ plural(then.walks.length, 'round') }}</span>
      </h2>
      <router-link v-for="w in then.walks" :key="w.id" :to="`/pick/${w.id}`" class="p">
        <div class="t">
          <span>{{ w.person }}</span><span class="mono">{{ w.round }}</span>
        </div>
        <div class="d">{{ plural(w.done, 'take') }} so far, {{ plural(w.stops, 'stop') }} in all</div>
      </router-link>
      <div v-if="!then.walks.length" class="empty">Nobody walked a round then.</div>
      <h2><span>Done in the half hour before</span></h2>
      <div v-for="(s, i) in then.steps" :key="i" class="p" data-step>
        <div class="t">
          <span>{{ stateWords(s.kind) }}</span><span class="mono">{{ when(s.at) }}</span>
        </div>
        <div class="d">
          <span>{{ s.person }}</span><router-link v-if="s.document" class="mono" :to="`/go/${s.document}`">{{
            s.document
          }}</router-link>
        </div>
      </div>
      <div v-if="!then.steps.length" class="empty">Nothing was done.</div>
    </aside>
    <aside v-else aria-label="People and what is stuck">
      <template v-if="opened && location.data.value">
        <h2>
          <span
            >In <b class="mono">{{ location.data.value.location.code }}</b></span
          ><a-button type="link" size="small" @click="opened = 0">close</a-button>
        </h2>
        <div v-for="(h, i) in location.data.value.holdings.slice(0, 14)" :key="i" class="p" data-holding>
          <div class="t">
            <span>{{ h.description }}</span><span class="mono">{{ h.quantity }}</span>
          </div>
          <div class="d">
            <span class="mono">{{ h.sku }}</span><span class="mono">{{ h.lot }}</span>
          </div>
        </div>
        <div v-if="!location.data.value.holdings.length" class="empty">Nothing lies here now.</div>
        <a-button @click="router.push(`/stock/location/${opened}`)">Its trail</a-button>
      </template>
      <h2>
        <span>On the floor</span><span>{{ plural(floor.data.value.walks.length, 'round') }}</span>
      </h2>
      <router-link v-for="w in floor.data.value.walks" :key="w.id" :to="`/pick/${w.id}`" class="p">
        <div class="t">
          <span>{{ w.person || 'Nobody yet' }}</span><span class="mono">{{ w.round }}</span>
        </div>
        <div class="d">
          <span>{{
            w.state === 'walking' ? `Stop ${Math.min(w.done + 1, w.stops)} of ${w.stops}` : 'waits for a picker'
          }}</span>
        </div>
        <div class="bar"><i :style="{ width: `${(w.done / Math.max(1, w.stops)) * 100}%` }" /></div>
      </router-link>
      <div v-if="!floor.data.value.walks.length" class="empty">Nobody walks a round now.</div>
      <template v-if="coming.length">
        <h2><span>Will today finish</span></h2>
        <router-link v-for="o in coming" :key="o.carrier" to="/dispatch" class="p" :class="{ stuck: !o.made }">
          <div class="t">
            <span>{{ o.carrier || 'No carrier' }}</span><span class="mono">{{ o.at ? when(o.at) : '' }}</span>
          </div>
          <div class="d">{{ verdictOf(o) }}</div>
        </router-link>
      </template>
      <h2>
        <span>Late or stuck</span><span>{{ stuck.length + countRequests.length + halted.length }}</span>
      </h2>
      <router-link v-for="l in stuck" :key="l.station" :to="`/${l.station}`" class="p stuck"
        ><div class="t">
          <span>{{ names[l.station] ?? l.station }}</span><span>{{ l.words }}</span>
        </div></router-link
      >
      <router-link v-for="b in countRequests" :key="b.id" :to="`/audit`" class="p stuck"
        ><div class="t">
          <span
            >Short at <span class="mono">{{ b.code }}</span></span
          >
        </div>
        <div class="d">A round found less than it should. It wants counting.</div></router-link
      >
      <router-link v-for="s in halted" :key="s.id" :to="`/schedules/${s.id}`" class="p stuck"
        ><div class="t">
          <span>{{ s.title }}</span><span>stopped</span>
        </div>
        <div class="d">It is done on schedule no more: {{ s.stopped }}</div></router-link
      >
      <div v-if="!stuck.length && !countRequests.length && !halted.length" class="empty">
        Nothing is late, nothing is stuck.
      </div>
    </aside>
  </div>
</template>

<style scoped>
.floor {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 316px;
  height: 100%;
}
.plan {
  padding: 12px 20px;
  overflow-y: auto;
}
h1 {
  font-size: 20px;
  display: flex;
  gap: 14px;
  align-items: baseline;
}
h1 span {
  font-size: 13px;
  color: var(--mute);
  font-weight: 400;
}
.key {
  display: flex;
  gap: 14px;
  flex-wrap: wrap;
  font-size: 13px;
  color: var(--mute);
  margin-top: 6px;
}
.key i {
  display: inline-block;
  width: 14px;
  height: 14px;
  border-radius: 3px;
  border: 1px solid var(--bin-edge);
  margin-right: 5px;
  vertical-align: -2px;
}
.k0 {
  background: var(--full0);
}
.k1 {
  background: var(--full1);
}
.k2 {
  background: var(--full2);
}
.k3 {
  background: var(--full3);
}
.k4 {
  background: var(--full4);
}
.k5 {
  background: repeating-linear-gradient(45deg, var(--full5) 0 3px, var(--stripe) 3px 5px);
}
.key .kd {
  background: var(--sheet);
  border: 2px solid var(--stop-text);
}
.key .ka {
  background: var(--lamp);
  border-radius: 50%;
}
.edge {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  margin-top: 12px;
}
.location {
  font: inherit;
  font-size: 13px;
  color: var(--ink);
  background: var(--shade);
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 5px 10px;
  min-height: 30px;
  cursor: pointer;
  display: flex;
  gap: 8px;
}
.location.has {
  background: var(--warn2);
  border-color: var(--warn-edge);
}
aside {
  background: var(--shade);
  border-left: 1px solid var(--line);
  padding: 16px 18px;
  overflow-y: auto;
}
.p {
  display: block;
  color: var(--ink);
  text-decoration: none;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 9px 12px;
  margin-bottom: 8px;
}
.t {
  display: flex;
  justify-content: space-between;
  font-weight: 700;
  gap: 8px;
}
.d {
  display: flex;
  justify-content: space-between;
  font-size: 13px;
  color: var(--mute);
}
.bar {
  height: 5px;
  background: var(--track);
  border-radius: 3px;
  margin-top: 6px;
  overflow: hidden;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--act);
}
.stuck {
  border-left: 4px solid var(--stop);
}
</style>
