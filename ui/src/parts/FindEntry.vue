<script setup lang="ts" generic="T">
import { computed, onScopeDispose, ref } from 'vue'
import { type EntryProps, useEntry } from './entry'
import EntryBox from './EntryBox.vue'

/**
 * One of many, found by the server from what is typed or scanned. Enter never takes what was found for another text:
 * it waits for the answer to exactly what stands in the field, takes the one of that code, and says when there is none.
 */
interface Option {
  value: number
  label: string
  /** The codes that name it exactly. */
  code: string[]
  of: T
}
const props = defineProps<
  EntryProps & {
    find: (text: string, stop: AbortSignal) => Promise<Option[]>
    chosen?: Option
    placeholder?: string
    width?: number
    disabled?: boolean
    /** What is chosen goes elsewhere: the field is empty again. */
    clears?: boolean
  }
>()
const emit = defineEmits<{ choose: [option: Option]; clear: [] }>()
defineSlots<{ option: (option: Option) => unknown }>()
const none = ref('')
const { id, wrong, says, status } = useEntry(props, () => none.value)
const found = ref<Option[]>([])
/** The text that what is found is the answer to. */
const answered = ref<string>()
const text = ref('')
const busy = ref(false)
const open = ref(false)
const said = ref('')
let waited = false
/** What is found is walked through with the arrows. */
let walked = false
let stop = new AbortController()
let rest: ReturnType<typeof setTimeout>

const options = computed(() => {
  const list = found.value as Option[]
  const all =
    props.chosen && !list.some((o) => o.value === props.chosen!.value) && !text.value ? [props.chosen, ...list] : list
  return all.map((o) => ({ value: o.value, label: o.label, option: o }))
})

function typed(t: string) {
  text.value = t
  none.value = ''
  waited = walked = false
  found.value = []
  answered.value = undefined
  busy.value = true
  clearTimeout(rest)
  rest = setTimeout(look, 150)
}
async function look() {
  clearTimeout(rest)
  stop.abort()
  const mine = (stop = new AbortController())
  const asked = text.value
  busy.value = true
  try {
    const list = await props.find(asked, mine.signal)
    if (mine !== stop) return
    found.value = list
    answered.value = asked
    if (waited) settle()
  } catch (e) {
    if (mine !== stop) return
    answered.value = asked
    if (waited) none.value = (e as Error).message
    waited = false
  } finally {
    if (mine === stop) busy.value = false
  }
}
/** Takes what the text names exactly, or the only one that is found. */
function settle() {
  waited = false
  const wanted = text.value.trim().toLowerCase()
  const list = found.value as Option[]
  const exact = list.filter((o) => o.code.some((c) => c.toLowerCase() === wanted))
  const one = exact.length === 1 ? exact[0] : list.length === 1 ? list[0] : undefined
  if (one) return take(one)
  if (list.length) said.value = `${list.length} found: choose one`
  else none.value = `Nothing here is called ${text.value.trim()}.`
}
function take(option: Option) {
  said.value = `${option.label} chosen`
  text.value = ''
  none.value = ''
  open.value = false
  found.value = []
  answered.value = undefined
  emit('choose', option)
}
function key(e: KeyboardEvent) {
  if (e.key === 'ArrowDown' || e.key === 'ArrowUp') walked = true
  if (e.key !== 'Enter' || e.ctrlKey || !text.value.trim()) return
  const wanted = text.value.trim().toLowerCase()
  const exact = (found.value as Option[]).some((o) => o.code.some((c) => c.toLowerCase() === wanted))
  // What is found for this very text is chosen from as it stands there; all else waits for the answer.
  if (answered.value === text.value && found.value.length && (walked || !exact)) return
  e.preventDefault()
  e.stopPropagation()
  waited = true
  if (answered.value === text.value) settle()
  else void look()
}
function shown(o: boolean) {
  open.value = o
  if (o && answered.value === undefined) void look()
}
function select(value: unknown) {
  const option = (found.value as Option[]).find((o) => o.value === value)
  if (option) take(option)
  else if (value === undefined) emit('clear')
}
onScopeDispose(() => {
  clearTimeout(rest)
  stop.abort()
})
</script>

<template>
  <EntryBox :id="id" ref="box" :says="says" :wrong="wrong" :style="{ width: width ? undefined : '100%' }">
    <a-select
      :id="id"
      :value="clears ? (null as never) : chosen?.value"
      :open="open"
      :search-value="text"
      show-search
      :allow-clear="!clears"
      :filter-option="false"
      :default-active-first-option="true"
      :options="options as never"
      :loading="busy"
      :not-found-content="busy ? 'Looking' : 'Nothing found'"
      :placeholder="placeholder"
      :style="{ width: width ? `${width}px` : '100%' }"
      :dropdown-match-select-width="clears ? 520 : false"
      :status="status"
      :disabled="disabled"
      @dropdown-visible-change="shown"
      @search="typed"
      @input-key-down="key"
      @update:value="select"
    >
      <template #option="{ option, label: words }">
        <slot v-if="option" name="option" v-bind="option as Option">{{ words }}</slot>
      </template>
    </a-select>
    <span class="skip" role="status">{{ said }}</span>
  </EntryBox>
</template>
