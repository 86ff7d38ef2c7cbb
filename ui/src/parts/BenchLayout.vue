<script setup lang="ts">
/** The three parts of every station: what waits, the sheet being worked on, before and after. */
defineProps<{ waits: string }>()
</script>

<template>
  <div class="bench" :class="{ wide: !$slots.after }">
    <nav class="q" :aria-label="waits" tabindex="0"><slot name="waiting" /></nav>
    <section class="sheet" tabindex="-1"><slot /></section>
    <aside v-if="$slots.after" class="fx" aria-label="Before and after"><slot name="after" /></aside>
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: 272px minmax(0, 1fr) 316px;
  height: 100%;
}
.bench.wide {
  grid-template-columns: 272px minmax(0, 1fr);
}
.q {
  border-right: 1px solid var(--line);
  padding: 14px 12px;
  overflow-y: auto;
}
.sheet {
  padding: 16px 22px;
  overflow-y: auto;
}
.fx {
  background: var(--shade);
  border-left: 1px solid var(--line);
  padding: 16px 18px;
  display: flex;
  flex-direction: column;
  overflow-y: auto;
}
</style>
