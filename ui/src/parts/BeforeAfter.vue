<script setup lang="ts">
import { computed } from 'vue'
import type { Problem, Schemas } from '@/api/client'
import { can } from '@/api/session'
import WholeWords from './WholeWords.vue'

/** The moves an action will make, what they change, and on its foot the one button that does it. */
const props = defineProps<{
  plan?: Schemas['LedgerPlan']
  problem?: Problem
  done?: string
  /** What takes the last step back, while that is offered. */
  undo?: () => Promise<unknown>
  busy?: boolean
  fresh?: boolean
  idle: string
  doing: string
  /** The operation that does it: whoever may not use it is not offered the button. */
  by: Parameters<typeof can>[0]
}>()
defineEmits<{ go: [] }>()
const moves = computed(() => props.plan?.moves ?? [])
const button = computed(() => (props.busy ? 'Doing it' : (props.plan?.button ?? props.doing)))
</script>

<template>
  <h2>
    <span>Before and after</span
    ><span v-if="moves.length">{{ moves.length }} {{ moves.length === 1 ? 'move' : 'moves' }}</span>
  </h2>
  <div class="body" tabindex="0" role="group" aria-label="Moves and changes">
    <div v-if="done" class="note g" role="status">
      {{ done }} <a-button v-if="undo" size="small" :disabled="busy" @click="undo()">Undo</a-button>
    </div>
    <div v-if="problem" class="note s" role="alert" data-problem>{{ problem.message }}</div>
    <div v-else-if="!plan && !done" class="empty">{{ idle }}</div>
    <template v-if="plan">
      <div v-for="(m, i) in moves" :key="i" class="mv">
        <div class="p">
          <span class="mono">{{ m.from }}</span> <span class="mute">to</span> <span class="mono">{{ m.to }}</span><b
            class="mono q"
            >{{ m.quantity }}</b
          >
        </div>
        <div class="d">
          <span
            >{{ m.sku }}<template v-if="m.lot"> lot {{ m.lot }}</template></span
          >
          <details v-if="m.serials?.length" class="units">
            <summary>{{ m.serials.length }} {{ m.serials.length === 1 ? 'unit' : 'units' }} by serial</summary>
            <span class="mono">{{ m.serials.join(' ') }}</span>
          </details>
        </div>
        <div class="d mono">
          <span v-if="m.from_real">{{ m.from_before }} becomes {{ m.from_after }}</span
          ><span v-else>from outside</span> <span v-if="m.to_real">{{ m.to_before }} becomes {{ m.to_after }}</span
          ><span v-else>leaves stock</span>
        </div>
      </div>
      <div v-if="plan.changes.length" class="mv">
        <div v-for="c in plan.changes" :key="c.what" class="d">
          <span>{{ c.what }}</span><b class="mono">{{ c.before }} becomes {{ c.after }}</b>
        </div>
      </div>
      <div v-for="n in plan.notes" :key="n" class="note g"><WholeWords :text="n" /></div>
      <div v-for="w in plan.warnings" :key="w" class="note w"><WholeWords :text="w" /></div>
    </template>
    <slot />
  </div>
  <p v-if="!can(by)" class="mute small">Your role looks at this only.</p>
  <button v-else class="go" data-primary :disabled="!plan || !!problem || busy || fresh === false" @click="$emit('go')">
    <WholeWords :text="button" /><kbd>Ctrl Enter</kbd>
  </button>
</template>

<style scoped>
.body {
  flex: 1;
  overflow-y: auto;
  min-height: 0;
  margin-bottom: 10px;
}
.mv {
  background: var(--sheet);
  border-radius: 8px;
  padding: 9px 12px;
  margin-bottom: 8px;
  border: 1px solid var(--line);
}
.p {
  display: flex;
  align-items: baseline;
  gap: 6px;
  font-weight: 700;
  flex-wrap: wrap;
}
.p .q {
  margin-left: auto;
}
.d {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  font-size: 13px;
  color: var(--mute);
  flex-wrap: wrap;
}
.d b {
  color: var(--ink);
  white-space: normal;
  margin-left: auto;
  text-align: right;
}
.units {
  flex-basis: 100%;
}
.units .mono {
  white-space: normal;
}
.units summary {
  cursor: pointer;
  min-height: 24px;
}
.go {
  border: 0;
  font: inherit;
  text-align: left;
  background: var(--act);
  color: #fff;
  border-radius: 8px;
  padding: 13px 16px;
  font-size: 17px;
  font-weight: 700;
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
  cursor: pointer;
  flex: none;
}
.go:disabled {
  background: var(--idle);
  cursor: default;
}
.go kbd {
  white-space: nowrap;
  border: 1px solid #7fb0a4;
  border-radius: 4px;
  font-size: 12px;
  padding: 1px 7px;
  font-weight: 400;
  background: none;
}
</style>
