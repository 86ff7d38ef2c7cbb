<script setup lang="ts">
import { computed, useId } from 'vue'
import type { Schemas } from '@/api/client'

/** One field of a row, which says what it is for and whether it is needed. */
const props = defineProps<{ column: Schemas['SheetsColumn']; fixed?: boolean; wrong?: string }>()
const value = defineModel<string>({ required: true })
const id = useId()
const wide = computed(() =>
  ['description', 'packs', 'name', 'address', 'contact', 'lot_rule'].includes(props.column.name),
)
const number = computed(() => ['number', 'count', 'percent'].includes(props.column.kind))
const choices = computed(() => (props.column.kind === 'flag' ? ['yes', 'no'] : props.column.choices))
</script>

<template>
  <div class="one" :class="{ wide }">
    <label :for="id">{{ column.label }}<span v-if="column.needed" class="mute small"> needed</span></label>
    <select
      v-if="column.kind === 'flag' || column.kind === 'choice'"
      :id="id"
      v-model="value"
      class="entry"
      :disabled="fixed"
      :aria-describedby="`${id}-help`"
      :aria-invalid="!!wrong"
    >
      <option v-for="c in choices" :key="c" :value="c">{{ column.words?.[c] ?? c }}</option>
    </select>
    <input
      v-else
      :id="id"
      v-model="value"
      class="entry"
      :class="{ mono: number || column.name === 'packs', num: number }"
      :inputmode="number ? 'decimal' : 'text'"
      :disabled="fixed"
      :required="column.needed"
      :aria-describedby="`${id}-help`"
      :aria-invalid="!!wrong"
    />
    <p :id="`${id}-help`" class="help small" :class="{ wrong }">{{ wrong || column.help }}</p>
  </div>
</template>

<style scoped>
.one {
  display: flex;
  flex-direction: column;
  gap: 3px;
}
.wide {
  grid-column: 1 / -1;
}
.num {
  width: 130px;
}
.help {
  margin: 0;
  color: var(--mute);
  display: none;
}
.one:focus-within .help,
.one:hover .help,
.help.wrong {
  display: block;
}
.help.wrong {
  color: var(--stop);
  font-weight: 700;
}
</style>
