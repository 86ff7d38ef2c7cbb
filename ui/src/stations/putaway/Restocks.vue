<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { useCommand } from '@/parts/preview'
import { since } from '@/parts/words'

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
</script>

<template>
  <template v-if="tasks.data.value?.length || done">
    <h2>
      <span>To be returned to stock</span><span>{{ tasks.data.value?.length ?? 0 }}</span>
    </h2>
    <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
    <div v-if="done" class="note g" role="status">{{ done }}</div>
    <table v-if="tasks.data.value?.length" class="plain" data-restocks>
      <thead>
        <tr>
          <th>Out of carton</th>
          <th>Item</th>
          <th class="r">Quantity</th>
          <th>Into bin</th>
          <th><span class="skip">What to do</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="t in tasks.data.value" :key="t.id">
          <td>
            <router-link class="mono" :to="`/pack/${t.carton_id}`">…{{ t.sscc.slice(-5) }}</router-link> at
            {{ t.location }}, of {{ t.order }}
          </td>
          <td>
            {{ t.description }} <span class="mono mute small">{{ t.sku }} {{ t.lot }} {{ t.serial }}</span>
            <div class="mute small">{{ t.asked_by }}, {{ since(t.asked_at) }} ago</div>
          </td>
          <td class="r mono">{{ t.quantity }}</td>
          <td>
            <input
              class="entry mono"
              size="10"
              :value="bins[t.id] ?? t.from"
              :aria-label="`Bin for ${t.sku}`"
              @input="bins[t.id] = ($event.target as HTMLInputElement).value"
            />
          </td>
          <td><button class="btn" :disabled="busy" @click="put(t)">Return it to stock</button></td>
        </tr>
      </tbody>
    </table>
  </template>
</template>
