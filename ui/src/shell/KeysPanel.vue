<script setup lang="ts">
/** The keys of the page. */
const emit = defineEmits<{ close: [] }>()
const keys: [string, string][] = [
  ['/', 'to the scan line'],
  ['Alt 1 … 0', 'the stations, Receive to Audit'],
  ['Ctrl Enter', 'press the button under before and after'],
  ['Enter', 'to the next field; on a row of a list, open it'],
  ['↑ ↓', 'along the rows of a list'],
  ['Space', 'tick the row'],
  ['Escape', 'close what is open, leave the field, then go back'],
  ['?', 'show or hide this'],
]
</script>

<template>
  <div class="keys" role="dialog" aria-label="Keys of this page">
    <h2>Keys</h2>
    <dl>
      <template v-for="[key, does] in keys" :key="key">
        <dt>{{ key }}</dt>
        <dd>{{ does }}</dd>
      </template>
    </dl>
    <router-link to="/reference" @click="emit('close')">The API, for programs</router-link>
  </div>
</template>

<style scoped>
.keys {
  position: fixed;
  right: 20px;
  bottom: 20px;
  background: var(--night);
  color: #f4ead9;
  border: 1px solid #6c5c46;
  border-radius: 10px;
  padding: 14px 18px;
  width: 350px;
  z-index: 20;
}
.keys a {
  display: inline-block;
  margin-top: 8px;
  min-height: 24px;
  color: #f2c877;
}
.keys h2 {
  color: #f2c877;
}
dl {
  display: grid;
  grid-template-columns: 96px 1fr;
  gap: 4px 10px;
  margin: 0;
  font-size: 14px;
}
dt {
  font-family: 'Atkinson Hyperlegible Mono', monospace;
  color: #ffe0a3;
}
dd {
  margin: 0;
}
</style>
