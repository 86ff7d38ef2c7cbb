<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, Problem, type Schemas } from '@/api/client'
import { plural } from '@/parts/words'
import { serialOf } from '@/parts/serials'
import TextEntry from '@/parts/TextEntry.vue'

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
    emit('add', await serialOf(scan, props.line.item_id))
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
        <TextEntry
          v-model="text"
          placeholder="last serial"
          :label="`${line.sku} last serial of the range`"
          mono
          :width="143"
          @keydown.enter.prevent="range"
        />
        <a-button type="link" size="small" @click="first = ''">No range</a-button>
      </template>
      <template v-else>
        <TextEntry
          v-model="text"
          placeholder="scan a serial"
          :label="`${line.sku} serial`"
          data-serial
          mono
          :width="170"
          @keydown.enter.prevent="enter"
        />
        <a-button type="link" size="small" :disabled="!text" @click="((first = text.trim()), (text = ''))">
          Begin a range
        </a-button>
      </template>
      <span class="mono small" data-count>{{ plural(serials.length, 'serial') }}</span>
    </div>
    <div v-if="wrong || said" class="late small" role="alert">{{ wrong || said }}</div>
    <div class="list">
      <span v-if="serials.length > shown.length" class="mute small">{{ serials.length - shown.length }} more,</span>
      <a-button
        v-for="code in shown"
        :key="code"
        type="link"
        size="small"
        class="mono"
        :aria-label="`Remove ${code}`"
        @click="emit('drop', code)"
      >
        {{ code }} ×
      </a-button>
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
