import { onMounted, type Ref, ref, watch } from 'vue'

/**
 * Says to screen readers whether a finder's list is open. Ant Design Vue gives the field the role of a combobox
 * without the aria-expanded that the role requires, and with an active option that is not there while it is closed.
 */
export function useExpanded(root: Ref<HTMLElement | undefined>) {
  const open = ref(false)
  function say() {
    const field = root.value?.querySelector('input')
    field?.setAttribute('aria-expanded', String(open.value))
    if (open.value) field?.setAttribute('aria-activedescendant', `${field.id}_list_0`)
    else field?.removeAttribute('aria-activedescendant')
  }
  onMounted(say)
  watch(open, say, { flush: 'post' })
  return open
}
