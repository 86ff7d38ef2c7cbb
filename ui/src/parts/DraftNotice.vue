<script setup lang="ts">
import type { useDraft } from './draft'
import type { Json } from './merge'

/** What was brought back of a draft, and where somebody else changed the same field meanwhile. */
const props = defineProps<{
  of: Pick<ReturnType<typeof useDraft>, 'restored' | 'conflicts' | 'settle' | 'discard'>
  /** How the field is called to which a path leads. */
  labels: (path: string[]) => string
}>()
const { restored, conflicts, settle, discard } = props.of
const words = (v: Json) =>
  v === undefined ? 'removed' : v === '' || v === null ? 'nothing' : typeof v === 'object' ? 'changed' : String(v)
</script>

<template>
  <div v-if="restored" class="note w draft" role="status" data-restored>
    <span>What you typed here earlier is back. It is not saved yet.</span>
    <a-button size="small" @click="discard">Discard it</a-button>
  </div>
  <div v-for="c in conflicts" :key="c.path.join('/')" class="note w draft" role="alert" data-conflict>
    <span
      >Somebody else changed <b>{{ labels(c.path) }}</b> to <b class="mono">{{ words(c.theirs) }}</b>; you typed
      <b class="mono">{{ words(c.mine) }}</b>.</span
    >
    <span class="nb">
      <a-button size="small" @click="settle(c, 'mine')">Keep mine</a-button>
      <a-button size="small" @click="settle(c, 'theirs')">Take theirs</a-button>
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
