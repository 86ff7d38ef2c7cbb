<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import CommandNotice from '@/parts/CommandNotice.vue'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import SheetTable from '@/parts/SheetTable.vue'
import TextEntry from '@/parts/TextEntry.vue'
import { when } from '@/parts/words'

/** What somebody signs on with, where they are signed on, and their badge. */
const props = defineProps<{ member: Schemas['StaffMember'] }>()
const queries = useQueryClient()
const id = computed(() => props.member.id)
const sessions = useQuery({
  queryKey: ['people', 'sessions', id],
  queryFn: () => ask(api.GET('/api/v1/sessions', { params: { query: { person: id.value } } })),
})
const command = useCommand()
const { busy, run } = command
const giving = ref<'password' | 'pin'>()
const secret = ref('')
const again = () => queries.invalidateQueries({ queryKey: ['people'] })
async function give() {
  const what = giving.value!
  const given = await run(
    () =>
      once((headers) =>
        ask(
          api.POST('/api/v1/people/{id}/secret', {
            headers,
            params: { path: { id: id.value } },
            body: { what, secret: secret.value },
          }),
        ),
      ),
    (m) => `${m.name} has a new ${what === 'pin' ? 'PIN' : 'password'}, and changes it at its first use.`,
  )
  await again()
  if (!given) return
  giving.value = undefined
  secret.value = ''
}
async function end(session?: number) {
  await run(
    () =>
      once((headers) =>
        ask(
          api.POST('/api/v1/people/{id}/sessions/end', {
            headers,
            params: { path: { id: id.value } },
            body: { session },
          }),
        ),
      ),
    () => (session ? 'The session is ended.' : 'All their sessions are ended.'),
  )
  await again()
}
type Session = Schemas['StaffSession']
const columns: Column<Session>[] = [
  { name: 'since', label: 'Since', of: (s) => when(s.since), mono: true },
  { name: 'seen', label: 'Used last', of: (s) => when(s.seen_at), mono: true },
  { name: 'by', label: 'With', of: (s) => (s.badge ? 'badge and PIN' : 'password') },
  { name: 'from', label: 'From', of: (s) => s.address, mono: true },
  { name: 'device', label: 'Device', of: (s) => s.device },
  { name: 'does', label: '' },
]
const says = computed(() => {
  const m = props.member
  const password = m.has_password ? (m.password_given ? 'a password to be changed' : 'a password') : 'no password'
  const pin = !m.badge
    ? 'no badge'
    : !m.has_pin
      ? 'a badge without a PIN'
      : m.pin_given
        ? 'a badge with a PIN to be changed'
        : 'a badge with a PIN'
  return `They have ${password}, and ${pin}.${m.seen_at ? ` They signed on last ${when(m.seen_at)}.` : ''}`
})
</script>

<template>
  <template v-if="!member.ended_at">
    <h2><span>Signing on</span></h2>
    <p class="mute" data-access>{{ says }}</p>
    <CommandNotice :of="command" />
    <div class="fields">
      <a-button :disabled="busy" @click="giving = 'password'">Give a new password</a-button>
      <a-button v-if="member.badge" :disabled="busy" @click="giving = 'pin'">Give a new PIN</a-button>
      <a v-if="member.badge" class="btn" :href="`/api/v1/people/${member.id}/badge.pdf`" target="_blank" rel="noopener"
        >Print the badge</a
      >
    </div>
    <EntryForm v-if="giving" :problem="command.problem.value" @submit="give">
      <div class="fields">
        <FormField
          :label="giving === 'pin' ? 'The new PIN' : 'The new password'"
          field="secret"
          required
          :tip="giving === 'pin' ? '4 digits or more.' : '10 characters or more.'"
          ><TextEntry v-model="secret" mono :width="220" :maxlength="200"
        /></FormField>
        <a-button type="primary" html-type="submit" style="align-self: end" :disabled="busy || !secret"
          >Give it, and end their sessions</a-button
        >
        <a-button style="align-self: end" @click="((giving = undefined), (secret = ''))">Leave it</a-button>
      </div>
    </EntryForm>
  </template>
  <template v-if="sessions.data.value?.length">
    <h2><span>Signed on now</span></h2>
    <SheetTable label="Sessions" :columns="columns" :rows="sessions.data.value" :row-key="(s) => s.id"
      ><template #does="{ row: s }"
        ><a-button type="link" size="small" :disabled="busy" @click="end(s.id)">End</a-button></template
      ></SheetTable
    >
    <p><a-button :disabled="busy" @click="end()">End all of them</a-button></p>
  </template>
  <p><router-link :to="`/people/events?person=${member.id}`">What happened to their access</router-link></p>
</template>
