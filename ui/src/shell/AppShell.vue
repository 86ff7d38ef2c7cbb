<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask } from '@/api/client'
import { connected, useLive } from '@/api/live'
import { lookAt, session } from '@/api/session'
import { stations } from '@/stations/stations'
import ScanLine from './ScanLine.vue'
import TheRow from './TheRow.vue'

const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
useLive(queries)
const hand = computed(() => !!route.meta.hand)
const sites = useQuery({ queryKey: ['sites'], queryFn: () => ask(api.GET('/api/v1/sites')) })
const help = ref(false)

/** Whether a key press is meant for the page, not for a field. */
function free(e: KeyboardEvent) {
  return !(e.target as HTMLElement).closest('input, select, textarea')
}

useEventListener(window, 'keydown', (e: KeyboardEvent) => {
  if (hand.value) return
  if (e.altKey && /^[0-9]$/.test(e.key)) {
    const s = stations[(Number(e.key) + 9) % 10]
    if (s) void router.push(s.path)
    e.preventDefault()
  } else if (e.key === '?' && free(e)) {
    help.value = !help.value
  } else if (e.key === 'Escape') {
    if (help.value) help.value = false
    else if (!free(e)) (e.target as HTMLElement).blur()
    else router.back()
  } else if (e.key === 'Enter' && e.ctrlKey) {
    document.querySelector<HTMLButtonElement>('[data-primary]:not(:disabled)')?.click()
    e.preventDefault()
  }
})

async function signOff() {
  await ask(api.POST('/api/v1/session/end'))
  queries.clear()
  session.person = null
}

function changeSite(e: Event) {
  lookAt(Number((e.target as HTMLSelectElement).value))
  void queries.invalidateQueries()
}
</script>

<template>
  <router-view v-if="hand" />
  <div v-else class="shell">
    <a class="skip" href="#main">Skip to the work</a>
    <header>
      <router-link to="/" class="mark" aria-label="Lantern Row, open the Floor">Lantern<br />Row</router-link>
      <TheRow />
      <div class="who">
        <label
          ><span class="skip">Site</span>
          <select :value="session.site" aria-label="Site" @change="changeSite">
            <option v-for="s in sites.data.value" :key="s.id" :value="s.id">{{ s.name }}</option>
          </select></label
        >
        <router-link class="off" to="/catalog">Catalog</router-link>
        <router-link class="off" to="/printer">Labels</router-link>
        <router-link class="off" to="/outbox">Outbox</router-link>
        <router-link class="off" to="/host">Connections</router-link>
        <div class="name">
          <span>{{ session.person?.name }}</span> <button class="off" @click="signOff">Sign off</button>
        </div>
      </div>
    </header>
    <ScanLine />
    <div v-if="!connected" class="note w cut" role="status">
      Changes by others do not come through this moment. What you do still counts.
    </div>
    <main id="main"><router-view /></main>
    <div v-if="help" class="keys" role="dialog" aria-label="Keys of this page">
      <h2>Keys</h2>
      <dl>
        <dt>/</dt>
        <dd>to the scan line</dd>
        <dt>Alt 1 … 0</dt>
        <dd>the stations, Receive to Audit</dd>
        <dt>Ctrl Enter</dt>
        <dd>press the button under before and after</dd>
        <dt>Enter</dt>
        <dd>to the next field</dd>
        <dt>Escape</dt>
        <dd>leave the field, then go back</dd>
        <dt>?</dt>
        <dd>show or hide this</dd>
      </dl>
      <router-link to="/reference" @click="help = false">The API, for programs</router-link>
    </div>
  </div>
</template>

<style scoped>
.shell {
  height: 100%;
  display: flex;
  flex-direction: column;
}
header {
  height: 96px;
  background: var(--night);
  color: #f4ead9;
  display: flex;
  flex: none;
}
.mark {
  width: 112px;
  padding: 20px 0 0 20px;
  font-weight: 700;
  font-size: 20px;
  line-height: 1.05;
  color: #f4ead9;
  text-decoration: none;
}
.who {
  width: 216px;
  flex: none;
  padding: 12px 14px 0 0;
  text-align: right;
  font-size: 13px;
  color: #e3d7c0;
}
.who .name {
  display: flex;
  justify-content: flex-end;
  align-items: center;
  white-space: nowrap;
}
.who .name span {
  overflow: hidden;
  text-overflow: ellipsis;
}
.who select {
  font: inherit;
  width: 112px;
  background: #1b1612;
  color: #f4ead9;
  border: 1px solid #6c5c46;
  border-radius: 5px;
  padding: 2px 4px;
  margin-bottom: 4px;
  min-height: 26px;
}
.off {
  font: inherit;
  background: none;
  border: 0;
  color: #f2c877;
  text-decoration: underline;
  cursor: pointer;
  padding: 2px 0;
  min-height: 24px;
  margin-left: 10px;
  flex: none;
  display: inline-flex;
  align-items: center;
}
.cut {
  margin: 8px 20px 0;
}
main {
  flex: 1;
  min-height: 0;
  overflow: hidden;
}
.keys {
  position: fixed;
  right: 20px;
  bottom: 20px;
  background: var(--night);
  color: #f4ead9;
  border-radius: 10px;
  padding: 14px 18px;
  width: 330px;
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
