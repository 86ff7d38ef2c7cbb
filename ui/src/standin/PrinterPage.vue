<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, once } from '@/api/client'
import { session } from '@/api/session'
import { useCommand } from '@/parts/preview'
import { plural, when } from '@/parts/words'
import { labelsLeft } from './labels'

/** The label printer that stands in for a real one: what waits, what came out, and how it fails. */
const queries = useQueryClient()
const site = computed(() => session.site)
const key = computed(() => ['printer', site.value])
const printer = useQuery({
  queryKey: key,
  queryFn: () => ask(api.GET('/api/v1/printer', { params: { query: { site: site.value } } })),
})
const q = computed(() => printer.data.value)
const left = computed(() => labelsLeft(q.value?.waiting ?? []))
const { busy, problem, done, run } = useCommand()

/** The printer is told after the answer: what came out shows as it comes. */
async function act<T>(call: (h: { 'Idempotency-Key': string }) => Promise<T>, say?: string) {
  await run(
    () => once(call),
    () => say ?? '',
  )
  void queries.invalidateQueries({ queryKey: key.value })
}

const print = (jobs?: number[]) =>
  act(
    (h) => ask(api.POST('/api/v1/printer/print', { headers: h, body: { site_id: site.value, jobs } })),
    jobs ? 'It is with the printer.' : `${plural(left.value, 'label')} are with the printer.`,
  )
const tell = (body: { paper?: number; answers?: boolean }, say: string) =>
  act((h) => ask(api.POST('/api/v1/printer/tell', { headers: h, body: { site_id: site.value, ...body } })), say)
const one = (step: 'again' | 'discard', id: number) =>
  act((h) =>
    ask(
      api.POST(`/api/v1/printer/jobs/{id}/${step}`, {
        headers: h,
        params: { path: { id } },
        body: { site_id: site.value, copies: step === 'again' ? 1 : undefined },
      }),
    ),
  )
</script>

<template>
  <div class="page">
    <h1>Label printer <span class="mute small">a stand-in for a real one</span></h1>
    <template v-if="q">
      <p>
        <b class="mono">{{ q.paper }}</b> labels are on the roll{{ q.answers ? '' : ', and it does not answer' }}.
        {{ left ? `${plural(left, 'label')} ${left === 1 ? 'waits' : 'wait'}.` : 'Nothing waits.' }}
      </p>
      <div class="fields">
        <button class="btn go" data-primary :disabled="busy || !left" @click="print()">
          Print {{ plural(left, 'label') }}
        </button>
        <button class="btn" :disabled="busy" @click="tell({ paper: 200 }, 'A new roll is in.')">
          Put a new roll in
        </button>
      </div>
      <div v-if="done" class="note" :class="q.paper ? 'g' : 'w'" role="status">{{ done }}</div>
      <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>

      <h2 class="part">Waiting</h2>
      <table v-if="q.waiting.length" class="plain" data-waiting>
        <thead>
          <tr>
            <th>Label</th>
            <th>What its symbol says</th>
            <th>For</th>
            <th class="r">Printed</th>
            <th><span class="skip">What to do</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="j in q.waiting" :key="j.id">
            <td>
              <b>{{ j.title }}</b>
              <div class="mute small">{{ j.label.description }}, {{ j.label.pack }}</div>
              <div v-if="j.stopped" class="late small">{{ j.stopped }}</div>
              <div v-else-if="j.sent" class="mute small">with the printer</div>
            </td>
            <td class="mono small words">{{ j.label.words }}</td>
            <td class="mono">
              <router-link :to="`/go/${j.document}`">{{ j.document }}</router-link>
            </td>
            <td class="r mono">{{ j.printed }} of {{ j.copies }}</td>
            <td class="nb">
              <a :href="`/api/v1/printer/jobs/${j.id}/label.pdf`" target="_blank" rel="noopener">see it</a>
              <button class="btn bare" :disabled="busy" @click="print([j.id])">print</button>
              <button class="btn bare" :disabled="busy" @click="one('discard', j.id)">discard</button>
            </td>
          </tr>
        </tbody>
      </table>
      <div v-else class="empty">Labels come up here when goods are received.</div>

      <template v-if="q.recent.length">
        <h2 class="part">Printed last</h2>
        <table class="plain small">
          <tbody>
            <tr v-for="j in q.recent" :key="j.id">
              <td>
                <b>{{ j.title }}</b>
              </td>
              <td class="mono">{{ j.document }}</td>
              <td class="r mono">{{ j.printed }} of {{ j.copies }}</td>
              <td>{{ j.person }}, {{ when(j.asked_at) }}</td>
              <td class="nb">
                <a :href="`/api/v1/printer/jobs/${j.id}/label.pdf`" target="_blank" rel="noopener">see it</a>
                <button class="btn bare" :disabled="busy" @click="one('again', j.id)">one more</button>
              </td>
            </tr>
          </tbody>
        </table>
      </template>

      <details class="part">
        <summary>What this stand-in can be told</summary>
        <div class="fields">
          <button class="btn" @click="tell({ paper: 3 }, 'Three labels are left on the roll.')">
            Leave three labels on the roll
          </button>
          <button v-if="q.answers" class="btn" @click="tell({ answers: false }, 'It does not answer now.')">
            Do not answer
          </button>
          <button v-else class="btn" @click="tell({ answers: true }, 'It answers again.')">Answer again</button>
        </div>
      </details>
    </template>
  </div>
</template>

<style scoped>
.part {
  margin-top: 18px;
}
.words {
  overflow-wrap: anywhere;
}
summary {
  cursor: pointer;
  min-height: 28px;
}
</style>
