<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { codesOf } from '@/parts/serials'
import { byLots, byUnits } from '@/parts/tracking'
import { kinds } from '@/stations/transfers/cases'
import { useGuarded } from './guarded'

/** What came otherwise than another site shipped it is told at the dock: its goods stay in transit until it is settled. */
const props = defineProps<{ lines: Schemas['InboundLine'][] }>()
const emit = defineEmits<{ told: [words: string]; back: [] }>()
const { busy, wrong, guarded } = useGuarded()
const at = ref(props.lines.length === 1 ? props.lines[0]!.id : 0)
const line = computed(() => props.lines.find((l) => l.id === at.value))
const kind = ref<Schemas['TransfersNewCase']['kind']>()
const quantity = ref('1')
const lot = ref('')
const came = ref('')
const serials = ref('')
const unitwise = computed(() => !!line.value && byUnits(line.value))
const codes = computed(() => codesOf(serials.value))

const tell = () =>
  guarded(async () => {
    const l = line.value!
    const body: Schemas['TransfersNewCase'] = {
      line_id: l.id,
      kind: kind.value!,
      quantity: unitwise.value ? String(codes.value.length) : quantity.value,
      lot: lot.value || undefined,
      came_lot: came.value || undefined,
      serials: unitwise.value ? codes.value : undefined,
    }
    const c = await once((h) => ask(api.POST('/api/v1/transfer-cases', { headers: h, body })))
    emit(
      'told',
      `${c.number}: ${c.quantity} of ${c.sku}, ${kinds.find((k) => k.value === c.kind)?.label}. It is told at the desk.`,
    )
  })
</script>

<template>
  <h1>What differs?</h1>
  <template v-if="!line">
    <button
      v-for="l in lines"
      :key="l.id"
      class="job"
      style="border: 0; text-align: left; font: inherit"
      @click="at = l.id"
    >
      <b>{{ l.description }}</b><span class="mono">{{ l.sku }}</span>
    </button>
  </template>
  <form v-else class="ask" :class="{ wrong }" data-differs @submit.prevent="tell">
    <div v-if="wrong" role="alert" data-wrong>{{ wrong }}</div>
    <b>{{ line.description }}</b>
    <div class="choices" role="group" aria-label="What happened">
      <button v-for="k in kinds" :key="k.value" type="button" :aria-pressed="kind === k.value" @click="kind = k.value">
        {{ k.label }}
      </button>
    </div>
    <label v-if="byLots(line) && kind !== 'more'">Lot that was shipped<input v-model="lot" autocomplete="off" /></label>
    <label v-if="kind === 'other_lot' || (kind === 'more' && byLots(line))"
      >Lot that came<input v-model="came" autocomplete="off"
    /></label>
    <label v-if="unitwise">Serials<input v-model="serials" autocomplete="off" /></label>
    <label v-else>How many?<input v-model="quantity" inputmode="decimal" data-quantity /></label>
    <button class="press" style="margin: 8px 0 0; width: 100%" :disabled="busy || !kind" data-tell>Tell it</button>
  </form>
  <div class="alt"><button @click="emit('back')">Back to the arrival</button></div>
</template>
