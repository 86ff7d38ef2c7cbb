<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { useCommand, usePreview } from '@/parts/preview'
import { unitsWords, when } from '@/parts/words'

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
</script>

<template>
  <template v-if="arrival.receipts.length">
    <h2 class="part"><span>Received on this arrival</span></h2>
    <table class="plain small" data-receipts>
      <tbody>
        <tr v-for="b in arrival.receipts" :key="b.move_id" :class="{ now: chosen === b.move_id }">
          <td class="mono">{{ when(b.at) }}</td>
          <td>{{ b.person }}</td>
          <td class="mono">{{ b.sku }}</td>
          <td class="mono" :title="b.serials.join(', ')">
            {{ b.lot ?? (b.serials.length ? unitsWords(b.serials) : '') }}
            <span v-if="b.carton" class="mute">on …{{ b.carton.slice(-4) }}</span>
          </td>
          <td>{{ { good: '', waiting: 'waits', on_hold: 'to be inspected' }[b.condition] ?? b.condition }}</td>
          <td class="r mono">{{ b.quantity }}</td>
          <td>
            <span v-if="b.undone_at" class="mute">taken back: {{ b.reason }}</span>
            <button v-else class="btn bare" @click="chosen = chosen === b.move_id ? 0 : b.move_id">
              {{ chosen === b.move_id ? 'let it stand' : 'take back' }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="chosen" class="fields">
      <label class="field">Why<input v-model="reason" size="34" aria-label="Why it is taken back" /></label>
      <button class="btn go" :disabled="busy || !plan || !fresh" @click="undo">
        {{ plan?.button ?? 'Take it back' }}
      </button>
      <span v-for="m in plan?.moves" :key="m.from" class="mute small"
        ><span class="mono">{{ m.from }}</span
        >: {{ m.from_before }} becomes {{ m.from_after }}</span
      >
    </div>
    <div v-if="problem ?? refused" class="note s" role="alert">{{ (problem ?? refused)?.message }}</div>
  </template>
</template>

<style scoped>
.part {
  margin-top: 18px;
}
.fields {
  margin-top: 10px;
  align-items: flex-end;
}
</style>
