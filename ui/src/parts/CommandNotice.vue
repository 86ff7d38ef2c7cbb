<script setup lang="ts">
import type { useCommand } from './command'

/** What came of a command: done, with "Undo" while it is offered; refused; or not known, and then how to be sure. */
const props = defineProps<{ of: ReturnType<typeof useCommand> }>()
const { busy, problem, done, unknown, undo } = props.of
</script>

<template>
  <div v-if="done" class="note g command" role="status">
    <span>{{ done }}</span>
    <a-button v-if="undo" size="small" :disabled="busy" @click="undo?.()">Undo</a-button>
  </div>
  <div v-if="problem" class="note s" role="alert" data-problem>
    {{ problem.message }}
    <b v-if="unknown">Press the same button again: it happens once.</b>
  </div>
</template>

<style scoped>
.command {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: space-between;
}
</style>
