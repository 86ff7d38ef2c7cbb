<script lang="ts">
/** What was typed so far where a question gives way to another in the middle of a scan. */
let halfTyped = ''
</script>

<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

/** The question of the moment. A wedge scanner types into its field and ends with Enter; so may a person. */
const props = defineProps<{ question: string; hint?: string; wrong?: string; right?: string[]; step: string }>()
const emit = defineEmits<{ scan: [text: string] }>()
const text = ref(halfTyped)
const field = ref<HTMLInputElement>()
const focus = () => field.value?.focus({ preventScroll: true })
onMounted(focus)
watch(() => props.step, focus)
onBeforeUnmount(() => {
  halfTyped = text.value
  setTimeout(() => (halfTyped = ''))
})

function submit() {
  const scan = text.value.trim()
  text.value = ''
  if (scan) emit('scan', scan)
}
</script>

<template>
  <form class="ask" :class="{ wrong }" @submit.prevent="submit">
    <div v-for="r in right" :key="r" class="ok">✓ {{ r }}</div>
    <div v-if="wrong" role="alert" data-wrong>{{ wrong }}</div>
    <label
      >{{ question }}<span v-if="hint && !wrong">{{ hint }}</span
      ><input ref="field" v-model="text" data-scan autocomplete="off" spellcheck="false" enterkeyhint="done"
    /></label>
  </form>
</template>
