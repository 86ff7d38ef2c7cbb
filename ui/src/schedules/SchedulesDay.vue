<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { timeOf } from '@/parts/clock'
import type { Column } from '@/parts/columns'
import SheetTable from '@/parts/SheetTable.vue'
import { when } from '@/parts/words'

/** What is done on schedule within the next 24 hours: along the day, and in words. */
type Schedule = Schemas['SchedulesSchedule']
const props = defineProps<{ schedules: Schedule[] }>()
const due = computed(() =>
  props.schedules
    .filter((s) => s.coming.length)
    .sort((a, b) => new Date(a.coming[0]!).getTime() - new Date(b.coming[0]!).getTime()),
)
const hour = 60 * 60 * 1000
const begin = Math.floor(Date.now() / hour) * hour
const across = (at: number) => `${(100 * (at - begin)) / (25 * hour)}%`
const hours = Array.from({ length: 9 }, (_, i) => begin + 3 * i * hour)
const rest = (s: Schedule) => {
  const then = s.coming.slice(1, 4).map((at) => when(at))
  const more = s.coming.length - 4
  return more > 0 ? `${then.join(', ')} and ${more} more until ${when(s.coming.at(-1)!)}` : then.join(', ')
}
const columns: Column<Schedule>[] = [
  { name: 'next', label: 'Next', of: (s) => when(s.coming[0]!), mono: true },
  { name: 'what', label: 'What is done', of: (s) => `${s.title} ${s.number}`, to: (s) => `/schedules/${s.id}` },
  { name: 'then', label: 'Then', of: rest },
  {
    name: 'last',
    label: 'Last time',
    of: (s) => (s.runs[0] ? `${when(s.runs[0].ran_at)}: it ${s.runs[0].words}` : 'never yet'),
  },
]
</script>

<template>
  <h1>The next 24 hours</h1>
  <div v-if="due.length" class="day" aria-hidden="true">
    <div class="lane hours">
      <span v-for="h in hours" :key="h" class="mono" :style="{ left: across(h) }">{{ timeOf(new Date(h)) }}</span>
    </div>
    <div v-for="s in due" :key="s.id" class="lane">
      <b>{{ s.title }}</b>
      <i v-for="at in s.coming" :key="at" :style="{ left: across(new Date(at).getTime()) }" />
    </div>
  </div>
  <SheetTable data-day="schedules" :columns="columns" :rows="due" :row-key="(s) => s.id" label="The next 24 hours">
    <template #empty>Nothing is due. What is set up below is done at its times.</template>
  </SheetTable>
</template>

<style scoped>
.day {
  margin: 4px 0 14px;
  overflow: hidden;
}
.lane {
  position: relative;
  height: 44px;
  border-bottom: 1px solid var(--line);
}
.lane b {
  font-size: 13px;
  font-weight: 400;
  color: var(--mute);
}
.hours {
  height: 24px;
  font-size: 12.5px;
  color: var(--mute);
}
.hours span {
  position: absolute;
  top: 2px;
}
.lane i {
  position: absolute;
  bottom: 6px;
  width: 9px;
  height: 14px;
  border-radius: 2px 2px 5px 5px;
  background: var(--lamp);
  border: 1px solid var(--warn-edge);
}
</style>
