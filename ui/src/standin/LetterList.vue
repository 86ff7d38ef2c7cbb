<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { session } from '@/api/session'
import type { Column, Sort } from '@/parts/columns'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import PagedList from '@/parts/PagedList.vue'
import QueryView from '@/parts/QueryView.vue'
import { useServerList } from '@/parts/serverList'
import { plural, when } from '@/parts/words'

/** Letters that wait, the oldest first, or those that do not any more, the newest first. */
const props = defineProps<{
  state: 'waiting' | 'over'
  may: boolean
  busy: boolean
  /** The letter that is open. */
  open?: number
}>()
type Letter = Schemas['MailMail']
defineEmits<{ open: [letter: Letter]; discard: [id: number] }>()
type By = NonNullable<operations['list-letters']['parameters']['query']>['sort']
const site = computed(() => session.site)
const sort = ref<Sort | undefined>({ by: 'asked', down: props.state === 'over' })
const list = useServerList<Letter>(['mail', 'letters', props.state, site], sort, (at) =>
  ask(
    api.GET('/api/v1/outbox/letters', {
      params: { query: { site: site.value, state: props.state, ...at, sort: at.sort as By } },
    }),
  ),
)
const { query, rows } = list
/** What became of it: in the host's own words where it was turned away. */
function stateOf(m: Schemas['MailMail']) {
  if (m.state === 'refused') return `refused: ${m.said}`
  const now = m.said || (m.sent_at ? `sent ${when(m.sent_at)}` : m.state)
  return m.state === 'waiting' && m.attempts
    ? `${now}, tried ${plural(m.attempts, 'time')}, next ${when(m.next_at)}`
    : now
}
const columns: Column<Letter>[] = [
  { name: 'to', sort: true, label: 'To', of: (m) => m.recipient, mono: true, width: 190 },
  { name: 'subject', sort: true, label: 'Subject', of: (m) => m.subject, width: 250 },
  {
    name: 'document',
    sort: true,
    label: 'Document',
    of: (m) => m.document,
    to: (m) => `/go/${m.document}`,
    mono: true,
    width: 110,
  },
  { name: 'asked', sort: true, label: 'Asked for', of: (m) => when(m.asked_at), mono: true, width: 136 },
  { name: 'person', sort: true, label: 'By', of: (m) => m.person, width: 120 },
  { name: 'state', sort: true, label: 'State', of: stateOf, width: 250 },
  { name: 'does', label: '', width: 150 },
]
</script>

<template>
  <QueryView :query="query" :empty="() => !rows.length">
    <PagedList
      v-model:sort="sort"
      :data-mail="state === 'waiting' ? 'waiting' : 'sent'"
      :name="state === 'waiting' ? 'mail-waiting' : 'mail-sent'"
      :label="state === 'waiting' ? 'Mail that waits' : 'Mail sent, refused or discarded'"
      style="--list-height: 34vh"
      :columns="columns"
      :list="list"
      :file="`/api/v1/outbox/export?site=${site}&state=${state}`"
      :row-key="(m) => m.id"
      :lines="2"
    >
      <template #subject="{ row: m }">
        <a-button type="link" size="small" :aria-expanded="open === m.id" @click="$emit('open', m)">{{
          m.subject
        }}</a-button>
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
            @confirm="$emit('discard', m.id)"
          />
        </span>
      </template>
    </PagedList>
    <template #empty>{{
      state === 'waiting' ? 'Mail waits here when the host does not take it.' : 'Nothing was mailed yet.'
    }}</template>
  </QueryView>
</template>
