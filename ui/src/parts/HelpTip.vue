<script setup lang="ts">
/** A short help beside a label, opened by a pointer, by focus or by touch. */
defineProps<{ about: string; tip: string; describes: string }>()
</script>

<template>
  <a-tooltip :title="tip" :trigger="['hover', 'focus', 'click']">
    <button type="button" class="tip" :aria-label="`About ${about}`" :aria-describedby="describes">?</button>
  </a-tooltip>
</template>

<style scoped>
.tip {
  font: inherit;
  font-size: 12px;
  line-height: 1;
  border: 0;
  width: 24px;
  height: 24px;
  padding: 0;
  background: radial-gradient(circle, var(--shade) 8px, var(--edge) 8.5px, transparent 9.2px);
  border-radius: 50%;
  color: var(--mute);
  cursor: help;
  flex: none;
}
</style>
