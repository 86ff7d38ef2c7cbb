<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { stations } from '@/stations/stations'

const route = useRoute()
const row = useQuery({
  queryKey: ['row', computed(() => session.site)],
  queryFn: () => ask(api.GET('/api/v1/row', { params: { query: { site: session.site } } })),
  refetchInterval: 60_000,
})
const lamps = computed(() =>
  stations.map((s) => ({ ...s, lamp: row.data.value?.find((l: Schemas['RowLamp']) => l.station === s.id) })),
)
</script>

<template>
  <nav class="row" aria-label="Stations">
    <svg class="wire" viewBox="0 0 1000 26" preserveAspectRatio="none" aria-hidden="true">
      <path
        d="M0 2 Q500 20 1000 2"
        fill="none"
        stroke="#8a7657"
        stroke-width="1.5"
        vector-effect="non-scaling-stroke"
      />
    </svg>
    <router-link
      v-for="(s, i) in lamps"
      :key="s.id"
      :to="s.path"
      class="st"
      :class="[s.lamp?.state, { on: route.path.startsWith(s.path) }]"
      :aria-current="route.path.startsWith(s.path) ? 'page' : undefined"
      :data-station="s.id"
      :title="`${s.name}, Alt ${(i + 1) % 10}`"
    >
      <svg width="30" height="40" viewBox="0 0 30 40" aria-hidden="true">
        <circle
          v-if="s.lamp && s.lamp.state !== 'dark'"
          cx="15"
          cy="23"
          r="15"
          :fill="s.lamp.state === 'flare' ? '#ff7a52' : '#f2ac34'"
          opacity=".2"
        />
        <path d="M15 0v9" stroke="#8a7657" />
        <path
          d="M9 12h12l3 6-3 14H9L6 18z"
          stroke-width="1.5"
          :fill="s.lamp?.state === 'flare' ? '#ff8a5c' : s.lamp?.state === 'lit' ? '#f2ac34' : 'none'"
          :stroke="s.lamp && s.lamp.state !== 'dark' ? '#ffe0a3' : '#7d6c53'"
        />
        <path d="M10 9h10v3H10zM11 33h8v3h-8z" :fill="s.lamp && s.lamp.state !== 'dark' ? '#ffe0a3' : '#7d6c53'" />
        <path v-if="s.lamp?.state === 'flare'" d="M15 15v9M15 27v3" stroke="#3a1207" stroke-width="3" />
      </svg>
      {{ s.name }}<b>{{ s.lamp?.words || '\u00a0' }}</b>
    </router-link>
  </nav>
</template>

<style scoped>
.row {
  flex: 1;
  position: relative;
  display: flex;
  justify-content: space-between;
  padding: 0 4px;
}
.wire {
  position: absolute;
  left: 0;
  right: 0;
  top: 0;
  width: 100%;
  height: 26px;
}
.st {
  flex: 1;
  text-align: center;
  padding-top: 12px;
  position: relative;
  font-size: 13px;
  line-height: 1.3;
  color: #d9ccb5;
  text-decoration: none;
}
.st svg {
  display: block;
  margin: 0 auto 2px;
}
.st b {
  display: block;
  font-size: 12px;
  color: #bfae90;
  font-weight: 400;
  white-space: nowrap;
}
.st.lit {
  color: #fff1d6;
}
.st.lit b {
  color: var(--lamp);
}
.st.flare {
  color: #fff1d6;
}
.st.flare b {
  color: #ff9d84;
  font-weight: 700;
}
.st.on::after {
  content: '';
  position: absolute;
  left: 10px;
  right: 10px;
  bottom: 0;
  height: 4px;
  background: var(--lamp);
  border-radius: 3px 3px 0 0;
}
@media (max-width: 1100px) {
  .st b {
    white-space: normal;
    line-height: 1.1;
  }
}
</style>
