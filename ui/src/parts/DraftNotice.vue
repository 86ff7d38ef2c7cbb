<script setup lang="ts">
import type { Conflict, Json } from './merge'

/** What was brought back of a draft, and where somebody else changed the same field meanwhile. */
defineProps<{ restored: boolean; conflicts: Conflict[]; labels: (path: string[]) => string }>()
const emit = defineEmits<{ settle: [conflict: Conflict, take: 'mine' | 'theirs']; discard: [] }>()
const words = (v: Json) =>
  v === undefined ? 'removed' : v === '' || v === null ? 'nothing' : typeof v === 'object' ? 'changed' : String(v)
</script>

<template>
  <div v-if="restored" class="note w draft" role="status" data-restored>
    <span>What you typed here earlier is back. It is not saved yet.</span>
    <a-button size="small" @click="emit('discard')">Discard it</a-button>
  </div>
  <div v-for="c in conflicts" :key="c.path.join('/')" class="note w draft" role="alert" data-conflict>
    <span
      >Somebody else changed <b>{{ labels(c.path) }}</b> to <b class="mono">{{ words(c.theirs) }}</b>; you typed
      <b class="mono">{{ words(c.mine) }}</b>.</span
    >
    <span class="nb">
      <a-button size="small" @click="emit('settle', c, 'mine')">Keep mine</a-button>
      <a-button size="small" @click="emit('settle', c, 'theirs')">Take theirs</a-button>
    </span>
  </div>
</template>

<style scoped>
.draft {
  display: flex;
  gap: 12px;
  justify-content: space-between;
  align-items: center;
}
</style>
