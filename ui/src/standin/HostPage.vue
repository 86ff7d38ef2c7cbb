<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { useCommand } from '@/parts/preview'
import { plural, when } from '@/parts/words'

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
const { busy, problem, done, run } = useCommand()
const may = computed(() => ['lead', 'office'].includes(session.person?.role ?? ''))

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
const tellHost = (does: Schemas['HostLine']['does'], say: string) =>
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
const does = { takes: 'takes what it is told', silent: 'does not answer', odd: 'answers oddly', refuses: 'refuses' }
const ways = ['takes', 'silent', 'odd', 'refuses'] as const
</script>

<template>
  <div class="page">
    <h1>Connections <span class="mute small">stand-ins for the host system, the carriers and the scale</span></h1>
    <div v-if="done" class="note g" role="status">{{ done }}</div>
    <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
    <h2><span>Waiting to be sent</span></h2>
    <table v-if="waits.data.value?.waiting.length" class="plain" data-waits>
      <thead>
        <tr>
          <th>To</th>
          <th>What</th>
          <th>About</th>
          <th class="r">Tried</th>
          <th>Next</th>
          <th>Why it waits</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="m in waits.data.value.waiting" :key="m.id">
          <td>{{ m.channel === 'carrier' ? m.receiver : m.channel }}</td>
          <td>{{ m.kind }}</td>
          <td class="mono">
            <router-link :to="`/go/${m.document}`">{{ m.document }}</router-link>
          </td>
          <td class="r mono">{{ m.attempts }}</td>
          <td class="mono">{{ when(m.next_at) }}</td>
          <td :class="{ late: m.said }">{{ m.said || 'what is before it' }}</td>
        </tr>
      </tbody>
    </table>
    <div v-else class="empty">All that was to be told is told. What a receiver does not take waits here.</div>
    <template v-if="host.data.value">
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
        <button class="btn go" data-primary :disabled="busy || !host.data.value.waiting.length" @click="again">
          Try {{ plural(host.data.value.waiting.length, 'message') }} now
        </button>
        <button class="btn" @click="tellHost('takes', 'It takes what it is told.')">Let it answer</button>
        <button class="btn" @click="tellHost('silent', 'It does not answer now.')">Let it not answer</button>
        <button class="btn" @click="tellHost('odd', 'It answers oddly now.')">Let it answer oddly</button>
      </div>
      <div class="told" tabindex="0" role="group" aria-label="What the host is told">
        <table class="plain" data-host>
          <thead>
            <tr>
              <th>About</th>
              <th>What</th>
              <th>Asked</th>
              <th>State</th>
              <th><span class="skip">What to do</span></th>
            </tr>
          </thead>
          <tbody>
            <template v-for="m in [...host.data.value.waiting, ...host.data.value.told]" :key="m.id">
              <tr>
                <td class="mono">
                  <router-link :to="`/go/${m.document}`">{{ m.document }}</router-link>
                </td>
                <td>
                  <button class="btn bare" :aria-expanded="open === m.id" @click="open = open === m.id ? 0 : m.id">
                    {{ m.kind }}
                  </button>
                </td>
                <td>{{ when(m.asked_at) }}</td>
                <td :class="{ late: m.state === 'waiting' }">
                  {{ m.state === 'done' && m.done_at ? `told ${when(m.done_at)}` : m.said || m.state }}
                </td>
                <td>
                  <button v-if="may && m.state === 'waiting'" class="btn bare" @click="discard(m.id)">discard</button>
                </td>
              </tr>
              <tr v-if="open === m.id">
                <td colspan="5">
                  <pre class="small">{{ JSON.stringify(m.body, null, 2) }}</pre>
                </td>
              </tr>
            </template>
          </tbody>
        </table>
      </div>
      <div v-if="!host.data.value.waiting.length && !host.data.value.told.length" class="empty">
        It is told of every shipment, when it is sent.
      </div>
    </template>
    <h2><span>Carriers</span></h2>
    <table class="plain" data-carriers>
      <thead>
        <tr>
          <th>Carrier</th>
          <th>Collects</th>
          <th class="r">A carton</th>
          <th class="r">A kilogram</th>
          <th class="r">Most kg</th>
          <th>What it does</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in carriers.data.value" :key="c.name">
          <td>{{ c.name }}</td>
          <td class="mono">{{ c.collects.join(', ') }}</td>
          <td class="r mono">{{ c.base }}</td>
          <td class="r mono">{{ c.per_kg }}</td>
          <td class="r mono">{{ c.max_kg }}</td>
          <td>
            <select
              class="entry"
              :value="c.does"
              :aria-label="`What ${c.name} does`"
              @change="tellCarrier(c.name, ($event.target as HTMLSelectElement).value as 'takes')"
            >
              <option v-for="w in ways" :key="w" :value="w">{{ does[w] }}</option>
            </select>
          </td>
        </tr>
      </tbody>
    </table>
    <h2><span>Scale at the bench</span></h2>
    <p v-if="scale.data.value">
      It {{ scale.data.value.answers ? `says ${scale.data.value.variance_kg} kg too much` : 'does not answer' }}.
    </p>
    <div class="fields">
      <label class="field">Off by, kg<input v-model="off" class="mono" size="6" /></label>
      <button class="btn" @click="tellScale(true)">Let it answer so</button>
      <button class="btn" @click="tellScale(false)">Let it not answer</button>
    </div>
  </div>
</template>

<style scoped>
.told {
  max-height: 38vh;
  overflow-y: auto;
}
</style>
