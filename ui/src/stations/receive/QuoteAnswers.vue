<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { can } from '@/api/session'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import CommandNotice from '@/parts/CommandNotice.vue'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import FormField from '@/parts/FormField.vue'
import PartyFinder from '@/parts/PartyFinder.vue'
import SheetTable from '@/parts/SheetTable.vue'
import { money, stateWords } from '@/parts/words'

/** Suppliers that are asked for a request, and what they answer, line by line beside each other. */
const props = defineProps<{ order: Schemas['PurchasingOrder'] }>()
type Line = Schemas['PurchasingLine']
type Answer = Schemas['PurchasingAnswer']
const queries = useQueryClient()
const router = useRouter()
const id = computed(() => props.order.id)
const answers = useQuery({
  queryKey: ['receive', 'answers', id],
  queryFn: () => ask(api.GET('/api/v1/purchase-orders/{id}/answers', { params: { path: { id: id.value } } })),
})
const all = computed(() => answers.data.value ?? [])
const supplier = ref<Schemas['CatalogParty']>()
const command = useCommand()
const { busy, run } = command
const mayAsk = computed(() => props.order.state === 'draft' && can('ask-suppliers'))
async function askSupplier() {
  const party = supplier.value
  if (!party) return
  const asked = await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/purchase-orders/{id}/ask', {
            headers: h,
            params: { path: { id: id.value } },
            body: { supplier_ids: [party.id] },
          }),
        ),
      ),
    () => `${party.name} is asked. Mail or print its quote, and write its prices there when it answers.`,
  )
  if (!asked) return
  queries.setQueryData(['receive', 'answers', id.value], asked)
  supplier.value = undefined
}
async function choose(a: Answer) {
  const order = await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/purchase-orders/{id}/choose', {
            headers: h,
            params: { path: { id: id.value } },
            body: { quote_id: a.id },
          }),
        ),
      ),
    (o) => `${o.number} is sent to ${o.supplier}.`,
  )
  if (!order) return
  await queries.invalidateQueries({ queryKey: ['receive'] })
  void router.push(`/receive/order/${order.id}`)
}
const lineOf = (a: Answer, l: Line) => a.lines.find((x) => x.line_id === l.id)
const columns = computed<Column<Line>[]>(() => [
  { name: 'item', label: 'Asked for', of: (l) => l.sku || l.description },
  { name: 'quantity', label: 'Quantity', of: (l) => `${l.quantity} ${l.unit}`, right: true, mono: true },
  ...all.value.map((a) => ({ name: `of${a.id}`, label: a.supplier, right: true, mono: true })),
])
const others = (a: Answer) => all.value.filter((x) => x.id !== a.id && x.state === 'draft').map((x) => x.number)
</script>

<template>
  <section v-if="mayAsk || all.length" class="answers" aria-label="Suppliers asked">
    <h2><span>Suppliers asked for their prices</span></h2>
    <SheetTable
      v-if="all.length"
      data-answers
      label="Suppliers asked for their prices"
      :columns="columns"
      :rows="order.lines"
      :row-key="(l) => l.id"
    >
      <template v-for="a in all" :key="a.id" #[`of${a.id}`]="{ row: l }">
        <template v-if="!a.quote || !lineOf(a, l)?.offered"><span class="mute">none</span></template>
        <template v-else>
          <component :is="lineOf(a, l)!.least ? 'b' : 'span'">{{ lineOf(a, l)!.price }}</component>
          <div v-if="lineOf(a, l)!.least && all.length > 1" class="small least">the least</div>
          <div v-if="lineOf(a, l)!.quantity !== l.quantity" class="small late">for {{ lineOf(a, l)!.quantity }}</div>
        </template>
      </template>
    </SheetTable>
    <div v-for="a in all" :key="a.id" class="answer" :data-answer="a.id">
      <span class="says">
        <router-link class="mono" :to="`/receive/order/${a.id}`">{{ a.number }}</router-link>
        <b>{{ a.supplier }}</b>
        <span v-if="a.quote"
          >quote {{ a.quote }}, <b class="mono">{{ money(a.value) }}</b> in all, expected {{ a.expected_on
          }}<template v-if="a.quote_until">, valid until {{ a.quote_until }}</template></span
        >
        <span v-else class="mute">has not answered</span>
        <span v-if="a.state !== 'draft'" class="mute">{{ stateWords(a.state) }}</span>
      </span>
      <ConfirmButton
        v-if="a.quote && a.state === 'draft' && order.state === 'draft' && can('choose-quote')"
        :label="`Order from ${a.supplier}`"
        :title="`Order from ${a.supplier}?`"
        :happens="`${a.number} is sent to ${a.supplier} over ${money(a.value)}. Closed with it: ${[order.number, ...others(a)].join(', ')}.`"
        does="Send the order"
        :busy="busy"
        @confirm="choose(a)"
      />
    </div>
    <div v-if="mayAsk" class="fields">
      <FormField
        label="Ask another supplier"
        tip="It gets a quote of its own with these lines, to be mailed or printed."
        ><PartyFinder v-model="supplier" kind="supplier"
      /></FormField>
      <a-button :disabled="!supplier || busy" @click="askSupplier">Ask for prices</a-button>
    </div>
    <CommandNotice :of="command" />
  </section>
</template>

<style scoped>
.answers {
  margin-top: 16px;
}
.answer {
  display: flex;
  gap: 10px;
  align-items: center;
  justify-content: space-between;
  margin: 8px 0;
}
.says > * {
  margin-right: 10px;
}
.least {
  color: var(--act-ink);
}
</style>
