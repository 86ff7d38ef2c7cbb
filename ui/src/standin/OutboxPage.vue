<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { useCommand } from '@/parts/preview'
import { plural, when } from '@/parts/words'

/** The mail host that stands in for a real one: what waits, what it took, and how it fails. */
const queries = useQueryClient()
const site = computed(() => session.site)
const key = computed(() => ['mail', site.value])
const outbox = useQuery({
  queryKey: key,
  queryFn: () => ask(api.GET('/api/v1/outbox', { params: { query: { site: site.value } } })),
})
const q = computed(() => outbox.data.value)
const open = ref(0)
const { busy, problem, done, run } = useCommand()
const may = computed(() => ['lead', 'receiver', 'office'].includes(session.person?.role ?? ''))

async function act(call: (h: { 'Idempotency-Key': string }) => Promise<Schemas['MailOutbox']>, say: string) {
  const now = await run(
    () => once(call),
    () => say,
  )
  if (now) queries.setQueryData(key.value, now)
  return now
}
const again = () =>
  act(
    (h) => ask(api.POST('/api/v1/outbox/again', { headers: h, body: { site_id: site.value } })),
    'What waits is tried now, the oldest first.',
  )
const tell = (does: Schemas['MailOutbox']['does'], say: string) =>
  act((h) => ask(api.POST('/api/v1/outbox/tell', { headers: h, body: { site_id: site.value, does } })), say)
const discard = (id: number) =>
  act(
    (h) =>
      ask(
        api.POST('/api/v1/outbox/{id}/discard', {
          headers: h,
          params: { path: { id } },
          body: { site_id: site.value },
        }),
      ),
    'It is discarded.',
  )
const does = { takes: 'takes mail', silent: 'does not answer', refuses: 'turns mail away' }
</script>

<template>
  <div class="page">
    <h1>Outbox <span class="mute small">a stand-in for a mail host</span></h1>
    <template v-if="q">
      <p>
        The host <b>{{ does[q.does] }}</b>.
        {{
          q.waiting.length
            ? `${plural(q.waiting.length, 'letter')} ${q.waiting.length === 1 ? 'waits' : 'wait'}.`
            : 'Nothing waits.'
        }}
      </p>
      <div v-if="may" class="fields">
        <button class="btn go" data-primary :disabled="busy || !q.waiting.length" @click="again">
          Try {{ plural(q.waiting.length, 'letter') }} now
        </button>
      </div>
      <div v-if="done" class="note g" role="status">{{ done }}</div>
      <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
      <template v-for="part in [q.waiting, q.sent]" :key="part === q.waiting ? 'waiting' : 'sent'">
        <h2 class="part">{{ part === q.waiting ? 'Waiting' : 'Sent last' }}</h2>
        <table v-if="part.length" class="plain" :data-mail="part === q.waiting ? 'waiting' : 'sent'">
          <thead>
            <tr>
              <th>To</th>
              <th>Subject</th>
              <th>Document</th>
              <th>Asked for</th>
              <th>State</th>
              <th><span class="skip">What to do</span></th>
            </tr>
          </thead>
          <tbody>
            <template v-for="m in part" :key="m.id">
              <tr>
                <td class="mono small">{{ m.recipient }}</td>
                <td>
                  <button class="btn bare" :aria-expanded="open === m.id" @click="open = open === m.id ? 0 : m.id">
                    {{ m.subject }}
                  </button>
                </td>
                <td class="mono">
                  <router-link :to="`/go/${m.document}`">{{ m.document }}</router-link>
                </td>
                <td>{{ m.person }}, {{ when(m.asked_at) }}</td>
                <td>
                  <span :class="{ late: m.said }">{{
                    m.said || (m.sent_at ? `sent ${when(m.sent_at)}` : m.state)
                  }}</span>
                  <span v-if="m.state === 'waiting' && m.attempts" class="mute small"
                    >, tried {{ plural(m.attempts, 'time') }}, next {{ when(m.next_at) }}</span
                  >
                </td>
                <td class="nb">
                  <a :href="`/api/v1/outbox/${m.id}/paper.pdf`" target="_blank" rel="noopener">its paper</a>
                  <button v-if="may && m.state === 'waiting'" class="btn bare" :disabled="busy" @click="discard(m.id)">
                    discard
                  </button>
                </td>
              </tr>
              <tr v-if="open === m.id">
                <td colspan="6" class="letter">{{ m.text }}</td>
              </tr>
            </template>
          </tbody>
        </table>
        <div v-else class="empty">
          {{ part === q.waiting ? 'Mail waits here when the host does not take it.' : 'Nothing was mailed yet.' }}
        </div>
      </template>
      <details v-if="may" class="part">
        <summary>What this stand-in can be told</summary>
        <div class="fields">
          <button class="btn" @click="tell('takes', 'It takes mail.')">Take mail</button>
          <button class="btn" @click="tell('silent', 'It does not answer now.')">Do not answer</button>
          <button class="btn" @click="tell('refuses', 'It turns mail away now.')">Turn mail away</button>
        </div>
      </details>
    </template>
  </div>
</template>

<style scoped>
.part {
  margin-top: 18px;
}
.letter {
  white-space: pre-wrap;
}
summary {
  cursor: pointer;
  min-height: 28px;
}
</style>
