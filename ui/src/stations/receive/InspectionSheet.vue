<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { can } from '@/api/session'
import { when } from '@/parts/words'
import FormField from '@/parts/FormField.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import TextEntry from '@/parts/TextEntry.vue'

/** Goods set aside until somebody has looked at them: how many are fine, and what is wrong with the rest. */
defineProps<{ goods: Schemas['ReceiveInspection']; bad: string[] }>()
const emit = defineEmits<{ toggle: [code: string] }>()
const passed = defineModel<string>('passed', { required: true })
const reason = defineModel<string>('reason', { required: true })
</script>

<template>
  <h1>
    Inspect <span class="mono">{{ goods.sku }}</span>
    <span v-if="goods.lot" class="mute small"
      >lot <span class="mono">{{ goods.lot }}</span></span
    >
  </h1>
  <p class="mute">
    {{ goods.description }}, from {{ goods.source }} on
    <router-link class="mono" :to="`/receive/arrival/${goods.arrival_id}`">{{ goods.arrival }}</router-link>,
    {{ when(goods.at) }}.
  </p>
  <template v-if="goods.state === 'waiting'">
    <p v-if="goods.accept !== null" data-plan>
      <b class="mono">{{ goods.quantity }}</b> of {{ goods.sku }} wait in quarantine for a sample. Look at
      <b class="mono">{{ goods.sample }}</b> of them, taken from all over. With at most
      <b class="mono">{{ goods.accept }}</b> that fail, the delivery passes; with more, all of it is refused (limit
      {{ goods.limit }} %).
    </p>
    <p v-else>
      <b class="mono">{{ goods.quantity }}</b> of {{ goods.sku }} are set aside in quarantine. What passes goes to the
      dock, and is free; what does not goes to the damaged corner.
    </p>
    <template v-if="goods.serials.length">
      <p>Press the units that fail:</p>
      <div class="units">
        <a-button
          v-for="code in goods.serials"
          :key="code"
          class="mono"
          :aria-pressed="bad.includes(code)"
          :class="{ bad: bad.includes(code) }"
          @click="emit('toggle', code)"
        >
          {{ code }}
        </a-button>
      </div>
    </template>
    <div class="fields">
      <FormField label="Passed" tip="How many are fine. What passes goes to the dock, the rest to the damaged corner."
        ><QuantityEntry v-model="passed" :readonly="goods.serials.length > 0"
      /></FormField>
      <FormField label="What is wrong with the rest" tip="Needed where not all pass."
        ><TextEntry v-model="reason" :width="386"
      /></FormField>
      <a-button v-if="can('decide-inspection') && (!goods.serials.length || !bad.length)" @click="passed = goods.sample"
        >All pass</a-button
      >
    </div>
  </template>
  <p v-else>
    {{ goods.state }}: <b class="mono">{{ goods.passed }}</b> passed, <b class="mono">{{ goods.failed }}</b> failed.
    {{ goods.reason }}
  </p>
</template>

<style scoped>
.units {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin: 8px 0 14px;
}
.bad {
  background: var(--stop);
  border-color: var(--stop);
  color: #fff;
}
</style>
