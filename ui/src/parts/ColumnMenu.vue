<script setup lang="ts">
import { seen } from './columns'

/** Which columns a table shows. */
const props = defineProps<{ columns: { name: string; label: string; money?: boolean }[]; chosen: string[] }>()
const emit = defineEmits<{ choose: [columns: string] }>()
function toggle(name: string) {
  const now = props.chosen
  emit('choose', (now.includes(name) ? now.filter((c) => c !== name) : [...now, name]).join(','))
}
</script>

<template>
  <details class="cols">
    <summary class="btn">Columns</summary>
    <div class="menu">
      <a-checkbox
        v-for="c in seen(columns)"
        :key="c.name"
        :checked="chosen.includes(c.name)"
        @change="toggle(c.name)"
        >{{ c.label }}</a-checkbox
      >
    </div>
  </details>
</template>

<style scoped>
.cols {
  position: relative;
}
.cols summary {
  list-style: none;
}
.menu {
  position: absolute;
  z-index: 12;
  top: 100%;
  left: 0;
  background: var(--sheet);
  border: 1px solid var(--edge);
  border-radius: 8px;
  padding: 8px 14px;
  display: grid;
  gap: 2px;
  min-width: 160px;
}
.menu :deep(.ant-checkbox-wrapper) {
  min-height: 26px;
  margin: 0;
}
</style>
