<script setup lang="ts" generic="R extends object">
import { defineAsyncComponent, ref } from 'vue'
import type { Chart } from './chart/chart'
import type { Column } from './columns'
import PartGuard from './PartGuard.vue'
import SheetTable from './SheetTable.vue'

/** A picture of figures, and the same as a table for those who read. */
defineProps<{
  title: string
  /** What the picture says, in a sentence. */
  says: string
  chart: Chart
  /** The same as a table, where none stands beside it. */
  columns?: Column<R>[]
  rows?: readonly R[]
  rowKey?: (row: R) => string | number
  height?: number
}>()
const ChartCanvas = defineAsyncComponent(() => import('./chart/ChartCanvas.vue'))
const asTable = ref(false)
</script>

<template>
  <section class="day-chart">
    <h2>
      <span>{{ title }}</span><button
        v-if="columns"
        type="button"
        class="bare"
        :aria-pressed="asTable"
        @click="asTable = !asTable"
      >
        {{ asTable ? 'As a picture' : 'As a table' }}
      </button>
    </h2>
    <SheetTable
      v-if="asTable && columns && rowKey"
      :columns="columns"
      :rows="rows ?? []"
      :row-key="rowKey"
      :label="title"
    />
    <PartGuard v-else>
      <div class="drawn" role="img" :aria-label="says" :style="{ height: `${height ?? 210}px` }">
        <ChartCanvas :chart="chart" />
      </div>
    </PartGuard>
  </section>
</template>

<style scoped>
.day-chart {
  margin: 18px 0 0;
}
h2 {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 12px;
}
.bare {
  font: inherit;
  font-size: 13px;
  font-weight: 400;
  background: none;
  border: 0;
  padding: 2px 0;
  min-height: 24px;
  color: var(--act-ink);
  text-decoration: underline;
  cursor: pointer;
}
.drawn {
  width: 100%;
}
@media print {
  .bare {
    display: none;
  }
}
</style>
