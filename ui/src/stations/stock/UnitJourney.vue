<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { when } from '@/parts/words'

/** Where a unit was from its first day on, with whom and for how long. */
defineProps<{ stays: Schemas['StockStay'][] }>()
function lasted(s: Schemas['StockStay']): string {
  if (!s.since) return ''
  const minutes = (new Date(s.until ?? Date.now()).getTime() - new Date(s.since).getTime()) / 60_000
  if (minutes < 60) return `${Math.max(0, Math.round(minutes))} min`
  return minutes < 2880 ? `${Math.round(minutes / 60)} h` : `${Math.round(minutes / 1440)} days`
}
</script>

<template>
  <ol data-journey aria-label="Where it was" class="journey">
    <li v-for="(s, i) in stays" :key="i" :class="{ now: i === stays.length - 1 }">
      <b>{{ s.where }}</b>
      <span v-if="s.since" class="mono small">{{ when(s.since) }}</span>
      <span v-else class="mute small">came from there</span>
      <span v-if="s.since" class="mute small">{{ lasted(s) }}{{ s.until || !s.since ? '' : ' so far' }}</span>
      <router-link v-if="s.document" class="mono small" :to="`/go/${s.document}`">{{ s.document }}</router-link>
    </li>
  </ol>
</template>

<style scoped>
.journey {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 0;
  list-style: none;
  padding: 0;
  margin: 14px 0;
}
li {
  display: grid;
  gap: 2px;
  min-width: 128px;
  padding: 12px 18px 0 0;
  border-top: 3px solid var(--line);
  position: relative;
}
li::before {
  content: '';
  position: absolute;
  top: -7px;
  left: 0;
  width: 11px;
  height: 11px;
  border-radius: 50%;
  background: var(--line);
}
li.now,
li.now::before {
  border-color: transparent;
}
li.now::before {
  background: var(--lamp);
}
</style>
