<script setup lang="ts">
import { computed } from 'vue'
import { plural } from '@/parts/words'
import { mine, others, queue, settle } from './queue'

/** What is queued on the device, and what was refused when it was sent. */
const first = computed(() => mine.value[0])
const waitingFor = computed(() => [...new Set(others.value.map((s) => s.name))])
const countOf = (name: string) => others.value.filter((s) => s.name === name).length
</script>

<template>
  <div v-if="queue.refused && first" class="ask wrong" role="alert" data-conflict>
    <b>This was made while the connection was away, and is refused now:</b>
    <div>{{ first.words }}</div>
    <div>{{ queue.refused }}</div>
    <button class="press" style="margin: 8px 0 0; width: 100%" @click="settle(true)">Try it again</button>
    <div class="alt" style="margin: 8px 0 0">
      <button @click="settle(false)">Discard it: it is undone here</button>
    </div>
  </div>
  <div v-else-if="mine.length" class="cut" role="status" data-queued>
    {{ mine.length === 1 ? '1 step is' : `${mine.length} steps are` }} waiting to be sent, and sent when the connection
    is back
  </div>
  <div v-for="name in waitingFor" :key="name" class="cut" role="status" data-others>
    {{ plural(countOf(name), 'step') }} of {{ name }} on this device: sent when {{ name }} signs on here
  </div>
  <div v-if="queue.news" class="ask" role="status" data-news>
    {{ queue.news }}
    <div class="alt" style="margin: 8px 0 0"><button @click="queue.news = ''">Seen</button></div>
  </div>
</template>
