import { nextTick, ref, type Ref } from 'vue'

/** Rows walked by keyboard: one is in the tab order; arrows walk, Space ticks, Enter opens. */
export function useRows(
  count: Ref<number>,
  act: { show: (i: number) => void; open: (i: number) => void; tick?: (i: number) => void },
  root: Ref<HTMLElement | undefined>,
) {
  const at = ref(0)
  async function go(to: number) {
    at.value = Math.max(0, Math.min(count.value - 1, to))
    act.show(at.value)
    await nextTick()
    // A windowed list draws the row after it has scrolled there.
    requestAnimationFrame(() =>
      root.value?.querySelector<HTMLElement>(`[data-row="${at.value}"]`)?.focus({ preventScroll: true }),
    )
  }
  const page = 12
  const moves: Record<string, (i: number) => number> = {
    ArrowDown: (i) => i + 1,
    ArrowUp: (i) => i - 1,
    PageDown: (i) => i + page,
    PageUp: (i) => i - page,
    Home: () => 0,
    End: () => count.value - 1,
  }
  function onKey(e: KeyboardEvent, i: number) {
    if (e.target !== e.currentTarget || e.ctrlKey || e.altKey) return
    const move = moves[e.key]
    if (move) void go(move(i))
    else if (e.key === ' ' && act.tick) act.tick(i)
    else if (e.key === 'Enter') act.open(i)
    else return
    e.preventDefault()
    e.stopPropagation()
  }
  return { at, onKey }
}
