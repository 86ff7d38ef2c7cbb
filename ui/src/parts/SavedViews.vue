<script setup lang="ts">
import type { useSaved } from './saved'
import EntryForm from './EntryForm.vue'
import TextEntry from './TextEntry.vue'

/** A person's saved views of a list: opened, saved anew and deleted. */
const props = defineProps<{ saved: ReturnType<typeof useSaved> }>()
const { views, name, busy, problem, save, drop, open } = props.saved
</script>

<template>
  <div class="fields saved">
    <span class="mute">Saved views</span>
    <span v-for="v in views" :key="v.name" class="view">
      <a-button :aria-pressed="name === v.name" @click="open(v.name)">{{ v.name }}</a-button>
      <a-button type="link" size="small" :aria-label="`Delete ${v.name}`" @click="drop(v.name)">×</a-button>
    </span>
    <EntryForm @submit="save"
      ><div class="view">
        <TextEntry
          v-model="name"
          :maxlength="40"
          placeholder="name of this view"
          label="Name of this view"
          :width="170"
        />
        <a-button html-type="submit" :disabled="busy || !name.trim()">Save view</a-button>
      </div></EntryForm
    >
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
