<script setup lang="ts">
import { ref } from 'vue'

/** A step that cannot be taken back asks once, and says what will happen. */
defineProps<{
  label: string
  title: string
  /** What will happen, in numbers. */
  happens: string
  /** The verb on the button that does it. */
  does: string
  busy?: boolean
  link?: boolean
}>()
const emit = defineEmits<{ confirm: [] }>()
const asking = ref(false)
function go() {
  asking.value = false
  emit('confirm')
}
</script>

<template>
  <a-button
    :disabled="busy"
    :type="link ? 'link' : 'default'"
    :size="link ? 'small' : 'middle'"
    @click="asking = true"
    >{{ label }}</a-button
  >
  <a-modal v-model:open="asking" :title="title" :wrap-props="{ 'aria-modal': true }" width="440px">
    <p>{{ happens }}</p>
    <template #footer>
      <a-button @click="asking = false">Leave it as it is</a-button>
      <a-button type="primary" danger data-primary @click="go">{{ does }}</a-button>
    </template>
  </a-modal>
</template>
