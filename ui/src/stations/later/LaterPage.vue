<script setup lang="ts">
import { computed } from 'vue'

const props = defineProps<{ later: string }>()
const words = computed(() =>
  props.later === 'audit'
    ? 'Count sheets and recalls will stand here. Bins found short on a round are put down for counting already: they wear a red edge on the Floor. Why any figure is so can be read in the trail of its item or bin, under Stock.'
    : 'Goods that come back from a customer will be taken in here, from the delivery they went out with.',
)
</script>

<template>
  <div class="later">
    <h1>{{ later === 'audit' ? 'Audit' : 'Returns' }}</h1>
    <p class="empty">This station is not open in this version. {{ words }}</p>
  </div>
</template>

<style scoped>
.later {
  padding: 20px 24px;
  max-width: 640px;
}
</style>
