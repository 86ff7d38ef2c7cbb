import { computed, type Ref, ref } from 'vue'
import type { Column, Sort } from './columns'

/** Rows in the order of a column; as they came while none is chosen. */
export function sortRows<R>(rows: readonly R[], columns: Column<R>[], sort?: Sort): readonly R[] {
  const by = columns.find((c) => c.name === sort?.by)
  if (!by) return rows
  const text = (r: R) => String(by.of?.(r) ?? '')
  const turn = sort!.down ? -1 : 1
  return [...rows].sort((a, b) => turn * inOrder(text(a), text(b)))
}

const number = /^-?\d+(\.\d+)?$/
/** Figures by their size, below nought too; all else by its words, with the numbers in them. */
export function inOrder(a: string, b: string): number {
  if (number.test(a) && number.test(b)) return Number(a) - Number(b)
  return a.localeCompare(b, 'en', { numeric: true })
}

/** Rows that are all here, in the order that was chosen by a column. */
export function useLocalSort<R>(rows: Ref<readonly R[]>, columns: Ref<Column<R>[]> | Column<R>[], first?: Sort) {
  const sort = ref<Sort | undefined>(first)
  const sorted = computed(() => sortRows(rows.value, 'value' in columns ? columns.value : columns, sort.value))
  return { sort, sorted }
}
