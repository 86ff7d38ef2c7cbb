<script setup lang="ts">
import type { useKept } from './kept'

/** The views of a list that a person keeps: opened, kept anew and given up. */
const props = defineProps<{ kept: ReturnType<typeof useKept> }>()
const { views, name, busy, problem, keep, drop, open } = props.kept
</script>

<template>
  <div class="fields kept">
    <span class="mute">Kept:</span>
    <span v-for="v in views" :key="v.name" class="view">
      <button class="btn" :aria-pressed="name === v.name" @click="open(v.name)">{{ v.name }}</button>
      <button class="btn bare" :aria-label="`Give up ${v.name}`" @click="drop(v.name)">×</button>
    </span>
    <form class="view" @submit.prevent="keep">
      <input
        v-model="name"
        class="entry"
        size="16"
        maxlength="40"
        placeholder="name of this view"
        aria-label="Name of this view"
      />
      <button class="btn" :disabled="busy || !name.trim()">Keep this view</button>
    </form>
    <span v-if="problem" class="late" role="alert">{{ problem.message }}</span>
  </div>
</template>

<style scoped>
.kept {
  margin: 8px 0 12px;
  align-items: center;
}
.view {
  display: inline-flex;
  gap: 2px;
}
</style>
