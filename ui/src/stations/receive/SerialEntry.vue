<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, Problem, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { serialOf } from '@/parts/serials'

/** Units taken down one by one: the field takes a scan and waits for the next, or a whole range. */
const props = defineProps<{ line: Schemas['InboundLine']; serials: string[]; said: string }>()
const emit = defineEmits<{ add: [code: string]; drop: [code: string] }>()
const text = ref('')
const first = ref('')
const wrong = ref('')
const shown = computed(() => (props.serials.length > 12 ? props.serials.slice(-12) : props.serials))

async function enter() {
  const scan = text.value.trim()
  text.value = ''
  wrong.value = ''
  if (!scan) return
  try {
    emit('add', await serialOf(scan, { id: props.line.item_id, sku: props.line.sku }, session.site))
  } catch (e) {
    wrong.value = (e as Problem).message
  }
}

async function range() {
  const last = text.value.trim()
  text.value = ''
  wrong.value = ''
  try {
    const codes = await ask(api.GET('/api/v1/serials/range', { params: { query: { first: first.value, last } } }))
    for (const code of codes) emit('add', code)
    first.value = ''
  } catch (e) {
    wrong.value = (e as Problem).message
  }
}
</script>

<template>
  <div class="serials">
    <div class="row">
      <template v-if="first">
        <span class="mono small">{{ first }} to</span>
        <input
          v-model="text"
          class="mono"
          size="13"
          placeholder="last serial"
          :aria-label="`${line.sku} last serial of the range`"
          @keydown.enter.prevent="range"
        />
        <button class="btn bare small" @click="first = ''">no range</button>
      </template>
      <template v-else>
        <input
          v-model="text"
          class="mono"
          size="16"
          placeholder="scan a serial"
          autocomplete="off"
          spellcheck="false"
          :aria-label="`${line.sku} serial`"
          data-serial
          @keydown.enter.prevent="enter"
        />
        <button class="btn bare small" :disabled="!text" @click="((first = text.trim()), (text = ''))">
          begin a range
        </button>
      </template>
      <span class="mono small" data-count>{{ serials.length }} taken down</span>
    </div>
    <div v-if="wrong || said" class="late small" role="alert">{{ wrong || said }}</div>
    <div class="list">
      <span v-if="serials.length > shown.length" class="mute small">{{ serials.length - shown.length }} more,</span>
      <button
        v-for="code in shown"
        :key="code"
        class="btn bare mono small"
        :aria-label="`Leave ${code} out`"
        @click="emit('drop', code)"
      >
        {{ code }} ×
      </button>
    </div>
  </div>
</template>

<style scoped>
.row,
.list {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 3px 8px;
}
.list .btn {
  text-decoration: none;
}
</style>
