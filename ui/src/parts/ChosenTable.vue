<script setup lang="ts" generic="T extends { id: number; number: string }">
import { computed } from 'vue'

/** A list of documents as a table, with the columns that were chosen. */
export type Column<T> = { name: string; label: string; of: (row: T) => string; right?: boolean; mono?: boolean }
const props = defineProps<{
  columns: Column<T>[]
  chosen: string[]
  rows: T[]
  to: (row: T) => string
  late: (row: T, column: string) => boolean
  label: string
}>()
const shown = computed(() => props.columns.filter((c) => props.chosen.includes(c.name)))
</script>

<template>
  <div class="wide" tabindex="0" role="group" :aria-label="label">
    <table class="plain" data-orders>
      <thead>
        <tr>
          <th>Order</th>
          <th v-for="c in shown" :key="c.name" :class="{ r: c.right }">{{ c.label }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.id">
          <td class="mono">
            <router-link :to="to(row)">{{ row.number }}</router-link>
          </td>
          <td v-for="c in shown" :key="c.name" :class="{ r: c.right, mono: c.mono, late: late(row, c.name) }">
            {{ c.of(row) }}
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
