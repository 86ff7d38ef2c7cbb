<script setup lang="ts">
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import FindEntry from './FindEntry.vue'

/** Finds an item by SKU, GTIN or words, with its figures beside it. */
const props = defineProps<{
  label: string
  width?: number
  /** Whose offers come with what is found. */
  supplier?: number
}>()
const emit = defineEmits<{ choose: [found: Schemas['CatalogItemStock']] }>()
const find = async (text: string, signal: AbortSignal) =>
  (
    await ask(
      api.GET('/api/v1/items', {
        params: { query: { q: text, site: session.site, supplier: props.supplier } },
        signal,
      }),
    )
  ).map((found) => ({
    value: found.item.id,
    label: found.item.sku,
    code: [found.item.sku, ...found.item.packs.flatMap((p) => p.gtin ?? [])],
    of: found,
  }))
</script>

<template>
  <FindEntry
    :label="label"
    :placeholder="`${label}: SKU, GTIN or words`"
    :width="width"
    :find="find"
    clears
    @choose="(o) => emit('choose', o.of)"
  >
    <template #option="{ of }">
      <span class="o">
        <b class="mono">{{ of.item.sku }}</b><span class="t">{{ of.item.description }}</span>
        <span class="mono f"
          >{{ of.figures.on_hand }} on hand, {{ of.figures.free }} free, {{ of.figures.on_order }} on order</span
        >
      </span>
    </template>
  </FindEntry>
</template>

<style scoped>
.o {
  display: flex;
  gap: 12px;
}
.t {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
}
.f {
  color: var(--mute);
  font-size: 12.5px;
}
</style>
