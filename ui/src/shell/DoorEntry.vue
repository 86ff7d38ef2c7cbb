<script setup lang="ts">
import { ref } from 'vue'

/** What is asked at the door. */
defineProps<{ label: string; type?: 'password'; complete?: string; wrong?: boolean; needless?: boolean }>()
const value = defineModel<string>({ required: true })
const box = ref<{ focus: () => void }>()
defineExpose({ focus: () => box.value?.focus() })
</script>

<template>
  <label class="field"
    >{{ label
    }}<a-input
      ref="box"
      v-model:value="value"
      :type="type ?? 'text'"
      :autocomplete="complete ?? 'off'"
      :status="wrong ? 'error' : ''"
      :required="!needless"
  /></label>
</template>

<style scoped>
.field {
  color: #d9ccb5;
}
.field :deep(input) {
  min-height: 44px;
  background: #fffdf8;
  color: #231d14;
}
</style>
