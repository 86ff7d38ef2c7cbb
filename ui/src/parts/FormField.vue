<script setup lang="ts">
import { computed, provide, useId } from 'vue'
import { labelledKey, useRefusal } from './entry'
import HelpTip from './HelpTip.vue'

/** A labelled entry: its help beside the label, and under it what is wrong, or what to look out for. */
const props = defineProps<{
  label: string
  tip?: string
  /** What the server calls the field: its refusal of it shows here. */
  field?: string
  wrong?: string
  warn?: string
  required?: boolean
}>()
const id = useId()
const wrong = useRefusal(props)
provide(labelledKey, {
  id,
  wrong,
  required: computed(() => !!props.required),
  described: computed(
    () =>
      [wrong.value || props.warn ? `${id}-says` : '', props.tip ? `${id}-tip` : ''].filter(Boolean).join(' ') ||
      undefined,
  ),
})
</script>

<template>
  <div class="form-field">
    <div class="form-label">
      <label :for="id">{{ label }}</label>
      <span v-if="required" class="needed" aria-hidden="true">needed</span>
      <HelpTip v-if="tip" :about="label" :tip="tip" :describes="`${id}-tip`" />
    </div>
    <a-form-item :validate-status="wrong ? 'error' : warn ? 'warning' : undefined"><slot /></a-form-item>
    <div v-if="wrong || warn" :id="`${id}-says`" class="explain" :class="{ wrong }" :role="wrong ? 'alert' : undefined">
      {{ wrong || warn }}
    </div>
    <span v-if="tip" :id="`${id}-tip`" hidden>{{ tip }}</span>
  </div>
</template>

<style scoped>
.form-field {
  min-width: 0;
}
.form-label {
  display: flex;
  gap: 6px;
  align-items: center;
  min-height: 24px;
  color: var(--mute);
}
.form-label label {
  font-size: 13px;
}
.needed {
  font-size: 12px;
  font-style: italic;
}
.form-field :deep(.ant-form-item) {
  margin: 0;
}
.explain {
  font-size: 13px;
  max-width: 300px;
  color: var(--warn-ink);
}
.explain.wrong {
  color: var(--stop-text);
}
</style>
