<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { crewWords, useForecast, verdictOf } from '@/parts/forecast'
import ForecastHelp from '@/parts/ForecastHelp.vue'
import { dayOf, timeOf } from '@/parts/clock'
import QueryView from '@/parts/QueryView.vue'
import { plural, today } from '@/parts/words'

/** Each carrier's next collection, how far what it is to take is, and when it is ready. */
const site = computed(() => session.site)
const board = useQuery({
  queryKey: ['dispatch', 'departures', site],
  queryFn: () => ask(api.GET('/api/v1/dispatch/departures', { params: { query: { site: site.value } } })),
  refetchInterval: 60_000,
})
type Departure = Schemas['DispatchDeparture']
const stages = [
  { name: 'shipped', label: 'shipped' },
  { name: 'packed', label: 'packed' },
  { name: 'picked', label: 'picked' },
  { name: 'on_round', label: 'on a round' },
  { name: 'not_begun', label: 'not begun' },
] as const
const shares = (d: Departure) => stages.map((s) => ({ ...s, units: Number(d[s.name]) })).filter((s) => s.units > 0)
/** What is to be expected of it takes longer to find out: it comes after. */
const forecast = useForecast()
const outlookOf = (d: Departure) => forecast.data.value?.collections.find((o) => o.carrier === d.carrier)
/** The day of its next collection, where that is not today. */
const later = (d: Departure) => {
  const day = d.at && dayOf(new Date(d.at))
  return day && day !== today() ? day : ''
}
const made = (d: Departure) => outlookOf(d)?.made ?? true
</script>

<template>
  <h1>Departures</h1>
  <QueryView :query="board" :empty="(all) => !all.length">
    <template #default="{ data }">
      <p class="mute legend">
        <span v-for="s in stages" :key="s.name"><i :class="s.name" />{{ s.label }}</span>
      </p>
      <ol class="board" data-departures>
        <li v-for="d in data" :key="d.carrier" :class="{ missed: !made(d) }">
          <b class="at mono" :class="{ none: !d.at }"
            ><span v-if="later(d)" class="day">{{ later(d) }}</span
            >{{ d.at ? timeOf(new Date(d.at)) : 'no set time' }}</b
          >
          <div class="what">
            <div class="line">
              <b>{{ d.carrier || 'No carrier' }}</b>
              <span class="mute"
                >{{ plural(d.orders, 'order') }}<span v-if="d.late" class="late">, {{ d.late }} late</span></span
              >
              <span v-if="outlookOf(d)" class="verdict" :class="{ late: !made(d) }"
                ><i aria-hidden="true">{{ made(d) ? '●' : '◆' }}</i> {{ verdictOf(outlookOf(d)!) }}</span
              >
            </div>
            <div class="bar" aria-hidden="true">
              <i v-for="s in shares(d)" :key="s.name" :class="s.name" :style="{ flexGrow: s.units }" />
            </div>
            <div class="mute small">
              {{
                shares(d)
                  .map((s) => `${s.units} ${s.label}`)
                  .join(', ')
              }}
              units<span v-if="Number(outlookOf(d)?.lacking)" class="late"
                >; for {{ outlookOf(d)!.lacking }} of them nothing lies free</span
              >
            </div>
            <ForecastHelp v-if="outlookOf(d)" :outlook="outlookOf(d)!" />
          </div>
        </li>
      </ol>
      <p v-if="forecast.data.value" class="mute small">{{ crewWords(forecast.data.value) }}</p>
    </template>
    <template #empty>
      Nothing is wanted by the next collections. What is released and due by a carrier's next collection stands here.
    </template>
  </QueryView>
</template>

<style scoped>
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  font-size: 13px;
}
.legend span {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.legend i {
  width: 14px;
  height: 14px;
  border-radius: 3px;
}
.board {
  list-style: none;
  margin: 0 0 18px;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 84px 1fr;
  gap: 14px;
  padding: 12px 0;
  border-bottom: 1px solid var(--line);
}
.at {
  font-size: 21px;
  line-height: 1.15;
}
.at .day {
  display: block;
  font-size: 13px;
  font-weight: 400;
  white-space: nowrap;
}
.at.none {
  font-size: 13px;
  font-weight: 400;
  color: var(--mute);
  padding-top: 4px;
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 2px 12px;
}
.verdict {
  margin-left: auto;
}
.verdict i {
  font-style: normal;
  color: var(--ok);
}
.missed .verdict i {
  color: var(--stop-text);
}
.bar {
  display: flex;
  height: 16px;
  gap: 2px;
  margin: 7px 0 5px;
  border-radius: 4px;
  overflow: hidden;
  background: var(--track);
}
.bar i {
  min-width: 3px;
}
.shipped {
  background: var(--ok);
}
.packed {
  background: var(--act-hover);
}
.picked {
  background: var(--lamp);
}
.on_round {
  background: repeating-linear-gradient(135deg, var(--lamp) 0 4px, var(--full1) 4px 8px);
}
.not_begun {
  background: var(--held);
}
</style>
