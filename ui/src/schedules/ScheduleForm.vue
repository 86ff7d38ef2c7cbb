<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'

/** What is done, on which days, at which times, and with which settings. */
const props = defineProps<{ tasks: Schemas['SchedulesTask'][] }>()
const wish = defineModel<Schemas['SchedulesWish']>({ required: true })
const task = computed(() => props.tasks.find((t) => t.name === wish.value.task))
const uses = (name: string) => task.value?.uses.includes(name) ?? false
const weekdays = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday']
/** The week as it is worked, Monday first. */
const week = [1, 2, 3, 4, 5, 6, 0]

function rule(change: Partial<Schemas['SchedulesWish']['rule']>) {
  wish.value = { ...wish.value, rule: { ...wish.value.rule, ...change } }
}
function set(change: Partial<Schemas['SchedulesWish']['settings']>) {
  wish.value = { ...wish.value, settings: { ...wish.value.settings, ...change } }
}
const often = computed(() => !!wish.value.rule.every)
function change(every: boolean) {
  if (every) rule({ every: 30, first: '07:00', last: '16:00', at: undefined })
  else rule({ every: undefined, first: undefined, last: undefined, at: ['07:30'] })
}
const times = computed({
  get: () => (wish.value.rule.at ?? []).join('; '),
  set: (text) =>
    rule({
      at: text
        .split(/[;,]/)
        .map((t) => t.trim())
        .filter(Boolean),
    }),
})
function toggle(day: number) {
  const days = wish.value.rule.days ?? []
  rule({ days: days.includes(day) ? days.filter((d) => d !== day) : [...days, day].sort() })
}
const value = (e: Event) => (e.target as HTMLInputElement).value
const ticked = (e: Event) => (e.target as HTMLInputElement).checked
</script>

<template>
  <div class="fields">
    <label class="field"
      >What<select :value="wish.task" aria-label="What is done" @change="wish = { ...wish, task: value($event) }">
        <option v-for="t in tasks" :key="t.name" :value="t.name">{{ t.title }}</option>
      </select></label
    >
    <p class="mute small help">{{ task?.help }}</p>
  </div>
  <h2><span>When</span></h2>
  <div class="fields days" role="group" aria-label="On which days">
    <label v-for="d in week" :key="d"
      ><input type="checkbox" :checked="wish.rule.days?.includes(d)" @change="toggle(d)" /> {{ weekdays[d] }}</label
    >
  </div>
  <p v-if="!wish.rule.days?.length" class="mute small">No day ticked means every day.</p>
  <div class="fields">
    <label class="field"
      >How often<select
        :value="often ? 'often' : 'at'"
        aria-label="How often"
        @change="change(value($event) === 'often')"
      >
        <option value="at">at times of day</option>
        <option value="often">every so many minutes</option>
      </select></label
    >
    <template v-if="often">
      <label class="field"
        >Minutes<input
          class="mono"
          size="4"
          inputmode="numeric"
          :value="wish.rule.every"
          @change="rule({ every: Number(value($event)) || 0 })"
      /></label>
      <label class="field"
        >From<input class="mono" size="5" :value="wish.rule.first" @change="rule({ first: value($event) })"
      /></label>
      <label class="field"
        >Until<input class="mono" size="5" :value="wish.rule.last" @change="rule({ last: value($event) })"
      /></label>
    </template>
    <label v-else class="field"
      >Times, by the site's clock<input v-model.lazy="times" class="mono" size="22" placeholder="07:30; 12:00"
    /></label>
  </div>
  <h2><span>What for</span></h2>
  <div class="fields">
    <label v-if="uses('days')" class="field"
      >Wanted within, days<input
        class="mono"
        size="4"
        inputmode="numeric"
        :value="wish.settings.days ?? 0"
        @change="set({ days: Number(value($event)) || 0 })"
    /></label>
    <label v-if="uses('carrier')" class="field"
      >Carrier<input
        size="16"
        placeholder="any"
        :value="wish.settings.carrier"
        @change="set({ carrier: value($event) || undefined })"
    /></label>
    <label v-if="uses('zone')" class="field"
      >Zone<input
        size="6"
        placeholder="any"
        :value="wish.settings.zone"
        @change="set({ zone: value($event) || undefined })"
    /></label>
    <label v-if="uses('split')" class="field"
      >Rounds<select
        :value="wish.settings.split || 'walk'"
        @change="set({ split: value($event) as 'walk' | 'order' | 'zone' | 'one' })"
      >
        <option value="walk">that walk least together</option>
        <option value="zone">a zone each</option>
        <option value="order">an order each</option>
        <option value="one">all in one</option>
      </select></label
    >
    <label v-if="uses('max_cartons')" class="field"
      >Cartons a trolley<input
        class="mono"
        size="4"
        inputmode="numeric"
        :value="wish.settings.max_cartons ?? 0"
        @change="set({ max_cartons: Number(value($event)) || undefined })"
    /></label>
    <label v-if="uses('ready')" class="tick"
      ><input type="checkbox" :checked="wish.settings.ready" @change="set({ ready: ticked($event) || undefined })" />
      only orders that can go whole</label
    >
    <label v-if="uses('mail')" class="tick"
      ><input type="checkbox" :checked="wish.settings.mail" @change="set({ mail: ticked($event) || undefined })" /> mail
      each to its customer</label
    >
  </div>
</template>

<style scoped>
.days label,
.tick {
  display: flex;
  gap: 6px;
  align-items: center;
  min-height: 32px;
}
.days input,
.tick input {
  width: 20px;
  height: 20px;
}
.help {
  margin: 0 0 6px;
}
</style>
