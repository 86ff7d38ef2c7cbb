import { computed, type Ref, ref } from 'vue'
import type { Column, Sort } from './columns'

/** Rows that are all here, in the order that was chosen by a column; as they came while none is. */
export function useLocalSort<R>(rows: Ref<readonly R[]>, columns: Ref<Column<R>[]> | Column<R>[], first?: Sort) {
  const sort = ref<Sort | undefined>(first)
  const sorted = computed(() => {
    const all = 'value' in columns ? columns.value : columns
    const by = all.find((c) => c.name === sort.value?.by)
    if (!by) return rows.value
    const text = (r: R) => String(by.of?.(r) ?? '')
    const turn = sort.value!.down ? -1 : 1
    return [...rows.value].sort((a, b) => turn * text(a).localeCompare(text(b), 'en', { numeric: true }))
  })
  return { sort, sorted }
}
