<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import type { useCommand } from '@/parts/command'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import TextEntry from '@/parts/TextEntry.vue'

/** Goods are moved from the carton at the bench into another of its order, thing by thing as they are scanned. */
const props = defineProps<{ id: number; command: ReturnType<typeof useCommand> }>()
const emit = defineEmits<{ moved: [] }>()
const other = ref('')
const thing = ref('')
const quantity = ref('1')
watch(
  () => props.id,
  () => (other.value = thing.value = ''),
)
const repack = (from: number, body: Schemas['PackRepacking']) =>
  props.command.run(
    () =>
      once((h) => ask(api.POST('/api/v1/cartons/{id}/repack', { headers: h, params: { path: { id: from } }, body }))),
    (x) => `${x.quantity} of ${x.sku} moved from …${x.from.sscc.slice(-4)} into …${x.to.sscc.slice(-4)}.`,
  )

async function move() {
  const asked = { to: other.value.trim(), scan: thing.value.trim(), quantity: quantity.value || undefined }
  if (!asked.to || !asked.scan) return
  const moved = await repack(props.id, asked)
  if (!moved) return
  thing.value = ''
  quantity.value = '1'
  props.command.offerUndo(async () => {
    await repack(moved.to.id, { ...asked, to: moved.from.sscc })
    emit('moved')
  })
  emit('moved')
}
</script>

<template>
  <details class="repack">
    <summary>Move goods to another carton</summary>
    <EntryForm @submit="move">
      <div class="fields">
        <FormField label="Label of the other carton" tip="One of the same order at the bench, or a blank label."
          ><TextEntry v-model="other" mono :width="200"
        /></FormField>
        <FormField label="Scan what is moved"><TextEntry v-model="thing" mono :width="180" /></FormField>
        <FormField label="How many"><QuantityEntry v-model="quantity" :width="72" /></FormField>
        <a-button html-type="submit" :disabled="command.busy.value || !other || !thing">Move</a-button>
      </div>
    </EntryForm>
  </details>
</template>

<style scoped>
.repack {
  margin: 8px 0;
}
summary {
  cursor: pointer;
  min-height: 24px;
}
</style>
