<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import { useCommand } from '@/parts/command'
import { plural, when } from '@/parts/words'
import FormField from '@/parts/FormField.vue'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'
import CommandNotice from '@/parts/CommandNotice.vue'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import QueryState from '@/parts/QueryState.vue'

/** The outside systems that stand in for real ones: the host that is told, the carriers and the scale. */
const queries = useQueryClient()
const site = computed(() => session.site)
const hostKey = computed(() => ['host', site.value])
const host = useQuery({
  queryKey: hostKey,
  queryFn: () => ask(api.GET('/api/v1/host', { params: { query: { site: site.value } } })),
})
const waits = useQuery({
  queryKey: ['outbox', site],
  queryFn: () => ask(api.GET('/api/v1/connections/outbox', { params: { query: { site: site.value } } })),
  refetchInterval: 5000,
})
const carriers = useQuery({
  queryKey: ['dispatch', 'carriers', site],
  queryFn: () => ask(api.GET('/api/v1/carriers', { params: { query: { site: site.value } } })),
})
const scale = useQuery({
  queryKey: ['pack', 'scale', site],
  queryFn: () => ask(api.GET('/api/v1/scale', { params: { query: { site: site.value } } })),
})
const open = ref(0)
const off = ref('0')
const command = useCommand()
const { busy, run } = command
/** Stand-ins are there, and may be told what to do: without them what waits is tried again and discarded all the same. */
const tells = computed(() => can('tell-host'))
const may = computed(() => can('tell-host-again'))

async function act(call: (h: { 'Idempotency-Key': string }) => Promise<Schemas['HostLine']>, say: string) {
  const now = await run(
    () => once(call),
    () => say,
  )
  if (now) queries.setQueryData(hostKey.value, now)
}
const body = () => ({ site_id: site.value })
const again = () =>
  act(
    (h) => ask(api.POST('/api/v1/host/again', { headers: h, body: body() })),
    'What waits is tried now, the oldest first.',
  )
const tellHost = (does: Exclude<Schemas['HostLine']['does'], 'unconnected'>, say: string) =>
  act((h) => ask(api.POST('/api/v1/host/tell', { headers: h, body: { ...body(), does } })), say)
const discard = (id: number) =>
  act(
    (h) => ask(api.POST('/api/v1/host/{id}/discard', { headers: h, params: { path: { id } }, body: body() })),
    'It is discarded.',
  )
async function tellCarrier(name: string, does: Schemas['CarriersCarrier']['does']) {
  await run(() => once((h) => ask(api.POST('/api/v1/carriers/tell', { headers: h, body: { ...body(), name, does } }))))
  void carriers.refetch()
}
async function tellScale(answers: boolean) {
  await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/scale/tell', {
            headers: h,
            body: { ...body(), variance_kg: Number(off.value) || 0, answers },
          }),
        ),
      ),
    () => (answers ? `The scale is ${Number(off.value) || 0} kg off true.` : 'The scale does not answer now.'),
  )
  void scale.refetch()
}
const does = {
  takes: 'takes what it is told',
  silent: 'does not answer',
  odd: 'answers oddly',
  refuses: 'refuses',
  unconnected: 'is not connected',
}
const ways = (['takes', 'silent', 'odd', 'refuses'] as const).map((value) => ({ value, label: does[value] }))
const waitingColumns: Column<Schemas['ConnectionMessage']>[] = [
  { name: 'to', label: 'To', of: (m) => (m.channel === 'carrier' ? m.receiver : m.channel) },
  { name: 'what', label: 'What', of: (m) => m.kind },
  { name: 'about', label: 'About', mono: true },
  { name: 'tried', label: 'Tried', of: (m) => m.attempts, right: true, mono: true },
  { name: 'next', label: 'Next', of: (m) => when(m.next_at), mono: true },
  { name: 'whyItWaits', label: 'Why it waits', of: (m) => m.said || 'what is before it', late: (m) => !!m.said },
]
type Told = Schemas['ConnectionMessage']
const told = computed<Told[]>(() => [...(host.data.value?.waiting ?? []), ...(host.data.value?.told ?? [])])
const toldColumns: Column<Told>[] = [
  { name: 'document', label: 'About', of: (m) => m.document, to: (m) => `/go/${m.document}`, mono: true },
  { name: 'kind', label: 'What' },
  { name: 'asked', label: 'Asked', of: (m) => when(m.asked_at), mono: true },
  {
    name: 'state',
    label: 'State',
    of: (m) => (m.state === 'done' && m.done_at ? `told ${when(m.done_at)}` : m.said || m.state),
    late: (m) => m.state === 'waiting',
  },
  { name: 'does', label: '' },
]
const carrierColumns: Column<Schemas['CarriersCarrier']>[] = [
  { name: 'carrier', label: 'Carrier', of: (c) => c.name },
  { name: 'collects', label: 'Collects', of: (c) => c.collects.join(', '), mono: true },
  { name: 'aCarton', money: true, label: 'A carton', of: (c) => c.base, right: true, mono: true },
  { name: 'aKilogram', money: true, label: 'A kilogram', of: (c) => c.per_kg, right: true, mono: true },
  { name: 'mostKg', label: 'Most kg', of: (c) => c.max_kg, right: true, mono: true },
  { name: 'whatItDoes', label: 'What it does' },
]
</script>

<template>
  <div class="page">
    <h1>
      Connections <span v-if="tells" class="mute small">stand-ins for the host system, the carriers and the scale</span>
    </h1>
    <CommandNotice :of="command" />
    <h2><span>Waiting to be sent</span></h2>
    <SheetTable
      v-if="waits.data.value?.waiting.length"
      data-waits
      :columns="waitingColumns"
      :rows="waits.data.value.waiting ?? []"
      :row-key="(m) => m.id"
      ><template #about="{ row: m }"
        ><router-link :to="`/go/${m.document}`">{{ m.document }}</router-link></template
      ></SheetTable
    >
    <div v-else class="empty">All that was to be told is told. What a receiver does not take waits here.</div>
    <QueryState v-if="!host.data.value" :query="host" />
    <template v-else>
      <h2><span>Host system</span></h2>
      <p>
        It <b>{{ does[host.data.value.does] }}</b>.
        {{
          host.data.value.waiting.length
            ? `${plural(host.data.value.waiting.length, 'message')} wait.`
            : 'Nothing waits.'
        }}
      </p>
      <div v-if="may" class="fields">
        <a-button v-if="host.data.value.waiting.length" type="primary" data-primary :disabled="busy" @click="again">
          Try {{ plural(host.data.value.waiting.length, 'message') }} now
        </a-button>
        <template v-if="tells">
          <a-button @click="tellHost('takes', 'It takes what it is told.')">Let it answer</a-button>
          <a-button @click="tellHost('silent', 'It does not answer now.')">Let it not answer</a-button>
          <a-button @click="tellHost('odd', 'It answers oddly now.')">Let it answer oddly</a-button>
        </template>
      </div>
      <div class="told" tabindex="0" role="group" aria-label="What the host is told">
        <SheetTable
          data-host
          label="What the host is told"
          :columns="toldColumns"
          :rows="told"
          :row-key="(m) => m.id"
          :opened="open ? [open] : []"
        >
          <template #kind="{ row: m }">
            <a-button
              type="link"
              size="small"
              :aria-expanded="open === m.id"
              @click="open = open === m.id ? 0 : m.id"
              >{{ m.kind }}</a-button
            >
          </template>
          <template #does="{ row: m }">
            <ConfirmButton
              v-if="may && m.state === 'waiting'"
              link
              label="Discard"
              :title="`Discard the message about ${m.document}?`"
              happens="The host is never told of it. What comes after it goes on."
              does="Discard it"
              :busy="busy"
              @confirm="discard(m.id)"
            />
          </template>
          <template #more="{ row: m }">
            <pre class="small">{{ JSON.stringify(m.body, null, 2) }}</pre>
          </template>
        </SheetTable>
      </div>
      <div v-if="!host.data.value.waiting.length && !host.data.value.told.length" class="empty">
        It is told of every shipment, when it is shipped.
      </div>
    </template>
    <h2><span>Carriers</span></h2>
    <SheetTable data-carriers :columns="carrierColumns" :rows="carriers.data.value ?? []" :row-key="(c) => c.name"
      ><template #whatItDoes="{ row: c }"
        ><ChoiceEntry
          v-if="can('tell-carrier')"
          :model-value="c.does"
          :label="`What ${c.name} does`"
          :options="ways"
          :width="190"
          @update:model-value="(w) => w && tellCarrier(c.name, w)" /></template
    ></SheetTable>
    <h2><span>Scale at the bench</span></h2>
    <p v-if="scale.data.value">
      It {{ scale.data.value.answers ? `says ${scale.data.value.variance_kg} kg too much` : 'does not answer' }}.
    </p>
    <div v-if="can('tell-scale')" class="fields">
      <FormField label="Weight differs by, kg"><QuantityEntry v-model="off" /></FormField>
      <a-button @click="tellScale(true)">Let it answer so</a-button>
      <a-button @click="tellScale(false)">Let it not answer</a-button>
    </div>
  </div>
</template>

<style scoped>
.told {
  max-height: 38vh;
  overflow-y: auto;
}
</style>
