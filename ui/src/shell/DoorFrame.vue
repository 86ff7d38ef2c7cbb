<script setup lang="ts">
import { onUnmounted } from 'vue'

/** The door of the house: a form over everything else, before anybody is in. */
defineProps<{ title: string; say: string; wide?: boolean }>()
const emit = defineEmits<{ submit: []; leave: [] }>()
const before = document.activeElement as HTMLElement | null
onUnmounted(() => before?.focus())
</script>

<template>
  <div class="veil" role="dialog" aria-modal="true" aria-labelledby="door" @keydown.esc.stop="emit('leave')">
    <form class="door" :class="{ wide }" @submit.prevent="emit('submit')">
      <svg width="44" height="56" viewBox="0 0 30 40" aria-hidden="true">
        <circle cx="15" cy="23" r="15" fill="#f2ac34" opacity=".2" />
        <path d="M15 0v9" stroke="#8a7657" />
        <path d="M9 12h12l3 6-3 14H9L6 18z" fill="#f2ac34" stroke="#ffe0a3" stroke-width="1.5" />
        <path d="M10 9h10v3H10zM11 33h8v3h-8z" fill="#ffe0a3" />
      </svg>
      <h1 id="door">{{ title }}</h1>
      <p class="say">{{ say }}</p>
      <slot />
    </form>
  </div>
</template>

<style scoped>
.veil {
  position: fixed;
  inset: 0;
  background: rgb(29 24 19 / 96%);
  display: grid;
  place-items: center;
  z-index: 50;
  overflow-y: auto;
}
.door {
  width: min(340px, 92vw);
  color: #fff6e4;
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.door.wide {
  width: min(680px, 92vw);
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(260px, 1fr));
}
.door.wide > svg,
.door.wide > h1,
.door.wide > .say,
.door.wide > :deep(.note),
.door.wide > :deep(.btn) {
  grid-column: 1 / -1;
}
.door svg {
  margin: 0 auto;
}
h1 {
  text-align: center;
  font-size: 30px;
  color: #fff6e4;
}
.say {
  text-align: center;
  color: #d9ccb5;
  margin: 0;
}
:deep(.btn.go) {
  min-height: 46px;
  background: #f2ac34;
  border-color: #f2ac34;
  color: #2a1e05;
  font-size: 17px;
}
:deep(.btn.bare) {
  color: #f2c877;
}
</style>
