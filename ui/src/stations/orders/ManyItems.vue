<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import type { Column } from '@/parts/columns'
import FormField from '@/parts/FormField.vue'
import ListTable from '@/parts/ListTable.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import TextEntry from '@/parts/TextEntry.vue'
import { plural } from '@/parts/words'

/** Many lines at once: a list of items, narrowed by words, with how many of each. */
const emit = defineEmits<{ add: [lines: [item: Schemas['CatalogItem'], quantity: string][]] }>()
type Found = Schemas['CatalogItemStock']
const words = ref('')
const rested = refDebounced(words, 200)
const items = useQuery({
  queryKey: ['stock', 'items', rested, computed(() => session.site), 'many'],
  queryFn: () =>
    ask(api.GET('/api/v1/items', { params: { query: { q: rested.value, site: session.site, limit: 100 } } })),
  // What is on the list stays until the narrower one is there: somebody may be typing in it.
  placeholderData: keepPreviousData,
})
const wanted = ref(new Map<number, { item: Schemas['CatalogItem']; quantity: string }>())
const chosen = computed(() => [...wanted.value.values()].filter((w) => Number(w.quantity) > 0))
const set = (f: Found, quantity: string | undefined) =>
  wanted.value.set(f.item.id, { item: f.item, quantity: quantity ?? '' })
function add() {
  emit(
    'add',
    chosen.value.map((w) => [w.item, w.quantity]),
  )
  wanted.value = new Map()
}
const columns: Column<Found>[] = [
  { name: 'quantity', label: 'Quantity', width: 110 },
  { name: 'sku', label: 'Item', of: (f) => f.item.sku, mono: true, width: 120 },
  { name: 'description', label: 'Description', of: (f) => f.item.description, width: 280 },
  { name: 'free', label: 'Free', of: (f) => f.figures.free, right: true, mono: true, width: 90 },
]
</script>

<template>
  <div class="many">
    <div class="fields">
      <FormField label="Words or SKU"><TextEntry v-model="words" :width="242" /></FormField>
      <a-button type="primary" :disabled="!chosen.length" @click="add"
        >Add {{ plural(chosen.length, 'line') }}</a-button
      >
    </div>
    <ListTable
      name="many-items"
      label="Items to add"
      style="--list-height: 300px"
      :columns="columns"
      :rows="items.data.value ?? []"
      :row-key="(f) => f.item.id"
    >
      <template #quantity="{ row: f }">
        <QuantityEntry
          size="small"
          :model-value="wanted.get(f.item.id)?.quantity ?? ''"
          :label="`${f.item.sku} how many`"
          @update:model-value="(q) => set(f, q)"
        />
      </template>
    </ListTable>
  </div>
</template>

<style scoped>
.many {
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 10px 12px;
  margin-top: 8px;
}
</style>
