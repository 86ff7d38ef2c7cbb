<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { when } from '@/parts/words'

/** Goods set aside until somebody has looked at them: how many are fine, and what is wrong with the rest. */
defineProps<{ goods: Schemas['ReceiveInspection'] }>()
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
    {{ goods.description }}, from {{ goods.supplier }} on
    <router-link class="mono" :to="`/receive/arrival/${goods.arrival_id}`">{{ goods.arrival }}</router-link>,
    {{ when(goods.at) }}.
  </p>
  <template v-if="goods.state === 'waiting'">
    <p>
      <b class="mono">{{ goods.quantity }}</b> {{ goods.unit }} are set aside in quarantine. What passes goes to the
      dock, and is free; what does not goes to the damaged corner.
    </p>
    <div class="fields">
      <label class="field"
        >How many are fine<input v-model="passed" class="num mono" inputmode="decimal" aria-label="How many are fine"
      /></label>
      <label class="field"
        >What is wrong with the rest<input v-model="reason" size="40" aria-label="What is wrong with the rest"
      /></label>
      <button class="btn" @click="passed = goods.quantity">All are fine</button>
    </div>
  </template>
  <p v-else>
    {{ goods.state }}: <b class="mono">{{ goods.passed }}</b> passed, <b class="mono">{{ goods.failed }}</b> failed.
    {{ goods.reason }}
  </p>
</template>
