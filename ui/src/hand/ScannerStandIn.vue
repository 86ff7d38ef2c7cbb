<script setup lang="ts">
/** A simulated scanner: it types into the field that waits for a scan, as a real one does. */
defineProps<{ labels: { name: string; code: string }[] }>()

function pull(code: string) {
  const field = document.querySelector<HTMLInputElement>('[data-scan]')
  if (!field) return
  field.focus()
  field.value = code
  field.dispatchEvent(new Event('input', { bubbles: true }))
  field.form?.requestSubmit()
}
</script>

<template>
  <details class="standin">
    <summary>Scanner stand-in</summary>
    <p>Not a real scanner: each button sends what one would read.</p>
    <button v-for="l in labels" :key="l.name + l.code" type="button" :data-label="l.name" @click="pull(l.code)">
      {{ l.name }}<small class="mono">{{ l.code }}</small>
    </button>
  </details>
</template>

<style scoped>
.standin {
  margin: 14px 18px 0;
  border: 1px dashed #7d6c53;
  border-radius: 10px;
  padding: 4px 12px;
  color: #d6c7aa;
  font-size: 15px;
}
summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
}
p {
  margin: 0 0 8px;
}
button {
  font: inherit;
  display: block;
  width: 100%;
  text-align: left;
  background: #2b241c;
  color: #fff6e4;
  border: 0;
  border-radius: 8px;
  padding: 10px 12px;
  margin-bottom: 6px;
  min-height: 48px;
}
small {
  display: block;
  color: #d6c7aa;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
