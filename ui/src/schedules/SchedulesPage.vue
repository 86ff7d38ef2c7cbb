<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/command'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import { usePreview } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import { plural, when } from '@/parts/words'
import RunTable from './RunTable.vue'
import SchedulesDay from './SchedulesDay.vue'
import ScheduleForm from './ScheduleForm.vue'

/** Schedules: when, what it would do next, and what it did. */
const props = defineProps<{ id?: string }>()
const router = useRouter()
const queries = useQueryClient()
const site = computed(() => session.site)
const id = computed(() => Number(props.id) || 0)
const schedules = useQuery({
  queryKey: ['schedules', site],
  queryFn: () => ask(api.GET('/api/v1/schedules', { params: { query: { site: site.value } } })),
})
const tasks = useQuery({ queryKey: ['tasks'], queryFn: () => ask(api.GET('/api/v1/schedules/tasks')) })
const chosen = computed(() => schedules.data.value?.find((s) => s.id === id.value))
const task = (name: string) => tasks.data.value?.find((t) => t.name === name)
const may = computed(() => !chosen.value || !!task(chosen.value.task))

const unset = (): Schemas['SchedulesWish'] => ({
  site_id: site.value,
  task: tasks.data.value?.[0]?.name ?? '',
  rule: { days: [1, 2, 3, 4, 5], at: ['07:30'] },
  settings: { days: 1, max_cartons: 8 },
})
const draft = useDraft<Schemas['SchedulesWish']>(
  () => `schedule/${id.value || `new at ${site.value}`}`,
  () => {
    const s = chosen.value
    if (id.value) return s && { site_id: s.site_id, task: s.task, rule: { ...s.rule }, settings: { ...s.settings } }
    return tasks.data.value && unset()
  },
)
const wish = computed({
  get: () => draft.mine.value ?? unset(),
  set: (to) => (draft.mine.value = to),
})
const { busy, problem, done, run } = useCommand()
watch(id, () => (done.value = ''))
const body = computed(() => (draft.mine.value && wish.value.task && may.value ? wish.value : null))
const {
  plan: outlook,
  problem: refused,
  fresh,
} = usePreview('schedule', body, (b) => ask(api.POST('/api/v1/schedules/preview', { body: b })))
/** What it would do, as the panel beside shows it. */
const plan = computed<Schemas['LedgerPlan'] | undefined>(() => {
  const o = outlook.value
  if (!o) return undefined
  const would = `If it ran now, it ${o.would.words}${o.would.documents.length ? `: ${o.would.documents.join(', ')}` : ''}.`
  return {
    moves: [],
    changes: [],
    notes: [`It runs next ${o.next.map(when).join(', then ')}.`, ...(o.stops ? [] : [would])],
    warnings: o.stops ? [`If it ran now, it would stop: ${o.stops}`] : [],
    button: `${chosen.value ? 'Change to' : 'Schedule'} ${o.when}`,
  }
})

async function save() {
  const s = chosen.value
  const saved = await run(
    () =>
      once((headers) =>
        s
          ? ask(
              api.POST('/api/v1/schedules/{id}/change', {
                headers,
                params: { path: { id: s.id } },
                body: { version: s.version, ...wish.value },
              }),
            )
          : ask(api.POST('/api/v1/schedules', { headers, body: wish.value })),
      ),
    (x) => `${x.number} is set: ${x.when}.`,
  )
  if (saved) {
    draft.discard()
    await queries.invalidateQueries({ queryKey: ['schedules'] })
    void router.push(`/schedules/${saved.id}`)
  }
}
async function put(state: 'on' | 'paused' | 'removed') {
  const s = chosen.value
  if (!s) return
  const words = { on: 'is resumed', paused: 'is paused', removed: 'is removed' }[state]
  const saved = await run(
    () =>
      once((headers) =>
        ask(
          api.POST('/api/v1/schedules/{id}/state', {
            headers,
            params: { path: { id: s.id } },
            body: { version: s.version, state },
          }),
        ),
      ),
    (x) => `${x.number} ${words}.`,
  )
  await queries.invalidateQueries({ queryKey: ['schedules'] })
  if (saved && state === 'removed') void router.push('/schedules')
}
async function runNow() {
  const s = chosen.value
  if (!s) return
  await run(
    () => once((headers) => ask(api.POST('/api/v1/schedules/{id}/run', { headers, params: { path: { id: s.id } } }))),
    (x) => `It ${x.runs[0]?.words ?? 'ran'}.`,
  )
  await queries.invalidateQueries({ queryKey: ['schedules'] })
}
</script>

<template>
  <BenchLayout waits="Schedules" :waiting="[schedules]" :sheet="[tasks]">
    <template #waiting>
      <h2><span>Schedules</span><router-link to="/schedules">New</router-link></h2>
      <QueueCard v-for="s in schedules.data.value" :key="s.id" :to="`/schedules/${s.id}`" :selected="id === s.id">
        <span>{{ s.title }}</span><span class="mono small" :class="{ late: s.state === 'stopped' }">{{
          s.next_at ? when(s.next_at) : s.state
        }}</span>
        <template #more
          ><span>{{ s.when }}</span></template
        >
      </QueueCard>
      <div v-if="schedules.data.value?.length === 0" class="empty">
        Nothing is done on schedule yet. What repeats every day can be: releasing orders, planning rounds, making
        invoices.
      </div>
    </template>

    <template v-if="chosen">
      <h1>
        {{ chosen.title }} <span class="mute small mono">{{ chosen.number }}</span>
      </h1>
      <p class="mute">{{ chosen.when }}. It acts for {{ chosen.acts_for }}.</p>
      <div v-if="chosen.retry_at" class="note w" role="status" data-trouble>
        {{ chosen.trouble }} It is tried again at {{ when(chosen.retry_at) }}, {{ plural(chosen.failures, 'time') }} so
        far.
      </div>
      <div v-if="chosen.state === 'stopped'" class="note s" role="alert" data-stopped>
        It stopped: {{ chosen.stopped }}
      </div>
      <div v-else-if="chosen.state === 'paused'" class="note w">It is paused, and does nothing.</div>
      <div v-if="may" class="fields">
        <a-button :disabled="busy" @click="runNow">Run now</a-button>
        <a-button v-if="chosen.state === 'on'" :disabled="busy" @click="put('paused')">Pause</a-button>
        <a-button v-else type="primary" :disabled="busy" @click="put('on')">Resume</a-button>
        <ConfirmButton
          label="Remove"
          :title="`Remove ${chosen.number}?`"
          happens="It does nothing any more. What it did stays in the documents it made."
          does="Remove it"
          :busy="busy"
          @confirm="put('removed')"
        />
      </div>
    </template>
    <template v-else>
      <SchedulesDay :schedules="schedules.data.value ?? []" />
      <h1 class="another">New schedule</h1>
    </template>
    <DraftNotice :of="draft" :labels="(path) => path.join(' ')" />
    <ScheduleForm v-if="tasks.data.value?.length && may" v-model="wish" :tasks="tasks.data.value" />
    <div v-else-if="tasks.isSuccess.value" class="empty">
      {{ may ? 'A lead or the office has things done on schedule.' : 'A lead changes this one.' }}
    </div>
    <RunTable v-if="chosen" :id="chosen.id" />

    <template #after>
      <BeforeAfter
        by="create-schedule"
        :plan="plan"
        :problem="problem ?? refused"
        :done="done"
        :busy="busy"
        :fresh="fresh"
        idle="Say what is to be done, and when."
        doing="Schedule"
        @go="save"
      />
    </template>
  </BenchLayout>
</template>
