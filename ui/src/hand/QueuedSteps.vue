<script setup lang="ts">
import { computed } from 'vue'
import { session } from '@/api/session'
import { queue, settle } from './queue'

/** What is queued on the device, and what was refused when it was sent. */
const first = computed(() => queue.steps[0])
const others = computed(() => first.value && first.value.person !== session.person?.id)
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
  <div v-else-if="queue.steps.length" class="cut" role="status" data-queued>
    {{ queue.steps.length }} {{ queue.steps.length === 1 ? 'step is' : 'steps are' }} waiting to be sent{{
      others ? ` for ${first!.name}, who signs on to send them` : ', and sent when the connection is back'
    }}
  </div>
</template>
