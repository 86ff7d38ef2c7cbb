<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import { useCommand } from '@/parts/command'
import { plural, when } from '@/parts/words'
import { labelsLeft } from './labels'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'
import CommandNotice from '@/parts/CommandNotice.vue'
import QueryState from '@/parts/QueryState.vue'

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
const command = useCommand()
const { busy, run } = command

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
const waitingColumns: Column<Schemas['LabelsJob']>[] = [
  { name: 'label', label: 'Label' },
  { name: 'whatItsSymbol', label: 'What its symbol says', of: (j) => j.label.words, mono: true },
  { name: 'for', label: 'For', mono: true },
  { name: 'printed', label: 'Printed', right: true, mono: true },
  { name: 'does', label: '' },
]
const printedColumns: Column<Schemas['LabelsJob']>[] = [
  { name: 'label', label: 'Label', of: (j) => j.title },
  { name: 'document', label: 'For', of: (j) => j.document, to: (j) => `/go/${j.document}`, mono: true },
  { name: 'printed', label: 'Printed', of: (j) => `${j.printed} of ${j.copies}`, right: true, mono: true },
  { name: 'person', label: 'Asked for', of: (j) => `${j.person}, ${when(j.asked_at)}` },
  { name: 'does', label: '' },
]
</script>

<template>
  <div class="page">
    <h1>Label printer <span class="mute small">a stand-in for a real one</span></h1>
    <QueryState v-if="!q" :query="printer" />
    <template v-else>
      <p>
        <b class="mono">{{ q.paper }}</b> labels are on the roll{{ q.answers ? '' : ', and it does not answer' }}.
        {{ left ? `${plural(left, 'label')} ${left === 1 ? 'waits' : 'wait'}.` : 'Nothing waits.' }}
      </p>
      <div v-if="can('print-labels')" class="fields">
        <a-button type="primary" data-primary :disabled="busy || !left" @click="print()">
          Print {{ plural(left, 'label') }}
        </a-button>
        <a-button :disabled="busy" @click="tell({ paper: 200 }, 'A new roll is in.')"> Put a new roll in </a-button>
      </div>
      <CommandNotice :of="command" />

      <h2 class="part">Waiting</h2>
      <SheetTable
        v-if="q.waiting.length"
        data-waiting
        :columns="waitingColumns"
        :rows="q.waiting"
        :row-key="(j) => j.id"
        ><template #label="{ row: j }"
          ><b>{{ j.title }}</b>
          <div class="mute small">{{ j.label.description }}, {{ j.label.pack }}</div>
          <div v-if="j.stopped" class="late small">{{ j.stopped }}</div>
          <div v-else-if="j.sent" class="mute small">with the printer</div></template
        ><template #for="{ row: j }"
          ><router-link :to="`/go/${j.document}`">{{ j.document }}</router-link></template
        ><template #printed="{ row: j }">{{ j.printed }} of {{ j.copies }}</template
        ><template #does="{ row: j }"
          ><a :href="`/api/v1/printer/jobs/${j.id}/label.pdf`" target="_blank" rel="noopener">Show</a>
          <a-button v-if="can('print-labels')" type="link" size="small" :disabled="busy" @click="print([j.id])"
            >Print</a-button
          >
          <a-button v-if="can('discard-label')" type="link" size="small" :disabled="busy" @click="one('discard', j.id)"
            >Discard</a-button
          ></template
        ></SheetTable
      >
      <div v-else class="empty">Labels come up here when goods are received.</div>

      <template v-if="q.recent.length">
        <h2 class="part">Printed last</h2>
        <SheetTable :columns="printedColumns" :rows="q.recent" :row-key="(j) => j.id"
          ><template #does="{ row: j }"
            ><a :href="`/api/v1/printer/jobs/${j.id}/label.pdf`" target="_blank" rel="noopener">Show</a>
            <a-button
              v-if="can('print-label-again')"
              type="link"
              size="small"
              :disabled="busy"
              @click="one('again', j.id)"
              >Print one more</a-button
            ></template
          ></SheetTable
        >
      </template>

      <details class="part">
        <summary>What this stand-in can be told</summary>
        <div v-if="can('tell-printer')" class="fields">
          <a-button @click="tell({ paper: 3 }, 'Three labels are left on the roll.')">
            Leave three labels on the roll
          </a-button>
          <a-button v-if="q.answers" @click="tell({ answers: false }, 'It does not answer now.')">
            Do not answer
          </a-button>
          <a-button v-else @click="tell({ answers: true }, 'It answers again.')">Answer again</a-button>
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
