<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { when } from '@/parts/words'

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
      <p>Press the units that are not fine:</p>
      <div class="units">
        <button
          v-for="code in goods.serials"
          :key="code"
          class="btn mono"
          :aria-pressed="bad.includes(code)"
          :class="{ bad: bad.includes(code) }"
          @click="emit('toggle', code)"
        >
          {{ code }}
        </button>
      </div>
    </template>
    <div class="fields">
      <label class="field"
        >How many are fine<input
          v-model="passed"
          class="num mono"
          inputmode="decimal"
          aria-label="How many are fine"
          :readonly="goods.serials.length > 0"
      /></label>
      <label class="field"
        >What is wrong with the rest<input v-model="reason" size="40" aria-label="What is wrong with the rest"
      /></label>
      <button v-if="!goods.serials.length || !bad.length" class="btn" @click="passed = goods.sample">
        All are fine
      </button>
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
