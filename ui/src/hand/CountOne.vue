<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ask, once, Problem, type Schemas } from '@/api/client'
import { serialOf } from '@/parts/serials'
import { byLots, byUnits } from '@/parts/tracking'
import { countOf, kindWords, rowsOf, useMoved } from '@/stations/audit/count'
import { useGuarded } from './guarded'
import ScanBox from './ScanBox.vue'

/** One item in one bin, counted blind: kind by kind, unit by unit, or a carton that was seen closed. */
const props = defineProps<{ location: number; item: number; sheet?: number }>()
const emit = defineEmits<{ counted: [words: string]; later: [] }>()
const { busy, wrong, refused, guarded } = useGuarded()
const entry = ref<Schemas['AuditEntry']>()
const lots = ref<string[]>([])
/** What is there: typed kind by kind, or scanned unit by unit into the kind that is scanned. */
const counts = ref<Record<number, string>>({})
const units = ref<Record<number, string[]>>({})
const closed = ref<Record<number, boolean>>({})
const into = ref(0)
const rows = computed(() => rowsOf(entry.value, lots.value))
const byUnit = computed(() => !!entry.value && byUnits(entry.value))
const byLot = computed(() => !!entry.value && byLots(entry.value))
const scanned = computed(() => Object.values(units.value).flat())
const ready = computed(() => rows.value.every((_, i) => byUnit.value || closed.value[i] || !!counts.value[i]))
const moved = useMoved(() => entry.value)
const asksWhen = computed(() => moved.asks(refused.value))

const read = () =>
  guarded(async () => {
    const query = { location: props.location, item: props.item }
    entry.value = await ask(api.GET('/api/v1/counts/entry', { params: { query } }))
    counts.value = {}
    units.value = {}
    closed.value = {}
    lots.value = []
  })
onMounted(read)
const takeUnit = (text: string) =>
  guarded(async () => {
    const serial = await serialOf(text, props.item)
    if (scanned.value.includes(serial))
      throw new Problem(409, 'serial_twice', `${serial} is scanned already. Scan the next unit.`)
    units.value = { ...units.value, [into.value]: [...(units.value[into.value] ?? []), serial] }
  })
const confirm = () =>
  guarded(async () => {
    const body = {
      ...countOf(entry.value!, rows.value, (i) => {
        if (closed.value[i]) return { closed: true }
        return byUnit.value ? { serials: units.value[i] ?? [] } : { quantity: counts.value[i] }
      }),
      ...moved.said.value,
      sheet: props.sheet,
      how: 'hand' as const,
    }
    const d = await once((h) => ask(api.POST('/api/v1/counts', { headers: h, body })))
    emit('counted', d.words)
  })
function countedBefore() {
  moved.countedBefore()
  void confirm()
}
function countedAfter() {
  moved.countedAfter(refused.value!)
  void confirm()
}
const takeOut = () => (units.value = { ...units.value, [into.value]: (units.value[into.value] ?? []).slice(0, -1) })
</script>

<template>
  <template v-if="entry">
    <div class="go">Count in</div>
    <div class="bin mono" data-go>{{ entry.bin }}</div>
    <div class="it">
      <div class="n">{{ entry.description }}</div>
      <div class="m mono">{{ entry.sku }}</div>
    </div>
    <div v-if="byUnit && rows.length > 1" class="alt">
      <button
        v-for="(k, i) in rows"
        :key="i"
        :aria-pressed="into === i"
        :class="{ walk: into === i }"
        @click="into = i"
      >
        {{ kindWords(k) || 'loose' }}, {{ units[i]?.length ?? 0 }}
      </button>
    </div>
    <ScanBox
      v-if="byUnit"
      :step="'unit' + scanned.length"
      :question="`Scan each unit, ${scanned.length} so far`"
      :wrong="wrong"
      @scan="takeUnit"
    />
    <form class="ask" :class="{ wrong: wrong && !byUnit }" data-count @submit.prevent="confirm">
      <div v-if="wrong && !byUnit" role="alert" data-wrong>{{ wrong }}</div>
      <template v-if="!byUnit">
        <template v-for="(k, i) in rows" :key="i">
          <div v-if="closed[i]" class="ok">✓ {{ kindWords(k) }} was seen closed</div>
          <label v-else
            >How many {{ entry.unit }}{{ kindWords(k) ? ` of ${kindWords(k)}` : '' }}?<input
              v-model="counts[i]"
              inputmode="decimal"
              autocomplete="off"
              :data-quantity="i"
          /></label>
        </template>
      </template>
      <label v-for="(_, i) in lots" :key="`lot${i}`"
        >The number of that lot<input v-model="lots[i]" autocomplete="off" :data-lot="i"
      /></label>
      <button class="press" style="margin: 8px 0 0; width: 100%" :disabled="busy || !ready" data-press>
        {{ byUnit ? `${scanned.length} are there` : 'That is what is there' }}
      </button>
    </form>
    <div v-if="asksWhen" class="alt" data-moved>
      <button @click="countedBefore">I counted before that</button>
      <button @click="countedAfter">I counted after that</button>
      <button @click="read">Count again</button>
    </div>
    <div v-for="(k, i) in rows" v-show="k.carton && !byUnit" :key="`c${i}`" class="alt">
      <button v-if="k.carton" :aria-pressed="!!closed[i]" @click="closed = { ...closed, [i]: !closed[i] }">
        {{ closed[i] ? `Open …${k.carton.slice(-4)} and count` : `…${k.carton.slice(-4)} is closed` }}
      </button>
    </div>
    <div class="alt">
      <button v-if="byLot" @click="lots = [...lots, '']">Another lot is here</button>
      <button v-if="byUnit && units[into]?.length" @click="takeOut">Remove {{ units[into]!.at(-1) }}</button>
      <button @click="emit('later')">Later</button>
    </div>
  </template>
  <div v-else-if="wrong" class="ask wrong" role="alert">{{ wrong }}</div>
</template>
