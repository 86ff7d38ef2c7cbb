<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import { useCommand } from '@/parts/command'
import { since } from '@/parts/words'
import TextEntry from '@/parts/TextEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'

/** Goods in cartons that their orders do not want any more: each goes back into a bin. */
const queries = useQueryClient()
const site = computed(() => session.site)
const tasks = useQuery({
  queryKey: ['putaway', 'restocks', site],
  queryFn: () => ask(api.GET('/api/v1/restocks', { params: { query: { site: site.value } } })),
})
const bins = ref<Record<number, string>>({})
const { busy, problem, done, run } = useCommand()
async function put(t: Schemas['PutawayRestock']) {
  const bin = bins.value[t.id] ?? t.from
  const x = await run(
    () =>
      once((h) =>
        ask(api.POST('/api/v1/restocks/{id}', { headers: h, params: { path: { id: t.id } }, body: { bin } })),
      ),
    () => `${t.quantity} of ${t.sku} are back in ${bin}.`,
  )
  if (x) await queries.invalidateQueries({ queryKey: ['putaway'] })
}
const columns: Column<Schemas['PutawayRestock']>[] = [
  { name: 'outOfCarton', label: 'Out of carton' },
  { name: 'item', label: 'Item' },
  { name: 'quantity', label: 'Quantity', of: (t) => t.quantity, right: true, mono: true },
  { name: 'intoBin', label: 'Into bin' },
  { name: 'does', label: '' },
]
</script>

<template>
  <template v-if="tasks.data.value?.length || done">
    <h2>
      <span>To be returned to stock</span><span>{{ tasks.data.value?.length ?? 0 }}</span>
    </h2>
    <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
    <div v-if="done" class="note g" role="status">{{ done }}</div>
    <SheetTable
      v-if="tasks.data.value?.length"
      data-restocks
      :columns="columns"
      :rows="tasks.data.value ?? []"
      :row-key="(t) => t.id"
      ><template #outOfCarton="{ row: t }"
        ><router-link class="mono" :to="`/pack/${t.carton_id}`">…{{ t.sscc.slice(-5) }}</router-link> at
        {{ t.location }}, of {{ t.order }}</template
      ><template #item="{ row: t }"
        >{{ t.description }} <span class="mono mute small">{{ t.sku }} {{ t.lot }} {{ t.serial }}</span>
        <div class="mute small">{{ t.asked_by }}, {{ since(t.asked_at) }} ago</div></template
      ><template #intoBin="{ row: t }"
        ><TextEntry
          :model-value="bins[t.id] ?? t.from"
          :label="`Bin for ${t.sku}`"
          mono
          :width="116"
          @input="bins[t.id] = ($event.target as HTMLInputElement).value" /></template
      ><template #does="{ row: t }"
        ><a-button v-if="can('restock')" :disabled="busy" @click="put(t)">Return it to stock</a-button></template
      ></SheetTable
    >
  </template>
</template>
