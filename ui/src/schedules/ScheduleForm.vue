<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import FormField from '@/parts/FormField.vue'
import TextEntry from '@/parts/TextEntry.vue'
import CarrierEntry from '@/parts/CarrierEntry.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import CountEntry from '@/parts/CountEntry.vue'
import TimeEntry from '@/parts/TimeEntry.vue'
import { splits } from '@/stations/pick/splits'

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
const times = computed(() => wish.value.rule.at ?? [])
function setTime(i: number, to?: string) {
  const at = [...times.value]
  if (to) at[i] = to
  else if (to === undefined) at.splice(i, 1)
  rule({ at })
}
const taskOptions = computed(() => props.tasks.map((t) => ({ value: t.name, label: t.title })))
const oftens = [
  { value: 'at' as const, label: 'at times of day' },
  { value: 'often' as const, label: 'every so many minutes' },
]
function toggle(day: number) {
  const days = wish.value.rule.days ?? []
  rule({ days: days.includes(day) ? days.filter((d) => d !== day) : [...days, day].sort() })
}
</script>

<template>
  <div class="fields">
    <FormField label="What is done"
      ><ChoiceEntry
        :model-value="wish.task"
        :options="taskOptions"
        :width="280"
        @update:model-value="(t) => (wish = { ...wish, task: t ?? wish.task })"
    /></FormField>
    <p class="mute small help">{{ task?.help }}</p>
  </div>
  <h2><span>When</span></h2>
  <div class="fields days" role="group" aria-label="On which days">
    <a-checkbox v-for="d in week" :key="d" :checked="!!wish.rule.days?.includes(d)" @change="toggle(d)">{{
      weekdays[d]
    }}</a-checkbox>
  </div>
  <p v-if="!wish.rule.days?.length" class="mute small">No day is ticked: every day.</p>
  <div class="fields">
    <FormField label="How often"
      ><ChoiceEntry
        :model-value="often ? 'often' : 'at'"
        :options="oftens"
        :width="210"
        @update:model-value="(o) => change(o === 'often')"
    /></FormField>
    <template v-if="often">
      <FormField label="Minutes"
        ><CountEntry :model-value="wish.rule.every" @update:model-value="(n) => rule({ every: n ?? 0 })"
      /></FormField>
      <FormField label="From"
        ><TimeEntry :model-value="wish.rule.first" @update:model-value="(t) => rule({ first: t })"
      /></FormField>
      <FormField label="Until"
        ><TimeEntry :model-value="wish.rule.last" @update:model-value="(t) => rule({ last: t })"
      /></FormField>
    </template>
    <template v-else>
      <FormField v-for="(t, i) in times" :key="i" :label="times.length > 1 ? `Time ${i + 1}` : 'Time'">
        <TimeEntry :model-value="t" @update:model-value="(to) => setTime(i, to)" />
        <a-button v-if="times.length > 1" type="link" size="small" @click="setTime(i)">Remove</a-button>
      </FormField>
      <a-button @click="rule({ at: [...times, '12:00'] })">Add a time</a-button>
    </template>
  </div>
  <h2><span>What for</span></h2>
  <div class="fields">
    <FormField v-if="uses('days')" label="Wanted within, days"
      ><CountEntry :model-value="wish.settings.days ?? 0" @update:model-value="(n) => set({ days: n ?? 0 })"
    /></FormField>
    <FormField v-if="uses('carrier')" label="Carrier"
      ><CarrierEntry
        none="any"
        :model-value="wish.settings.carrier"
        :width="170"
        @update:model-value="(c) => set({ carrier: c || undefined })"
    /></FormField>
    <FormField v-if="uses('zone')" label="Zone"
      ><TextEntry
        placeholder="any"
        :model-value="wish.settings.zone"
        :width="80"
        @update:model-value="(z) => set({ zone: z || undefined })"
    /></FormField>
    <FormField v-if="uses('split')" label="Rounds"
      ><ChoiceEntry
        :model-value="wish.settings.split || 'walk'"
        :options="splits"
        :width="210"
        @update:model-value="(s) => set({ split: s })"
    /></FormField>
    <FormField v-if="uses('max_cartons')" label="Cartons a trolley"
      ><CountEntry
        :model-value="wish.settings.max_cartons"
        @update:model-value="(n) => set({ max_cartons: n || undefined })"
    /></FormField>
    <FormField v-if="uses('max_lines')" label="Most lines"
      ><CountEntry
        :model-value="wish.settings.max_lines"
        placeholder="any"
        @update:model-value="(n) => set({ max_lines: n || undefined })"
    /></FormField>
    <FormField v-if="uses('max_kg')" label="Kg a trolley"
      ><CountEntry
        :model-value="wish.settings.max_kg"
        placeholder="any"
        @update:model-value="(n) => set({ max_kg: n || undefined })"
    /></FormField>
    <a-checkbox
      v-if="uses('ready')"
      :checked="!!wish.settings.ready"
      @update:checked="(r: boolean) => set({ ready: r || undefined })"
      >Only orders that can go whole</a-checkbox
    >
    <a-checkbox
      v-if="uses('mail')"
      :checked="!!wish.settings.mail"
      @update:checked="(m: boolean) => set({ mail: m || undefined })"
      >Mail each to its customer</a-checkbox
    >
  </div>
</template>

<style scoped>
.days {
  align-items: center;
}
.help {
  margin: 0 0 6px;
}
</style>
