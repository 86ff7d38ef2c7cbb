<script setup lang="ts">
import { onErrorCaptured, ref, watch } from 'vue'
import { useRoute } from 'vue-router'

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
  <a-result
    v-if="broken"
    status="error"
    title="This part of the page broke"
    sub-title="What you saved is saved, and what you typed is kept on this device. Show it again, or go elsewhere."
    role="alert"
  >
    <template #extra>
      <a-button type="primary" @click="broken = undefined">Show it again</a-button>
    </template>
  </a-result>
  <slot v-else />
</template>
