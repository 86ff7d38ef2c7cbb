<script setup lang="ts">
import { defineAsyncComponent, h, onErrorCaptured, ref, watch } from 'vue'
import { useRoute } from 'vue-router'

/** It is fetched when it is needed; where it cannot be, a line says the same. */
const BrokenPart = defineAsyncComponent({
  loader: () => import('./BrokenPart.vue'),
  errorComponent: () => h('div', { class: 'note s', role: 'alert' }, 'This part of the page broke. Reload the page.'),
})
/** What is inside may break: then it is said here, and the rest of the page stays. */
const broken = ref<Error>()
const route = useRoute()
onErrorCaptured((e) => {
  broken.value = e
  console.error(e)
  return false
})
watch(
  () => route.fullPath,
  () => (broken.value = undefined),
)
</script>

<template>
  <BrokenPart v-if="broken" @again="broken = undefined" />
  <slot v-else />
</template>
