<script setup lang="ts">
import { computed } from 'vue'

/** A sentence whose codes, dates and numbers are never broken over lines. */
const props = defineProps<{ text: string }>()
const words = computed(() => props.text.split(' '))
</script>

<template>
  <span
    ><template v-for="(w, i) in words" :key="i"
      ><span class="nb">{{ w }}</span
      >{{ ' ' }}</template
    ></span
  >
</template>
