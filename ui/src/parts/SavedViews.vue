<script setup lang="ts">
import type { useSaved } from './saved'

/** A person's saved views of a list: opened, saved anew and deleted. */
const props = defineProps<{ saved: ReturnType<typeof useSaved> }>()
const { views, name, busy, problem, save, drop, open } = props.saved
</script>

<template>
  <div class="fields saved">
    <span class="mute">Saved views:</span>
    <span v-for="v in views" :key="v.name" class="view">
      <button class="btn" :aria-pressed="name === v.name" @click="open(v.name)">{{ v.name }}</button>
      <button class="btn bare" :aria-label="`Delete ${v.name}`" @click="drop(v.name)">×</button>
    </span>
    <form class="view" @submit.prevent="save">
      <input
        v-model="name"
        class="entry"
        size="16"
        maxlength="40"
        placeholder="name of this view"
        aria-label="Name of this view"
      />
      <button class="btn" :disabled="busy || !name.trim()">Save this view</button>
    </form>
    <span v-if="problem" class="late" role="alert">{{ problem.message }}</span>
  </div>
</template>

<style scoped>
.saved {
  margin: 8px 0 12px;
  align-items: center;
}
.view {
  display: inline-flex;
  gap: 2px;
}
</style>
