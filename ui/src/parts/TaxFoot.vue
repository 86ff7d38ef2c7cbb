<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '@/api/client'
import { sumOf } from './sums'
import { money } from './words'

/** What lines come to: before tax, each tax, and in all. */
const props = defineProps<{ taxes: Schemas['PricingTax'][]; total: string }>()
const net = computed(() => sumOf(props.taxes.map((t) => t.net)))
const taxed = computed(() => props.taxes.some((t) => Number(t.amount) !== 0))
</script>

<template>
  <template v-if="taxed">
    <div class="r">
      Before tax <span class="mono">{{ money(net) }}</span>
    </div>
    <div v-for="t in taxes" :key="t.pct" class="r">
      Tax of {{ t.pct }} % on {{ money(t.net) }} <span class="mono">{{ money(t.amount) }}</span>
    </div>
  </template>
  <div class="r">
    Total <b class="mono">{{ money(total) }}</b>
  </div>
</template>

<style scoped>
.r :is(span, b).mono {
  display: inline-block;
  min-width: 110px;
}
</style>
