<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask } from '@/api/client'
import { session } from '@/api/session'

/** The lines of an order that wait for a round, each with a tick; those without are left for another. */
const props = defineProps<{ order: number; number: string }>()
const left = defineModel<number[]>({ required: true })
const open = useQuery({
  queryKey: ['pick', 'open', computed(() => ({ site: session.site, order: props.order }))],
  queryFn: () => ask(api.GET('/api/v1/pick/open', { params: { query: { site: session.site, order: props.order } } })),
})
const parts = computed(() => open.data.value?.orders[0]?.parts ?? [])
const toggle = (line: number) =>
  (left.value = left.value.includes(line) ? left.value.filter((l) => l !== line) : [...left.value, line])
</script>

<template>
  <tr v-for="p in parts" :key="p.line_id" class="part" data-part>
    <td></td>
    <td>
      <label
        ><input
          class="tick"
          type="checkbox"
          :checked="!left.includes(p.line_id)"
          :aria-label="`Take ${p.sku} of ${number}`"
          @change="toggle(p.line_id)"
        />
        <span class="mono">{{ p.sku }}</span> <span class="mute small">{{ p.description }}</span></label
      >
    </td>
    <td colspan="3" class="small mono">{{ p.bins.join(', ') }}</td>
    <td class="r mono">{{ p.units }}</td>
    <td class="r mono" :class="{ late: Number(p.can_go) < Number(p.units) }">{{ p.can_go }}</td>
    <td colspan="3"></td>
  </tr>
</template>

<style scoped>
.part td {
  vertical-align: middle;
  background: var(--paper);
}
.part label {
  display: flex;
  gap: 8px;
  align-items: center;
}
.tick {
  width: 20px;
  height: 20px;
  flex: none;
}
</style>
