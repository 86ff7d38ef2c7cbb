<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import type { operations } from '@/api/schema'
import { can, session } from '@/api/session'
import type { Column, Sort } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import CommandNotice from '@/parts/CommandNotice.vue'
import { useDraft } from '@/parts/draft'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import PagedList from '@/parts/PagedList.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import { useServerList } from '@/parts/serverList'
import { useSure } from '@/parts/sure'
import TextEntry from '@/parts/TextEntry.vue'
import { money, when } from '@/parts/words'

/** What suppliers credit for goods that went back to them: expected, and noted as it comes. */
type Credit = Schemas['ReturnsSupplierCredit']
const site = computed(() => session.site)
const asked = computed(() => ({ site: site.value }))
type By = NonNullable<operations['list-supplier-credits']['parameters']['query']>['sort']
const sort = ref<Sort | undefined>({ by: 'since', down: true })
const list = useServerList<Credit>(
  ['returns', 'supplier-credits', asked],
  sort,
  (at) =>
    ask(api.GET('/api/v1/supplier-credits', { params: { query: { ...asked.value, ...at, sort: at.sort as By } } })),
  100,
)
const columns: Column<Credit>[] = [
  { name: 'supplier', sort: true, label: 'Supplier', of: (c) => c.supplier, width: 160 },
  { name: 'item', sort: true, label: 'Item', of: (c) => c.sku, mono: true, width: 90 },
  { name: 'quantity', label: 'Went back', of: (c) => c.quantity, right: true, mono: true, width: 90 },
  { name: 'order', label: 'With', of: (c) => c.order, to: (c) => `/returns/${c.return_id}`, mono: true, width: 90 },
  {
    name: 'expected',
    sort: true,
    label: 'Expected',
    of: (c) => money(c.expected),
    right: true,
    mono: true,
    width: 100,
  },
  { name: 'since', sort: true, label: 'Since', of: (c) => when(c.since), mono: true, width: 150 },
  { name: 'number', label: 'Credit note', of: (c) => c.number, mono: true, width: 110 },
  {
    name: 'credited',
    label: 'Credited',
    of: (c) => (c.credited ? money(c.credited) : ''),
    late: (c) => !!c.credited && c.credited !== c.expected,
    right: true,
    mono: true,
    width: 100,
  },
  { name: 'does', label: '', width: 110 },
]
interface Typed {
  of: number
  what: string
  number: string
  amount: string
}
const draft = useDraft<Typed>(
  () => `supplier-credit/${site.value}`,
  () => ({ of: 0, what: '', number: '', amount: '' }),
)
const d = computed(() => draft.mine.value!)
const begin = (c: Credit) =>
  (draft.mine.value = { of: c.id, what: `${c.quantity} of ${c.sku} to ${c.supplier}`, number: '', amount: c.expected })
const command = useCommand()
const { sure, asking, yes } = useSure(() => draft.mine.value)
async function note() {
  asking(note)
  const body = { number: d.value.number, amount: d.value.amount, sure: sure.value.length ? sure.value : undefined }
  const done = await command.run(
    () =>
      once((h) =>
        ask(api.POST('/api/v1/supplier-credits/{id}', { headers: h, params: { path: { id: d.value.of } }, body })),
      ),
    (c) => `${c.supplier} credited ${money(c.credited ?? '0')} with ${c.number}.`,
  )
  if (!done) return
  draft.discard()
  await list.query.refetch()
}
</script>

<template>
  <template v-if="list.total.value">
    <h2 style="margin-top: 18px"><span>Credits of suppliers</span></h2>
    <CommandNotice v-if="!d.of" :of="command" />
    <PagedList
      v-model:sort="sort"
      data-supplier-credits
      name="supplier-credits"
      label="Credits of suppliers"
      style="--list-height: 24vh"
      :columns="columns"
      :list="list"
      :file="`/api/v1/supplier-credits/export?site=${site}`"
      :row-key="(c) => c.id"
    >
      <template #does="{ row: c }">
        <a-button
          v-if="!c.number && can('note-supplier-credit')"
          type="link"
          size="small"
          :aria-label="`It came: the credit for ${c.sku}`"
          @click="begin(c)"
          >It came</a-button
        >
      </template>
    </PagedList>
    <EntryForm v-if="d.of" data-note-credit :problem="command.problem.value" @sure="yes">
      <p>For {{ d.what }}:</p>
      <div class="fields">
        <FormField label="Their credit note" field="number" required
          ><TextEntry v-model="d.number" mono :width="160" :maxlength="60"
        /></FormField>
        <FormField label="Amount before tax" field="amount" required><QuantityEntry v-model="d.amount" /></FormField>
        <a-button type="primary" :disabled="command.busy.value" @click="note">Note it</a-button>
        <a-button @click="draft.discard()">Discard</a-button>
      </div>
    </EntryForm>
  </template>
</template>
