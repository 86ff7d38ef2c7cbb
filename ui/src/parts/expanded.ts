import { onMounted, type Ref, ref, watch } from 'vue'

/**
 * Says to screen readers whether a finder's list is open. Ant Design Vue gives the field the role of a combobox
 * without the aria-expanded that the role requires.
 */
export function useExpanded(root: Ref<HTMLElement | undefined>) {
  const open = ref(false)
  const say = () => root.value?.querySelector('input')?.setAttribute('aria-expanded', String(open.value))
  onMounted(say)
  watch(open, say)
  return open
}
