<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import FloorMap from '@/parts/FloorMap.vue'
import { useCommand } from '@/parts/command'
import { plural } from '@/parts/words'
import { asked } from './proposedRound'
import RobbedOrders from './RobbedOrders.vue'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'

/** Rounds that are planned together for many orders, looked over before they are released. */
const props = defineProps<{ wave: Schemas['PickWave']; floor?: Schemas['StockFloorPlan'] }>()
const emit = defineEmits<{ gone: [rounds: Schemas['PickRound'][]]; leave: []; change: [round: number] }>()
const left = ref<number[]>([])
const shown = ref(0)
watch(
  () => props.wave,
  () => {
    left.value = []
    shown.value = 0
  },
)
const going = computed(() => props.wave.rounds.filter((_, i) => !left.value.includes(i)))
const round = computed(() => props.wave.rounds[shown.value])
const saved = computed(() =>
  props.wave.single_metres > 0 ? Math.round(100 * (1 - props.wave.metres / props.wave.single_metres)) : 0,
)
const { busy, problem, run } = useCommand()
async function release() {
  const rounds = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/waves', {
          headers: h,
          body: {
            site_id: session.site,
            rounds: going.value.map((r) => ({ stops: r.stops.map((s) => asked(s, s.quantity)) })),
          },
        }),
      ),
    ),
  )
  if (rounds) emit('gone', rounds)
}
const keyOf = (r: Schemas['PickProposed']) => r.stops.map((s) => `${s.line_id}/${s.location_id}`).join()
const columns: Column<Schemas['PickProposed']>[] = [
  { name: 'go', label: 'Go' },
  { name: 'round', label: 'Round' },
  { name: 'orders', label: 'Orders', of: (r) => r.orders.join(' '), mono: true },
  { name: 'stops', label: 'Stops', of: (r) => r.stops.length, right: true, mono: true },
  { name: 'units', label: 'Units', of: (r) => r.units, right: true, mono: true },
  { name: 'kg', label: 'kg', of: (r) => r.weight_kg, right: true, mono: true },
  { name: 'metres', label: 'Metres', of: (r) => r.metres, right: true, mono: true },
  { name: 'minutes', label: 'Minutes', of: (r) => r.time.minutes, right: true, mono: true },
  { name: 'does', label: '' },
]
</script>

<template>
  <h1>A wave for {{ plural(wave.orders, 'order') }}</h1>
  <p class="mute">
    {{ plural(wave.rounds.length, 'round') }}, <b class="mono">{{ wave.metres }} m</b> in all; the same orders one by
    one would be {{ wave.single_metres }} m<template v-if="saved > 0">: {{ saved }} % less walk</template>.
    {{ wave.lines }} lines, {{ wave.units }} units, {{ wave.weight_kg }} kg, about
    <b class="mono">{{ wave.minutes }}</b> minutes of work.
  </p>
  <div v-for="l in wave.shortages.slice(0, 4)" :key="l.order + l.sku" class="note w">
    {{ l.order }} is {{ l.quantity }} short of {{ l.sku }}: {{ l.why }}. It stays open.
  </div>
  <div v-if="wave.shortages.length > 4" class="note w">
    {{ wave.shortages.length - 4 }} more lines are short and stay open.
  </div>
  <RobbedOrders :of="wave.robbed" />
  <SheetTable
    data-wave
    :columns="columns"
    :rows="wave.rounds"
    :row-key="keyOf"
    :now="(r) => !!round && keyOf(r) === keyOf(round)"
    ><template #go="{ index: i }"
      ><a-checkbox
        :checked="!left.includes(i)"
        :aria-label="`Release round ${i + 1}`"
        @change="left = left.includes(i) ? left.filter((x) => x !== i) : [...left, i]" /></template
    ><template #round="{ index: i }"
      ><a-button type="link" size="small" class="mono" @click="shown = i">{{ i + 1 }}</a-button></template
    ><template #does="{ index: i }"
      ><a-button type="link" size="small" @click="$emit('change', i)">Change</a-button></template
    ></SheetTable
  >
  <div v-if="problem" class="note s" role="alert">{{ problem.message }}</div>
  <div class="fields" style="margin: 12px 0">
    <a-button type="primary" data-primary :disabled="!going.length || busy" @click="release">
      Release {{ plural(going.length, 'round') }}
    </a-button>
    <a-button @click="$emit('leave')">Discard</a-button>
  </div>
  <template v-if="floor && round">
    <h2>
      <span>Round {{ shown + 1 }}</span
      ><span class="mono">{{ round.metres }} m</span>
    </h2>
    <FloorMap :plan="floor" :path="round.path as { x: number; y: number }[]" />
  </template>
</template>
