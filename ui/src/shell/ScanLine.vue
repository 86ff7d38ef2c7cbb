<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { nextTick, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import { hasTyped } from '@/parts/draft'
import { currentTaker, pathOf } from './scan'

const router = useRouter()
const text = ref('')
const field = ref<HTMLInputElement>()
const found = ref<Schemas['ResolvingFound'][]>([])
const said = ref('')
const at = ref(0)
/** Something is being worked on that a scan may belong to: what does not is asked about before it is left. */
const atWork = () => hasTyped.value || !!currentTaker.value?.working()
const foreign = ref(false)

useEventListener(window, 'keydown', (e: KeyboardEvent) => {
  if (e.key === '/' && !(e.target as HTMLElement).closest('input, select, textarea')) {
    e.preventDefault()
    field.value?.focus()
    field.value?.select()
  }
})

/** Scans that came while the one before them was read: each has its turn, and the field is free for the next. */
const waiting: string[] = []
let busy = false
/** What is wrong with scans of this burst: it stands until the next one, that begins when no scan came for a while. */
let wrong: string[] = []
const apart = 2000
let lastRead = 0

async function read() {
  const scan = text.value.trim()
  if (!scan) return
  if (found.value.length && said.value === scan) return open(found.value[at.value])
  text.value = ''
  waiting.push(scan)
  if (busy) return
  busy = true
  if (Date.now() - lastRead > apart) wrong = []
  try {
    for (let next = waiting.shift(); next; next = waiting.shift()) await readOne(next)
  } finally {
    busy = false
    lastRead = Date.now()
  }
}

async function readOne(scan: string) {
  found.value = []
  foreign.value = false
  said.value = wrong.join(' ')
  try {
    const reading = await ask(api.GET('/api/v1/scan', { params: { query: { site: session.site, text: scan } } }))
    if (await currentTaker.value?.take(scan, reading)) return
    if (atWork() && reading.found.length) return choose(scan, reading, true)
    const exact = reading.found.filter((f) => f.code.toLowerCase() === scan.toLowerCase())
    if (reading.found.length === 1) return open(reading.found[0])
    if (exact.length === 1) return open(exact[0])
    if (reading.goods?.lot_id) return open(reading.found[0])
    if (reading.found.length) return choose(scan, reading, false)
    refuse(scan, `Nothing here is called ${scan}.`)
  } catch (e) {
    refuse(scan, (e as Error).message)
  }
}

/** Puts what was read back into the field, unless the next is there; typing or scanning goes over it. */
function putBack(scan: string) {
  if (text.value) return
  text.value = scan
  void nextTick(() => {
    if (document.activeElement === field.value) field.value?.select()
  })
}

/** What it could mean is offered, with the text back in the field to press Enter on. */
function choose(scan: string, reading: Schemas['ResolvingReading'], asks: boolean) {
  found.value = reading.found
  at.value = 0
  foreign.value = asks
  said.value = scan
  putBack(scan)
}

function refuse(scan: string, why: string) {
  wrong.push(why)
  said.value = wrong.join(' ')
  putBack(scan)
}

function open(f?: Schemas['ResolvingFound']) {
  if (!f) return
  clear()
  void router.push(pathOf(f))
}

function empty() {
  text.value = ''
  said.value = ''
  found.value = []
  foreign.value = false
}

function clear() {
  empty()
  field.value?.blur()
}

function step(by: number) {
  at.value = (at.value + by + found.value.length) % Math.max(1, found.value.length)
}
</script>

<template>
  <form class="scan" role="search" @submit.prevent="read">
    <label for="scan">Scan or type</label>
    <input
      id="scan"
      ref="field"
      v-model="text"
      class="mono"
      autocomplete="off"
      spellcheck="false"
      placeholder="bin, item, lot, carton or order number"
      :aria-describedby="said ? 'scan-said' : undefined"
      @keydown.down.prevent="step(1)"
      @keydown.up.prevent="step(-1)"
      @keydown.esc="clear"
    />
    <kbd>/</kbd>
    <div v-if="said" id="scan-said" class="said" role="status">
      <template v-if="found.length > 1 || foreign">
        <div class="mute">
          {{
            foreign
              ? 'It does not belong to what is open here. Enter opens it instead, Escape stays:'
              : 'It could mean:'
          }}
        </div>
        <button v-for="(f, i) in found" :key="f.kind + f.id" type="button" :class="{ at: i === at }" @click="open(f)">
          <b class="mono">{{ f.code }}</b> <span>{{ f.label }}</span><i>{{ f.kind }}</i>
        </button>
      </template>
      <template v-else>{{ said }}</template>
    </div>
  </form>
</template>

<style scoped>
.scan {
  height: 52px;
  background: var(--night2);
  display: flex;
  align-items: center;
  padding: 0 20px;
  gap: 14px;
  color: #e3d7c0;
  font-size: 13px;
  position: relative;
  flex: none;
}
input {
  flex: 1;
  height: 34px;
  border-radius: 6px;
  background: #1b1612;
  border: 1px solid #7b6a50;
  padding: 6px 12px;
  color: #fff1d6;
  font-size: 15px;
}
input::placeholder {
  color: #cdbd9f;
  opacity: 1;
}
kbd {
  border: 1px solid #6c5c46;
  border-radius: 4px;
  padding: 1px 7px;
  font-size: 12px;
  color: #e8dabf;
  background: none;
}
.said {
  position: absolute;
  top: 50px;
  left: 110px;
  right: 60px;
  background: var(--sheet);
  color: var(--ink);
  border: 1px solid var(--edge);
  border-radius: 0 0 8px 8px;
  padding: 10px 14px;
  z-index: 15;
  font-size: 15px;
  max-height: 420px;
  overflow: auto;
}
.said button {
  display: flex;
  gap: 14px;
  width: 100%;
  text-align: left;
  font: inherit;
  border: 0;
  background: none;
  padding: 6px;
  border-radius: 5px;
  cursor: pointer;
}
.said button.at {
  background: var(--act2);
}
.said i {
  margin-left: auto;
  color: var(--mute);
  font-style: normal;
  font-size: 13px;
}
</style>
