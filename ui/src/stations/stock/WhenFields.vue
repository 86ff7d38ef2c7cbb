<script setup lang="ts">
import { computed } from 'vue'
import { dayOf, instantOf, timeOf } from '@/parts/clock'
import DateEntry from '@/parts/DateEntry.vue'
import FormField from '@/parts/FormField.vue'
import TimeEntry from '@/parts/TimeEntry.vue'

/** The instant that stock is looked at, in ISO; empty for now. */
const at = defineModel<string>({ required: true })
const then = computed(() => (at.value ? new Date(at.value) : undefined))
const day = computed({
  get: () => (then.value ? dayOf(then.value) : ''),
  set: (d) => (at.value = (d && instantOf(d, then.value ? timeOf(then.value) : '12:00')) || ''),
})
const time = computed({
  get: () => (then.value ? timeOf(then.value) : ''),
  set: (t) => (at.value = (t && day.value && instantOf(day.value, t)) || at.value),
})
</script>

<template>
  <div class="fields when" data-when>
    <FormField label="As it stood on" tip="Any instant since the first move. Without a day it is now."
      ><DateEntry v-model="day" placeholder="now" :width="150"
    /></FormField>
    <FormField v-if="at" label="At"><TimeEntry v-model="time" :width="96" /></FormField>
    <a-button v-if="at" @click="at = ''">Back to now</a-button>
  </div>
</template>

<style scoped>
.when {
  align-items: end;
  margin: 10px 0;
}
</style>
