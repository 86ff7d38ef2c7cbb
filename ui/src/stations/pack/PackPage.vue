<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand, usePreview } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import TrailTable from '@/parts/TrailTable.vue'

const props = defineProps<{ id?: string }>()
const router = useRouter()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
const list = (state: 'at bench' | 'blank') =>
  useQuery({
    queryKey: ['pack', state, site],
    queryFn: () => ask(api.GET('/api/v1/cartons', { params: { query: { site: site.value, state } } })),
  })
const bench = list('at bench')
const blank = list('blank')
const carton = useQuery({
  queryKey: ['pack', 'carton', id],
  queryFn: () => ask(api.GET('/api/v1/cartons/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
const weight = ref('')
watch(id, () => {
  weight.value = ''
  done.value = ''
})
const { busy, problem, done, run } = useCommand()
const body = computed<Schemas['PackClosing'] | null>(() =>
  carton.data.value?.state === 'at bench' ? { weight_kg: weight.value || undefined } : null,
)
const {
  plan,
  problem: refused,
  fresh,
} = usePreview(
  'pack',
  computed(() => body.value && { ...body.value, id: id.value }),
  (b) =>
    ask(
      api.POST('/api/v1/cartons/{id}/pack/preview', {
        params: { path: { id: b.id } },
        body: { weight_kg: b.weight_kg },
      }),
    ),
)

async function close() {
  const b = body.value
  if (!b) return
  await run(
    () =>
      once((h) =>
        ask(api.POST('/api/v1/cartons/{id}/pack', { headers: h, params: { path: { id: id.value } }, body: b })),
      ),
    (c) => `Carton …${c.sscc.slice(-4)} is closed and stands at the gate.`,
  )
  void carton.refetch()
  void bench.refetch()
}

const count = ref(10)
async function labels() {
  const made = await run(
    () =>
      once((h) => ask(api.POST('/api/v1/cartons', { headers: h, body: { site_id: site.value, count: count.value } }))),
    (c) => `${c.length} blank labels made, …${c[0]?.sscc.slice(-4)} to …${c.at(-1)?.sscc.slice(-4)}.`,
  )
  if (made) void blank.refetch()
}
</script>

<template>
  <BenchLayout waits="Cartons at the bench">
    <template #waiting>
      <h2>
        <span>At the bench</span><span>{{ bench.data.value?.length ?? 0 }}</span>
      </h2>
      <QueueCard v-for="c in bench.data.value" :key="c.id" :to="`/pack/${c.id}`" :selected="id === c.id">
        <span class="mono">…{{ c.sscc.slice(-5) }}</span
        ><span class="mono">{{ c.order }}</span>
        <template #more
          ><span>{{ c.customer }}</span
          ><span :class="{ late: c.late }">{{ c.wanted_on }}</span></template
        >
      </QueueCard>
      <div v-if="bench.data.value?.length === 0" class="empty">
        The bench is clear. Cartons come here when a round is set down.
      </div>
      <h2>
        <span>Blank labels</span><span>{{ blank.data.value?.length ?? 0 }}</span>
      </h2>
      <div class="fields">
        <label class="field">How many<input v-model.number="count" class="mono" size="4" /></label
        ><button class="btn" :disabled="busy" @click="labels">Make labels</button>
      </div>
    </template>

    <template v-if="id && carton.data.value">
      <h1>
        Carton <span class="mono">{{ carton.data.value.sscc }}</span>
      </h1>
      <p class="mute">
        {{ carton.data.value.state
        }}<template v-if="carton.data.value.order"
          >, for
          <router-link class="mono" :to="`/orders/${carton.data.value.order_id}`">{{
            carton.data.value.order
          }}</router-link>, {{ carton.data.value.customer }}, {{ carton.data.value.carrier }}</template
        ><template v-if="carton.data.value.round"
          >, from round
          <router-link class="mono" :to="`/go/${carton.data.value.round}`">{{
            carton.data.value.round
          }}</router-link></template
        >.
      </p>
      <table class="plain" data-contents>
        <thead>
          <tr>
            <th>Item</th>
            <th>Lot</th>
            <th>Expires</th>
            <th class="r">Quantity</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in carton.data.value.contents" :key="c.line_id + '/' + c.lot_id">
            <td>
              <b>{{ c.description }}</b> <span class="mono mute small">{{ c.sku }}</span>
            </td>
            <td class="mono">{{ c.lot }}</td>
            <td class="mono">{{ c.expires_on }}</td>
            <td class="r mono">{{ c.quantity }} {{ c.unit }}</td>
          </tr>
        </tbody>
      </table>
      <div class="fields" style="margin-top: 14px">
        <label v-if="carton.data.value.state === 'at bench'" class="field"
          >Weight, kg (reckoned {{ carton.data.value.reckoned_kg }})<input
            v-model="weight"
            class="mono"
            size="8"
            inputmode="decimal"
        /></label>
        <span v-else-if="carton.data.value.weight_kg" class="mute">{{ carton.data.value.weight_kg }} kg</span>
        <a class="btn" :href="`/api/v1/cartons/${id}/label.pdf`" target="_blank">Label</a>
        <a v-if="carton.data.value.order" class="btn" :href="`/api/v1/cartons/${id}/slip.pdf`" target="_blank"
          >Packing slip</a
        >
        <button v-if="carton.data.value.state === 'packed'" class="btn" @click="router.push('/dispatch')">
          To dispatch
        </button>
      </div>
      <h2><span>Trail</span></h2>
      <TrailTable :id="id" of="carton" />
    </template>
    <template v-else>
      <div class="empty">
        Choose a carton, or scan its label: what is in it, its label and slip, and the weight that closes it.
      </div>
      <div v-if="done" class="note g" role="status" style="margin-top: 12px">{{ done }}</div>
      <div v-if="problem" class="note s" role="alert" style="margin-top: 12px">{{ problem.message }}</div>
    </template>

    <template v-if="id" #after>
      <BeforeAfter
        :plan="plan"
        :problem="problem ?? refused"
        :done="done"
        :busy="busy"
        :fresh="fresh"
        idle="This carton is not at the bench; there is nothing to close."
        doing="Close the carton"
        @go="close"
      />
    </template>
  </BenchLayout>
</template>
