import { computed, inject, type InjectionKey, onMounted, onUpdated, type Ref, useId, useTemplateRef } from 'vue'
import type { Problem } from '@/api/client'

/** What a form tells the entries in it: what the server refused, and of which field. */
export const refusalKey: InjectionKey<Readonly<Ref<Problem | undefined>>> = Symbol('refusal')

/** What a labelled field tells the entry in it. */
export interface Labelled {
  id: string
  /** The id of the element that helps or refuses, for those who hear the page. */
  described: Readonly<Ref<string | undefined>>
  required: Readonly<Ref<boolean>>
  wrong: Readonly<Ref<string>>
}
export const labelledKey: InjectionKey<Labelled> = Symbol('labelled')

export interface EntryProps {
  /** The name of an entry that stands in a table, without a label beside it. */
  label?: string
  /** What the server calls the field: its refusal of it shows here. */
  field?: string
  wrong?: string
}

/** What is wrong with a field: as it is told, or as the server refused it in the form around it. */
export function useRefusal(props: { field?: string; wrong?: string }) {
  const refusal = inject(refusalKey, undefined)
  return computed(
    () => props.wrong || (props.field && refusal?.value?.field === props.field ? refusal.value.message : ''),
  )
}

/**
 * What every entry has: its id, what is wrong with it, and that the control says so. Ant Design Vue puts attributes
 * of a select and of a picker on the element around the control, where nobody hears them; so they are written there.
 * The EntryBox around the control has the template reference "box"; `found` is what the entry itself finds wrong with what was typed.
 */
export function useEntry(props: EntryProps, found: () => string = () => '') {
  const labelled = inject(labelledKey, undefined)
  const refused = useRefusal(props)
  const box = useTemplateRef<{ $el: HTMLElement }>('box')
  const id = labelled?.id ?? useId()
  const own = computed(() => refused.value || found())
  const wrong = computed(() => labelled?.wrong.value || own.value)
  /** What the entry has to say; a refusal of a labelled one is said by its field. */
  const says = computed(() => (labelled ? found() : own.value))
  function speak() {
    const control = box.value?.$el.querySelector('input, textarea')
    if (!control) return
    const set = (name: string, value: string | undefined) =>
      value ? control.setAttribute(name, value) : control.removeAttribute(name)
    if (!labelled) set('aria-label', props.label)
    set('aria-invalid', wrong.value ? 'true' : undefined)
    set('aria-required', labelled?.required.value ? 'true' : undefined)
    set('aria-describedby', labelled?.described.value || (says.value ? `${id}-says` : undefined))
  }
  onMounted(speak)
  onUpdated(speak)
  const status = computed(() => (wrong.value ? ('error' as const) : undefined))
  return { id, wrong, says, status }
}
