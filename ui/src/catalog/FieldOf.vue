<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import CarrierEntry from '@/parts/CarrierEntry.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import FormField from '@/parts/FormField.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import TextEntry from '@/parts/TextEntry.vue'

/** One field of a row, which says what it is for and whether it is needed. */
const props = defineProps<{ column: Schemas['SheetsColumn']; fixed?: boolean; wrong?: string }>()
const value = defineModel<string | undefined>({ required: true })
const wide = computed(() =>
  ['description', 'packs', 'name', 'address', 'contact', 'lot_rule'].includes(props.column.name),
)
/** What it is for, and whose it is where it is not everybody's. */
const tip = computed(() => {
  const whose = { lead: 'a lead', accounts: 'accounts', '': 'the office' }[props.column.by]
  return props.column.fixed ? `${props.column.help} Changed by ${whose}.` : props.column.help
})
const number = computed(() => ['number', 'count', 'percent'].includes(props.column.kind))
const choices = computed(() =>
  (props.column.kind === 'flag' ? ['yes', 'no'] : (props.column.choices ?? [])).map((c) => ({
    value: c,
    label: props.column.words?.[c] ?? c,
  })),
)
</script>

<template>
  <FormField :class="{ wide }" :label="column.label" :tip="tip" :required="column.needed" :wrong="wrong">
    <ChoiceEntry
      v-if="column.kind === 'flag' || column.kind === 'choice'"
      v-model="value"
      :options="choices"
      :disabled="fixed"
      :width="220"
    />
    <CarrierEntry v-else-if="column.of === 'carriers'" v-model="value" none="none" :disabled="fixed" :width="220" />
    <QuantityEntry v-else-if="number" v-model="value" :disabled="fixed" :width="140" />
    <TextEntry v-else v-model="value" :mono="column.name === 'packs'" :disabled="fixed" :width="wide ? 520 : 250" />
  </FormField>
</template>

<style scoped>
.wide {
  grid-column: 1 / -1;
}
</style>
