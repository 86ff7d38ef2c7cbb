<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import { usePreview } from '@/parts/preview'
import SheetTable from '@/parts/SheetTable.vue'
import { money } from '@/parts/words'

/** The money that the customer gets for a return, line by line, before it is credited. */
const props = defineProps<{ of: Schemas['ReturnsReturn'] }>()
const emit = defineEmits<{ settled: [] }>()
const mail = ref(false)
const path = computed(() => ({ path: { id: props.of.id } }))
const look = usePreview(
  'settle-return',
  computed(() => ({ version: props.of.version, mail: mail.value || undefined })),
  (b) => ask(api.POST('/api/v1/returns/{id}/settle/preview', { params: path.value, body: b })),
)
const { busy, problem, run } = useCommand()
async function settle() {
  const done = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/returns/{id}/settle', {
          headers: h,
          params: path.value,
          body: { version: props.of.version, mail: mail.value || undefined },
        }),
      ),
    ),
  )
  if (done) emit('settled')
}
const columns: Column<Schemas['InvoicingReturnPlanLine']>[] = [
  { name: 'item', label: 'Item', of: (l) => l.sku, mono: true },
  { name: 'shipment', label: 'Delivery note', of: (l) => l.shipment, mono: true },
  { name: 'invoice', label: 'Invoice', of: (l) => l.invoice, mono: true },
  { name: 'given', label: 'Not invoiced', of: (l) => l.given_up, right: true, mono: true },
  { name: 'credited', label: 'Credited', of: (l) => l.credited, right: true, mono: true },
  { name: 'price', label: 'At', of: (l) => money(l.price), right: true, mono: true },
  { name: 'amount', label: 'Amount', of: (l) => money(l.amount), right: true, mono: true },
]
</script>

<template>
  <section data-settle aria-label="To be settled">
    <h2><span>To be settled</span></h2>
    <template v-if="look.plan.value">
      <SheetTable
        label="What is credited"
        :columns="columns"
        :rows="look.plan.value.lines"
        :row-key="(l) => l.sku + l.shipment"
      />
      <p v-for="n in look.plan.value.notes" :key="n" class="note g">{{ n }}</p>
      <p>
        {{ money(look.plan.value.net) }} before tax<template v-for="t in look.plan.value.taxes" :key="t.pct"
          >, {{ money(t.amount) }} of tax at {{ t.pct }} %</template
        >: <b class="mono">{{ money(look.plan.value.total) }}</b> in all.
      </p>
    </template>
    <p v-if="problem ?? look.problem.value" class="note s" role="alert" data-problem>
      {{ (problem ?? look.problem.value)?.message }}
    </p>
    <p>
      <a-checkbox v-model:checked="mail">Mail the credit note</a-checkbox>
    </p>
    <a-button type="primary" :disabled="!look.plan.value || !look.fresh.value || busy" @click="settle">
      {{ look.plan.value?.button ?? 'Settle it' }}
    </a-button>
  </section>
</template>
