<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import dayjs from 'dayjs'
import customParseFormat from 'dayjs/plugin/customParseFormat'
import { ref } from 'vue'
import { type EntryProps, useEntry } from './entry'
import EntryBox from './EntryBox.vue'
import { looksGS1 } from './serials'

dayjs.extend(customParseFormat)

/** A day as 2027-12-31, picked, or typed in that form, as 20271231 or as 31.12.2027, or out of a label scanned here. */
const props = defineProps<
  EntryProps & {
    width?: number
    disabled?: boolean
    clear?: boolean
    placeholder?: string
    /** Reads a day out of a label; without it no label is taken. */
    scanned?: (text: string) => Promise<string>
  }
>()
defineOptions({ inheritAttrs: false })
const value = defineModel<string | undefined>({ required: true })
const formats = ['YYYY-MM-DD', 'YYYYMMDD', 'D.M.YYYY']
/** What was typed and is no day: it is said, since the picker takes it away. */
const unread = ref('')
const refused = ref('')
const { id, wrong, says, status } = useEntry(props, () =>
  refused.value ? refused.value : unread.value ? `${unread.value} is no day. Write it as 2027-12-31.` : '',
)
const read = (text: string) => formats.map((f) => dayjs(text, f, true)).find((d) => d.isValid())

/** While a day is typed, a mouse that rests where the calendar opens does not put the day under it into the field. */
const typing = ref(false)
useEventListener(document, 'mousemove', (e) => {
  if (e.movementX || e.movementY) typing.value = false
})

/** A day that is typed whole counts at once, without Enter. */
function typed(e: Event) {
  const text = (e.target as HTMLInputElement).value.trim()
  unread.value = refused.value = ''
  const day = /\d{4}$|^\d{4}-\d\d-\d\d$|^\d{8}$/.test(text) ? read(text) : undefined
  if (day) value.value = day.format('YYYY-MM-DD')
  else if (text === '') value.value = ''
}
/** A scanner's Enter behind a label: the picker would take it for a day that it cannot read. */
async function entered(e: KeyboardEvent) {
  const text = (e.target as HTMLInputElement).value.trim()
  if (!props.scanned || !looksGS1(text)) return
  e.preventDefault()
  e.stopPropagation()
  try {
    value.value = await props.scanned(text)
  } catch (problem) {
    refused.value = (problem as Error).message
  }
}
function left(e: FocusEvent) {
  const text = (e.target as HTMLInputElement).value.trim()
  unread.value = text && !read(text) ? text : ''
}
</script>

<template>
  <EntryBox :id="id" ref="box" :says="says" :wrong="wrong">
    <span
      @input.capture="typed"
      @keydown.capture="typing = true"
      @keydown.enter.capture="entered"
      @focusout.capture="left"
    >
      <a-date-picker
        v-bind="$attrs"
        :id="id"
        :value="value || undefined"
        class="mono"
        :popup-class-name="typing ? 'unhovered' : ''"
        value-format="YYYY-MM-DD"
        :format="formats"
        :placeholder="placeholder ?? 'yyyy-mm-dd'"
        :style="{ width: `${width ?? 138}px` }"
        :status="status"
        :disabled="disabled"
        :allow-clear="!!clear"
        :show-today="true"
        @update:value="(v: unknown) => ((value = (v as string) ?? ''), (unread = ''))"
      />
    </span>
  </EntryBox>
</template>
