<script setup lang="ts">
import { computed } from 'vue'
import { crewWords, useForecast, verdictOf } from './forecast'
import ForecastHelp from './ForecastHelp.vue'
import QueryView from './QueryView.vue'
import { when } from './words'

/** Will today finish: when each collection's last carton is loaded, and what would help where that is too late. */
const forecast = useForecast()
const collections = computed(() => (forecast.data.value?.collections ?? []).filter((o) => o.ready_at || !o.made))
</script>

<template>
  <QueryView :query="forecast">
    <section data-forecast aria-label="Will today finish">
      <h2>
        <span>Will today finish</span>
      </h2>
      <ul class="all">
        <li v-for="o in collections" :key="o.carrier" :class="{ late: !o.made }">
          <b class="mono">{{ o.at ? when(o.at) : '' }}</b> {{ o.carrier || 'No carrier' }}:
          <b>{{ verdictOf(o) }}</b>
          <ForecastHelp :outlook="o" />
        </li>
        <li v-if="!collections.length">All that is due for the next collections is ready.</li>
      </ul>
      <p class="mute small">
        {{ forecast.data.value && crewWords(forecast.data.value) }}
        <template v-for="r in forecast.data.value?.still" :key="r.id">
          <router-link class="mono" :to="`/pick/${r.id}`">{{ r.number }}</router-link> of {{ r.picker }} has stood still
          for {{ r.minutes }} min.
        </template>
      </p>
    </section>
  </QueryView>
</template>

<style scoped>
.all {
  list-style: none;
  margin: 0;
  padding: 0;
}
.all > li {
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
.late > b:last-of-type {
  color: var(--stop-text);
}
</style>
