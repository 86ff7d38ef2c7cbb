<script setup lang="ts">
import { computed, onScopeDispose, ref, watch } from 'vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { when } from '@/parts/words'

/** Takes the floor back to any instant since its first move, plays on from there, and goes back to now. */
const props = defineProps<{ first: string | null }>()
/** The instant that is looked at, in ms; null for now. */
const at = defineModel<number | null>('at', { required: true })
const now = ref(Date.now())
const begin = computed(() => (props.first ? new Date(props.first).getTime() : now.value - 7 * 86_400_000))
const speeds = [
  { value: 60, label: 'a minute a second' },
  { value: 600, label: 'ten minutes a second' },
  { value: 3600, label: 'an hour a second' },
]
const speed = ref(600)
const playing = ref(false)
/** How often the picture is drawn anew while it plays, in ms. */
const beat = 500
let timer: ReturnType<typeof setInterval> | undefined
watch(playing, (on) => {
  clearInterval(timer)
  if (on) timer = setInterval(step, beat)
})
onScopeDispose(() => clearInterval(timer))
function step() {
  const next = (at.value ?? begin.value) + speed.value * beat
  if (next >= Date.now()) back()
  else at.value = next
}
function back() {
  playing.value = false
  now.value = Date.now()
  at.value = null
}
function play() {
  at.value ??= Math.max(begin.value, now.value - 86_400_000)
  playing.value = !playing.value
}
/** A drag is followed, but not at every pixel. */
let rest: ReturnType<typeof setTimeout> | undefined
function drag(to: number | [number, number]) {
  const ms = Array.isArray(to) ? to[0] : to
  clearTimeout(rest)
  rest = setTimeout(() => (ms >= now.value - 30_000 ? back() : (at.value = Math.max(begin.value, ms))), 120)
}
const minute = 60_000
const says = (ms?: number) => (ms ? when(new Date(ms).toISOString()) : '')
</script>

<template>
  <div class="rewind" data-rewind>
    <a-button size="small" :aria-pressed="playing" @click="play">{{ playing ? 'Stop' : 'Play' }}</a-button>
    <a-slider
      class="line"
      :min="begin"
      :max="now"
      :step="minute"
      :value="at ?? now"
      :tip-formatter="says"
      aria-label-for-handle="When the floor is looked at"
      @update:value="drag"
    />
    <b class="mono" data-when>{{ at ? says(at) : 'now' }}</b>
    <ChoiceEntry v-model="speed" label="How quickly it plays" size="small" :options="speeds" :width="204" />
    <a-button size="small" :disabled="at === null" @click="back">Back to now</a-button>
  </div>
</template>

<style scoped>
.rewind {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-top: 10px;
}
.line {
  flex: 1;
  margin: 0 6px;
}
</style>
