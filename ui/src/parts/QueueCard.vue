<script setup lang="ts">
defineProps<{ to?: string; selected?: boolean; share?: number }>()
defineEmits<{ open: [] }>()
</script>

<template>
  <component
    :is="to ? 'router-link' : 'button'"
    :to="to"
    class="card"
    :class="{ sel: selected }"
    :aria-current="selected || undefined"
    @click="$emit('open')"
  >
    <div class="t"><slot /></div>
    <div class="s"><slot name="more" /></div>
    <div v-if="share !== undefined" class="bar"><i :style="{ width: `${Math.round(share * 100)}%` }" /></div>
  </component>
</template>

<style scoped>
.card {
  display: block;
  width: 100%;
  text-align: left;
  font: inherit;
  color: var(--ink);
  text-decoration: none;
  background: var(--sheet);
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 9px 12px;
  margin-bottom: 8px;
  cursor: pointer;
}
.card:hover {
  border-color: var(--edge);
}
.card.sel {
  border-color: var(--act);
  box-shadow: inset 4px 0 0 var(--act);
}
.t {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  font-weight: 700;
  gap: 0 8px;
}
.s {
  color: var(--mute);
  font-size: 13px;
  display: flex;
  justify-content: space-between;
  gap: 8px;
}
.bar {
  height: 5px;
  background: var(--track);
  border-radius: 3px;
  margin-top: 7px;
  overflow: hidden;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--act);
}
</style>
