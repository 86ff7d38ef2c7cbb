<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import { useCommand } from '@/parts/command'
import { plural } from '@/parts/words'
import CommandNotice from '@/parts/CommandNotice.vue'
import QueryState from '@/parts/QueryState.vue'
import LetterList from './LetterList.vue'

/** What goes to the mail host: what waits, what it took, and how one that stands in for a real one fails. */
const queries = useQueryClient()
const site = computed(() => session.site)
const key = computed(() => ['mail', 'host', site.value])
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
  if (!now) return
  queries.setQueryData(key.value, now)
  await queries.invalidateQueries({ queryKey: ['mail', 'letters'] })
}
const again = () =>
  act(
    (h) => ask(api.POST('/api/v1/outbox/again', { headers: h, body: { site_id: site.value } })),
    'What waits is tried now, the oldest first.',
  )
const tell = (does: Exclude<Schemas['MailOutbox']['does'], 'connected' | 'unconnected'>, say: string) =>
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
const does = {
  takes: 'takes mail',
  silent: 'does not answer',
  refuses: 'turns mail away',
  connected: 'is connected',
  unconnected: 'is not connected',
}
</script>

<template>
  <div class="page">
    <h1>Outbox <span v-if="can('tell-mail-host')" class="mute small">a stand-in for a mail host</span></h1>
    <QueryState v-if="!q" :query="outbox" />
    <template v-else>
      <p>
        {{ q.host ? `The mail host ${q.host}` : 'The mail host' }} <b>{{ does[q.does] }}</b>.
        {{ q.waiting ? `${plural(q.waiting, 'letter')} ${q.waiting === 1 ? 'waits' : 'wait'}.` : 'Nothing waits.' }}
      </p>
      <div v-if="may && q.waiting" class="fields">
        <a-button type="primary" data-primary :disabled="busy" @click="again">
          Try {{ plural(q.waiting, 'letter') }} now
        </a-button>
      </div>
      <CommandNotice :of="command" />
      <template v-for="state in ['waiting', 'over'] as const" :key="state">
        <h2 class="part">{{ state === 'waiting' ? 'Waiting' : 'Sent, refused or discarded' }}</h2>
        <LetterList
          :state="state"
          :may="may"
          :busy="busy"
          :open="open?.id"
          @open="(m) => (open = open?.id === m.id ? undefined : m)"
          @discard="discard"
        />
      </template>
      <section v-if="open" class="letter" :aria-label="`Letter about ${open.document}`">
        <b>{{ open.subject }}</b> <span class="mute">to {{ open.recipient }}</span>
        <div>{{ open.text }}</div>
        <a-button size="small" @click="open = undefined">Close the letter</a-button>
      </section>
      <details v-if="can('tell-mail-host')" class="part">
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
