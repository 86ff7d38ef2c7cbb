<script setup lang="ts">
import { computed } from 'vue'
import PartGuard from './PartGuard.vue'
import QueryState from './QueryState.vue'
import { type Asked, isMissing } from './asked'

/**
 * The three parts of every station: what waits, the sheet being worked on, before and after. What a part was asked for
 * and is not there is said in its place: a blank part would look like an empty warehouse.
 */
const props = defineProps<{ waits: string; waiting?: Asked[]; sheet?: Asked[] }>()
const missing = computed(() => props.sheet?.find(isMissing))
const waitingMissing = computed(() => props.waiting?.find(isMissing))
</script>

<template>
  <div class="bench" :class="{ wide: !$slots.after }">
    <nav class="q" :aria-label="waits" tabindex="0">
      <QueryState v-if="waitingMissing" :query="waitingMissing" :rows="6" />
      <slot name="waiting" />
    </nav>
    <section class="sheet" tabindex="-1">
      <QueryState v-if="missing" :query="missing" :rows="8" />
      <PartGuard v-else><slot /></PartGuard>
    </section>
    <aside v-if="$slots.after" class="fx" aria-label="Before and after"><slot name="after" /></aside>
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: 272px minmax(0, 1fr) 316px;
  height: 100%;
}
.bench.wide {
  grid-template-columns: 272px minmax(0, 1fr);
}
.q {
  border-right: 1px solid var(--line);
  padding: 14px 12px;
  overflow-y: auto;
}
.sheet {
  padding: 16px 22px;
  overflow-y: auto;
}
.fx {
  background: var(--shade);
  border-left: 1px solid var(--line);
  padding: 16px 18px;
  display: flex;
  flex-direction: column;
  overflow-y: auto;
}
@media (max-width: 1100px) {
  .bench {
    grid-template-columns: 216px minmax(0, 1fr) 264px;
  }
  .bench.wide {
    grid-template-columns: 216px minmax(0, 1fr);
  }
  .sheet {
    padding: 14px;
  }
}
@media (min-width: 1700px) {
  .bench {
    grid-template-columns: 320px minmax(0, 1fr) 380px;
  }
  .bench.wide {
    grid-template-columns: 320px minmax(0, 1fr);
  }
}
@media (max-width: 900px) {
  .bench,
  .bench.wide {
    display: block;
    height: auto;
  }
  .q {
    border-right: 0;
    border-bottom: 1px solid var(--line);
    max-height: 40vh;
  }
  .fx {
    border-left: 0;
    border-top: 1px solid var(--line);
    min-height: 260px;
  }
}
@media print {
  .bench,
  .bench.wide {
    display: block;
    height: auto;
  }
  .q,
  .fx {
    display: none;
  }
  .sheet {
    overflow: visible;
    padding: 0;
  }
}
</style>
