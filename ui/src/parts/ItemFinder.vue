<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useExpanded } from './expanded'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'

/** Finds an item by SKU, GTIN or words, with its figures beside it. */
defineProps<{ label: string }>()
const emit = defineEmits<{ choose: [found: Schemas['CatalogItemStock']] }>()
const text = ref('')
const root = ref<HTMLElement>()
const open = useExpanded(root)
const rested = refDebounced(text, 150)
const items = useQuery({
  queryKey: ['stock', 'items', rested, computed(() => session.site)],
  queryFn: () => ask(api.GET('/api/v1/items', { params: { query: { q: rested.value, site: session.site } } })),
})
const options = computed(() => (items.data.value ?? []).map((i) => ({ value: i.item.sku, found: i })))

function choose(sku: unknown) {
  const found = items.data.value?.find((i) => i.item.sku === sku)
  text.value = ''
  if (found) emit('choose', found)
}
</script>

<template>
  <div ref="root">
    <a-auto-complete
      v-model:value="text"
      :options="options"
      style="width: 100%"
      :default-active-first-option="true"
      @select="choose"
      @dropdown-visible-change="(o: boolean) => (open = o)"
    >
      <a-input :aria-label="label" :placeholder="`${label}: SKU, GTIN or words`" />
      <template #option="{ found }">
        <div class="o">
          <b class="mono">{{ found.item.sku }}</b><span class="t">{{ found.item.description }}</span>
          <span class="mono f"
            >{{ found.figures.physical }} on hand, {{ found.figures.free }} free, {{ found.figures.on_order }} on
            order</span
          >
        </div>
      </template>
    </a-auto-complete>
  </div>
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
