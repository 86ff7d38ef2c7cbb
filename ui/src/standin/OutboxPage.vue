<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import { useCommand } from '@/parts/command'
import { plural, when } from '@/parts/words'
import type { Column } from '@/parts/columns'
import CommandNotice from '@/parts/CommandNotice.vue'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import WholeList from '@/parts/WholeList.vue'
import QueryState from '@/parts/QueryState.vue'

/** The mail host that stands in for a real one: what waits, what it took, and how it fails. */
const queries = useQueryClient()
const site = computed(() => session.site)
const key = computed(() => ['mail', site.value])
const outbox = useQuery({
  queryKey: key,
  queryFn: () => ask(api.GET('/api/v1/outbox', { params: { query: { site: site.value } } })),
})
const q = computed(() => outbox.data.value)
const open = ref<Schemas['MailMail']>()
const command = useCommand()
const { busy, run } = command
const may = computed(() => can('send-mail-again'))

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
/** What became of it: in the host's own words where it was turned away. */
function stateOf(m: Schemas['MailMail']) {
  const now = m.said || (m.sent_at ? `sent ${when(m.sent_at)}` : m.state)
  return m.state === 'waiting' && m.attempts
    ? `${now}, tried ${plural(m.attempts, 'time')}, next ${when(m.next_at)}`
    : now
}
const columns: Column<Schemas['MailMail']>[] = [
  { name: 'to', label: 'To', of: (m) => m.recipient, mono: true, width: 190 },
  { name: 'subject', label: 'Subject', of: (m) => m.subject, width: 250 },
  {
    name: 'document',
    label: 'Document',
    of: (m) => m.document,
    to: (m) => `/go/${m.document}`,
    mono: true,
    width: 110,
  },
  { name: 'asked', label: 'Asked for', of: (m) => when(m.asked_at), mono: true, width: 136 },
  { name: 'person', label: 'By', of: (m) => m.person, width: 120 },
  { name: 'state', label: 'State', of: stateOf, width: 250 },
  { name: 'does', label: '', width: 150 },
]
</script>

<template>
  <div class="page">
    <h1>Outbox <span class="mute small">a stand-in for a mail host</span></h1>
    <QueryState v-if="!q" :query="outbox" />
    <template v-else>
      <p>
        The host <b>{{ does[q.does] }}</b>.
        {{
          q.waiting.length
            ? `${plural(q.waiting.length, 'letter')} ${q.waiting.length === 1 ? 'waits' : 'wait'}.`
            : 'Nothing waits.'
        }}
      </p>
      <div v-if="may" class="fields">
        <a-button type="primary" data-primary :disabled="busy || !q.waiting.length" @click="again">
          Try {{ plural(q.waiting.length, 'letter') }} now
        </a-button>
      </div>
      <CommandNotice :of="command" />
      <template v-for="part in [q.waiting, q.sent]" :key="part === q.waiting ? 'waiting' : 'sent'">
        <h2 class="part">{{ part === q.waiting ? 'Waiting' : 'Sent last' }}</h2>
        <WholeList
          v-if="part.length"
          :data-mail="part === q.waiting ? 'waiting' : 'sent'"
          :name="part === q.waiting ? 'mail-waiting' : 'mail-sent'"
          :label="part === q.waiting ? 'Mail that waits' : 'Mail sent last'"
          style="--list-height: 34vh"
          :columns="columns"
          :rows="part"
          :row-key="(m) => m.id"
          :lines="2"
        >
          <template #subject="{ row: m }">
            <a-button
              type="link"
              size="small"
              :aria-expanded="open?.id === m.id"
              @click="open = open?.id === m.id ? undefined : m"
              >{{ m.subject }}</a-button
            >
          </template>
          <template #state="{ row: m }">
            <span :class="{ late: m.said }">{{ stateOf(m) }}</span>
          </template>
          <template #does="{ row: m }">
            <span class="nb">
              <a :href="`/api/v1/outbox/${m.id}/paper.pdf`" target="_blank" rel="noopener">Paper</a>
              <ConfirmButton
                v-if="may && m.state === 'waiting'"
                link
                label="Discard"
                :title="`Discard the mail about ${m.document}?`"
                :happens="`It is not mailed to ${m.recipient}. The document itself stays as it is.`"
                does="Discard it"
                :busy="busy"
                @confirm="discard(m.id)"
              />
            </span>
          </template>
        </WholeList>
        <div v-else class="empty">
          {{ part === q.waiting ? 'Mail waits here when the host does not take it.' : 'Nothing was mailed yet.' }}
        </div>
      </template>
      <section v-if="open" class="letter" :aria-label="`Letter about ${open.document}`">
        <b>{{ open.subject }}</b> <span class="mute">to {{ open.recipient }}</span>
        <div>{{ open.text }}</div>
        <a-button size="small" @click="open = undefined">Close the letter</a-button>
      </section>
      <details v-if="may" class="part">
        <summary>What this stand-in can be told</summary>
        <div class="fields">
          <a-button @click="tell('takes', 'It takes mail.')">Take mail</a-button>
          <a-button @click="tell('silent', 'It does not answer now.')">Do not answer</a-button>
          <a-button @click="tell('refuses', 'It turns mail away now.')">Turn mail away</a-button>
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
  margin-top: 12px;
  padding: 12px 14px;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 8px;
}
.letter div {
  white-space: pre-wrap;
  margin: 8px 0;
}
summary {
  cursor: pointer;
  min-height: 28px;
}
</style>
