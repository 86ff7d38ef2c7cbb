<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can } from '@/api/session'
import { useCommand } from '@/parts/command'
import { usePreview } from '@/parts/preview'
import { stateWords, unitsWords, when } from '@/parts/words'
import FormField from '@/parts/FormField.vue'
import TextEntry from '@/parts/TextEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'

/** What was received on an arrival; a mistake is taken back by a counter-move. */
const props = defineProps<{ arrival: Schemas['ReceiveArrival'] }>()
const emit = defineEmits<{ undone: [] }>()
const chosen = ref(0)
const reason = ref('')
const { busy, problem, run } = useCommand()
const body = computed(() =>
  chosen.value ? { version: props.arrival.version, move_id: chosen.value, reason: reason.value } : null,
)
const {
  plan,
  problem: refused,
  fresh,
} = usePreview('undo', body, (b) =>
  ask(api.POST('/api/v1/arrivals/{id}/undo/preview', { params: { path: { id: props.arrival.id } }, body: b })),
)

async function undo() {
  const b = body.value
  if (!b) return
  const done = await run(() =>
    once((h) =>
      ask(api.POST('/api/v1/arrivals/{id}/undo', { headers: h, params: { path: { id: props.arrival.id } }, body: b })),
    ),
  )
  if (!done) return
  chosen.value = 0
  reason.value = ''
  emit('undone')
}
/** What a condition says beside a receipt; good goods say nothing. */
const conditions: Record<string, string> = { good: '', waiting: 'waits', on_hold: 'to be inspected' }
const condition: Column<Schemas['ReceiveReceipt']> = {
  name: 'condition',
  label: 'Condition',
  of: (b) => conditions[b.condition] ?? stateWords(b.condition),
}
const columns = computed<Column<Schemas['ReceiveReceipt']>[]>(() => [
  { name: 'at', label: 'When', of: (b) => when(b.at), mono: true },
  { name: 'person', label: 'Who', of: (b) => b.person },
  { name: 'sku', label: 'Item', of: (b) => b.sku, mono: true },
  { name: 'lot', label: 'Lot or units' },
  ...(props.arrival.receipts.some((b) => b.condition !== 'good') ? [condition] : []),
  { name: 'quantity', label: 'Quantity', of: (b) => b.quantity, right: true, mono: true },
  { name: 'does', label: '' },
])
</script>

<template>
  <template v-if="arrival.receipts.length">
    <h2 class="part"><span>Received on this arrival</span></h2>
    <SheetTable
      data-receipts
      :columns="columns"
      :rows="arrival.receipts"
      :row-key="(b) => b.move_id"
      :now="(b) => !!(chosen === b.move_id)"
      ><template #lot="{ row: b }"
        ><span class="mono several"
          >{{ b.lot ?? (b.serials.length ? unitsWords(b.serials) : '') }}
          <span v-if="b.carton" class="mute">on …{{ b.carton.slice(-4) }}</span></span
        ></template
      ><template #does="{ row: b }"
        ><span v-if="b.undone_at" class="mute">taken back: {{ b.reason }}</span>
        <a-button
          v-else-if="can('undo-receipt')"
          type="link"
          size="small"
          @click="chosen = chosen === b.move_id ? 0 : b.move_id"
        >
          {{ chosen === b.move_id ? 'Keep it' : 'Take back' }}
        </a-button></template
      ></SheetTable
    >
    <div v-if="chosen" class="fields">
      <FormField label="Why it is taken back" required><TextEntry v-model="reason" :width="332" /></FormField>
      <a-button type="primary" :disabled="busy || !plan || !fresh" @click="undo">
        {{ plan?.button ?? 'Take it back' }}
      </a-button>
      <span v-for="m in plan?.moves" :key="m.from" class="mute small"
        ><span class="mono">{{ m.from }}</span
        >: {{ m.from_before }} becomes {{ m.from_after }}</span
      >
    </div>
    <div v-if="problem ?? refused" class="note s" role="alert">{{ (problem ?? refused)?.message }}</div>
  </template>
</template>

<style scoped>
.several {
  white-space: normal;
}
.part {
  margin-top: 18px;
}
.fields {
  margin-top: 10px;
  align-items: flex-end;
}
</style>
