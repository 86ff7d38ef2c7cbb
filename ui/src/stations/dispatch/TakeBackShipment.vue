<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can } from '@/api/session'
import { useCommand } from '@/parts/command'
import CommandNotice from '@/parts/CommandNotice.vue'
import { useDraft } from '@/parts/draft'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import TextEntry from '@/parts/TextEntry.vue'
import { when } from '@/parts/words'

/** A shipment that was made by mistake is taken back by a paper of its own. */
const props = defineProps<{ shipment: Schemas['ShippingShipment'] }>()
const queries = useQueryClient()
const id = computed(() => props.shipment.id)
const why = useDraft<{ reason: string }>(
  () => `shipment/${id.value}/take-back`,
  () => ({ reason: '' }),
)
const reason = computed<string>({
  get: () => why.mine.value?.reason ?? '',
  set: (text) => (why.mine.value = { reason: text }),
})
const taking = ref(false)
watch(id, () => (taking.value = false))
const open = computed(() => props.shipment.state !== 'taken_back' && (taking.value || why.changed.value))
const look = useQuery({
  queryKey: ['dispatch', 'take-back', id],
  queryFn: () => ask(api.GET('/api/v1/shipments/{id}/take-back/preview', { params: { path: { id: id.value } } })),
  enabled: open,
  retry: false,
})
const command = useCommand()
const { busy, run } = command
async function takeBack() {
  const d = await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/shipments/{id}/take-back', {
            headers: h,
            params: { path: { id: id.value } },
            body: { reason: reason.value },
          }),
        ),
      ),
    (x) => `${x.taken_back} takes ${x.number} back; its cartons stand packed again.`,
  )
  if (!d) return
  why.discard()
  taking.value = false
  await queries.invalidateQueries({ queryKey: ['dispatch'] })
}
</script>

<template>
  <p v-if="shipment.state === 'taken_back'" class="note w">
    Taken back with <b class="mono">{{ shipment.taken_back }}</b> by {{ shipment.taken_back_by }},
    {{ when(shipment.taken_back_at ?? '') }}: {{ shipment.reason }}
    <a class="btn" :href="`/api/v1/shipments/${id}/taken-back.pdf`" target="_blank" rel="noopener">Its paper</a>
  </p>
  <p v-else-if="can('take-shipment-back')">
    <a-button :aria-expanded="open" @click="taking = !taking">Take it back</a-button>
  </p>
  <EntryForm v-if="open" @submit="takeBack">
    <div v-if="look.error.value" class="note s" role="alert">{{ look.error.value.message }}</div>
    <template v-else-if="look.data.value">
      <p v-for="n in look.data.value.notes" :key="n" class="mute">{{ n }}</p>
      <div class="fields">
        <FormField label="Reason" required><TextEntry v-model="reason" :maxlength="200" :width="360" /></FormField>
        <a-button html-type="submit" :disabled="busy || !reason.trim()">{{ look.data.value.button }}</a-button>
      </div>
    </template>
  </EntryForm>
  <CommandNotice :of="command" />
</template>
