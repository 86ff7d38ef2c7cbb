<script setup lang="ts">
import type { Schemas } from '@/api/client'

/** Orders that are wanted earlier and promised what a plan would take. */
defineProps<{ of: Schemas['PickRobbed'][] }>()
const shown = 4
</script>

<template>
  <div v-for="r in of.slice(0, shown)" :key="r.order + r.sku" class="note w" data-robbed>
    <router-link class="mono" :to="`/go/${r.order}`">{{ r.order }}</router-link>, wanted {{ r.wanted_on }}, is promised
    {{ r.quantity }} of <span class="mono">{{ r.sku }}</span> that this takes. Plan it as well, or leave so much.
  </div>
  <div v-if="of.length > shown" class="note w">
    {{ of.length - shown }} more promises to earlier orders are taken from.
  </div>
</template>
