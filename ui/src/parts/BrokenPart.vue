<script setup lang="ts">
/** What stands where a part of the page broke. */
defineEmits<{ again: [] }>()
</script>

<template>
  <a-result
    status="error"
    title="This part of the page broke"
    sub-title="What you saved is saved, and what you typed is kept on this device. Show it again, or go elsewhere."
    role="alert"
  >
    <template #extra>
      <a-button type="primary" @click="$emit('again')">Show it again</a-button>
    </template>
  </a-result>
</template>
