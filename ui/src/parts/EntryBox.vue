<script setup lang="ts">
/** The frame around an entry: what is wrong with one that has no label beside it stands under it. */
defineProps<{ id: string; says: string; wrong: string }>()
</script>

<template>
  <span class="entry-box" :data-wrong="wrong ? '' : undefined">
    <slot />
    <span v-if="says" :id="`${id}-says`" class="says" role="alert">{{ says }}</span>
  </span>
</template>

<style scoped>
.entry-box {
  display: inline-block;
  max-width: 100%;
}
.says {
  display: block;
  color: var(--stop-ink);
  font-size: 13px;
  text-align: left;
  white-space: normal;
  max-width: 260px;
}
</style>
