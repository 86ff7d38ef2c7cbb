<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask } from '@/api/client'
import { session } from '@/api/session'
import { plural, today } from '@/parts/words'
import OpenLines from './OpenLines.vue'

/** What waits for a round: narrowed, ticked, and bounded for a wave. */
export type Chosen = {
  orders: number[]
  /** Lines of them that are left for another round. */
  left: number[]
}
export type Bounds = {
  split: 'walk' | 'order' | 'zone' | 'one'
  max_cartons: number
  max_lines: number
  zone: string
  from_bin: string
  to_bin: string
}
const emit = defineEmits<{
  plan: [chosen: Chosen, emptyFirst: string]
  wave: [chosen: Chosen, bounds: Bounds, emptyFirst: string]
}>()
defineProps<{ busy: boolean }>()
const site = computed(() => session.site)
const until = ref('')
const carrier = ref('')
const customer = ref('')
const zone = ref('')
const ready = ref(false)
const filter = computed(() => ({
  site: site.value,
  until: until.value || undefined,
  carrier: carrier.value || undefined,
  customer: customer.value || undefined,
  zone: zone.value || undefined,
  ready: ready.value || undefined,
}))
const open = useQuery({
  queryKey: ['pick', 'open', filter],
  queryFn: () => ask(api.GET('/api/v1/pick/open', { params: { query: filter.value } })),
  placeholderData: (before) => before,
})
const q = computed(() => open.data.value)
const ticked = ref<number[]>([])
const chosen = computed(() => (q.value?.orders ?? []).filter((o) => ticked.value.includes(o.id)))
const all = computed(() => chosen.value.length > 0 && chosen.value.length === q.value?.orders.length)
const tickAll = () => (ticked.value = all.value ? [] : (q.value?.orders ?? []).map((o) => o.id))
const sum = (of: 'units' | 'weight_kg' | 'minutes' | 'can_go') =>
  Math.round(10 * chosen.value.reduce((n, o) => n + Number(o[of]), 0)) / 10
/** Orders whose lines are shown, and the lines that are left out. */
const shown = ref<number[]>([])
const left = ref<number[]>([])
const show = (id: number) =>
  (shown.value = shown.value.includes(id) ? shown.value.filter((o) => o !== id) : [...shown.value, id])
const wished = computed<Chosen>(() => ({ orders: chosen.value.map((o) => o.id), left: left.value }))
const emptyFirst = ref('')
const bounds = ref<Bounds>({ split: 'walk', max_cartons: 8, max_lines: 0, zone: '', from_bin: '', to_bin: '' })
</script>

<template>
  <h1>To be picked <router-link to="/schedules" class="small plainly">have rounds planned on schedule</router-link></h1>
  <div v-if="q" class="fields">
    <label class="field"
      >Wanted<select v-model="until" aria-label="Wanted until">
        <option value="">any day</option>
        <option :value="today()">by today</option>
        <option :value="today(1)">by tomorrow</option>
        <option :value="today(7)">within a week</option>
      </select></label
    >
    <label class="field"
      >Carrier<select v-model="carrier">
        <option value="">any</option>
        <option v-for="c in q.carriers" :key="c">{{ c }}</option>
      </select></label
    >
    <label class="field">Customer<input v-model="customer" size="12" /></label>
    <label class="field"
      >Zone<select v-model="zone">
        <option value="">any</option>
        <option v-for="z in q.zones" :key="z">{{ z }}</option>
      </select></label
    >
    <label class="check"><input v-model="ready" type="checkbox" /> only what can go whole</label>
  </div>
  <div class="table" tabindex="0" role="group" aria-label="Orders to be picked">
    <table v-if="q?.orders.length" class="plain" data-open>
      <thead>
        <tr>
          <th>
            <button class="btn bare" @click="tickAll">{{ all ? 'none' : 'all' }}</button>
          </th>
          <th>Order</th>
          <th>Wanted</th>
          <th>Carrier</th>
          <th class="r">Lines</th>
          <th class="r">Units</th>
          <th class="r">Can go</th>
          <th class="r">kg</th>
          <th class="r">Alone, m</th>
          <th class="r">min</th>
        </tr>
      </thead>
      <tbody>
        <template v-for="o in q.orders" :key="o.id"
          ><tr>
            <td>
              <input v-model="ticked" class="tick" type="checkbox" :value="o.id" :aria-label="`Tick ${o.number}`" />
            </td>
            <td>
              <router-link class="mono" :to="`/orders/${o.id}`">{{ o.number }}</router-link>
              <span class="mute small"> {{ o.customer }}</span>
            </td>
            <td class="mono" :class="{ late: o.late }">
              {{ o.late ? `late ${o.wanted_on}` : o.wanted_on === today() ? 'today' : o.wanted_on }}
            </td>
            <td class="small">{{ o.carrier }}</td>
            <td class="r">
              <button
                class="btn bare mono"
                :aria-expanded="shown.includes(o.id)"
                :aria-label="`${plural(o.lines, 'line')} of ${o.number}`"
                @click="show(o.id)"
              >
                {{ o.lines }}
              </button>
            </td>
            <td class="r mono">{{ o.units }}</td>
            <td class="r mono" :class="{ late: Number(o.can_go) < Number(o.units) }">{{ o.can_go }}</td>
            <td class="r mono">{{ o.weight_kg }}</td>
            <td class="r mono">{{ o.metres }}</td>
            <td class="r mono">{{ o.minutes }}</td>
          </tr>
          <OpenLines v-if="shown.includes(o.id)" v-model="left" :order="o.id" :number="o.number"
        /></template>
      </tbody>
    </table>
    <div v-else-if="q" class="empty">No order that is released waits for a round here.</div>
  </div>
  <p v-if="q" class="mute">
    {{ chosen.length ? plural(chosen.length, 'order') + ' ticked' : plural(q.orders.length, 'order') }}:
    <b class="mono">{{ chosen.length ? sum('units') : q.units }}</b> units,
    <b class="mono">{{ chosen.length ? sum('can_go') : q.can_go }}</b> can go now,
    <b class="mono">{{ chosen.length ? sum('weight_kg') : q.weight_kg }}</b> kg<template v-if="chosen.length"
      >, <b class="mono">{{ sum('minutes') }}</b> minutes one by one</template
    ><template v-if="left.length">; {{ plural(left.length, 'line') }} left for another round</template>.
  </p>
  <div class="fields">
    <label class="field"
      >Rounds<select v-model="bounds.split" aria-label="How rounds are made">
        <option value="walk">that walk least together</option>
        <option value="zone">a zone each</option>
        <option value="order">an order each</option>
        <option value="one">all in one</option>
      </select></label
    >
    <label class="field">Cartons a trolley<input v-model.number="bounds.max_cartons" class="mono" size="4" /></label>
    <label class="field">Most lines<input v-model.number="bounds.max_lines" class="mono" size="4" /></label>
    <label class="field">From bin<input v-model="bounds.from_bin" class="mono" size="8" placeholder="any" /></label>
    <label class="field">To bin<input v-model="bounds.to_bin" class="mono" size="8" placeholder="any" /></label>
    <label class="field"
      >Empty this bin first<input v-model="emptyFirst" class="mono" size="8" placeholder="any"
    /></label>
  </div>
  <div class="fields" style="margin-top: 12px">
    <button
      class="btn go"
      :disabled="!chosen.length || busy"
      @click="emit('wave', wished, { ...bounds, zone }, emptyFirst)"
    >
      Plan rounds for {{ plural(chosen.length, 'order') }}
    </button>
    <button class="btn" :disabled="!chosen.length || busy" @click="emit('plan', wished, emptyFirst)">
      Plan one round, stop by stop
    </button>
  </div>
</template>

<style scoped>
.table {
  max-height: 46vh;
  overflow-y: auto;
}
.plainly {
  font-weight: 400;
}
.check {
  align-self: flex-end;
  min-height: 32px;
  display: flex;
  gap: 6px;
  align-items: center;
}
.tick {
  width: 20px;
  height: 20px;
}
</style>
