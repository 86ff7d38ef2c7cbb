<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { useEventListener } from '@vueuse/core'
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { connected, useLive } from '@/api/live'
import { progress } from '@/api/progress'
import { can, lookAt, session } from '@/api/session'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { differs, zone } from '@/parts/clock'
import { hasTyped } from '@/parts/draft'
import LeaveGuard from '@/parts/LeaveGuard.vue'
import PartGuard from '@/parts/PartGuard.vue'
import { useSites } from '@/parts/sites'
import { roleWords } from '@/people/roles'
import { stations } from '@/stations/stations'
import { themeOf } from '@/theme/antd'
import { dark } from '@/theme/palette'
import { isDark, wished } from '@/theme/theme'
import { useHeadingFocus } from './heading'
import KeysPanel from './KeysPanel.vue'
import ScanLine from './ScanLine.vue'
import TheRow from './TheRow.vue'

const ChooseSecret = defineAsyncComponent(() => import('./ChooseSecret.vue'))
const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
useLive(queries)
useHeadingFocus()
const hand = computed(() => !!route.meta.hand)
/** The page is not for what whoever is signed on works as. */
const closed = computed(() => route.meta.needs && session.person && !can(route.meta.needs))
const sites = useSites()
const site = computed(() => sites.data.value?.find((s) => s.id === session.site))
watch(site, (s) => s && (zone.value = s.timezone))
/** The sites that whoever is signed on may act at; all where none is named. */
const mine = computed(() => session.person?.sites ?? [])
const siteOptions = computed(() =>
  (sites.data.value ?? [])
    .filter((s) => !mine.value.length || mine.value.includes(s.id))
    .map((s) => ({ value: s.id, label: s.name })),
)
const help = ref(false)
/** One's own password or PIN is being changed. */
const choosing = ref(false)
/** The band on top is dark in both themes, and so are the controls on it. */
const bandTheme = themeOf(dark, true)

/** Whether a key press is meant for the page, not for a field. */
function free(e: KeyboardEvent) {
  return !(e.target as HTMLElement).closest('input, textarea')
}
/** The button that does it: of the dialog on top, or else of the page. */
function primary() {
  const dialogs = [...document.querySelectorAll<HTMLElement>('[role=dialog]')].filter((d) => d.offsetParent)
  return (dialogs.at(-1) ?? document).querySelector<HTMLButtonElement>('[data-primary]:not(:disabled)')
}
/** Escape closes what is open on top, leaves the field, and goes back when nothing typed would be left behind. */
function escape(e: KeyboardEvent) {
  if (help.value) help.value = false
  else if (!free(e)) (e.target as HTMLElement).blur()
  else if (!hasTyped.value) router.back()
}

useEventListener(window, 'keydown', (e: KeyboardEvent) => {
  if (hand.value) return
  if (e.altKey && /^[0-9]$/.test(e.key)) {
    const s = stations[(Number(e.key) + 9) % 10]
    if (s) void router.push(s.path)
    e.preventDefault()
  } else if (e.key === '?' && free(e)) help.value = !help.value
  else if (e.key === 'Escape') escape(e)
  else if (e.key === 'Enter' && e.ctrlKey) {
    primary()?.click()
    e.preventDefault()
  }
})

async function signOff() {
  const hand = await import('@/hand/presence')
  // What this device still owes the server is told where it can be sent.
  if (await hand.unsent()) return router.push({ path: '/hand', query: { leaving: 'unsent' } })
  await hand.signOff()
  queries.clear()
}

function changeSite(site: number | undefined) {
  lookAt(site ?? session.site)
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
      <a-config-provider :theme="bandTheme">
        <div class="who">
          <div class="top">
            <ChoiceEntry
              label="Site"
              size="small"
              :width="122"
              :options="siteOptions"
              :model-value="sites.data.value ? session.site : undefined"
              @update:model-value="changeSite"
            />
            <button
              class="off theme"
              :aria-label="isDark ? 'Light theme' : 'Dark theme'"
              :title="isDark ? 'Light theme' : 'Dark theme'"
              @click="wished = isDark ? 'light' : 'dark'"
            >
              <svg width="18" height="18" viewBox="0 0 18 18" aria-hidden="true">
                <circle cx="9" cy="9" r="7" fill="none" stroke="currentColor" stroke-width="1.5" />
                <path d="M9 2a7 7 0 0 1 0 14z" fill="currentColor" />
              </svg>
            </button>
          </div>
          <router-link class="off" to="/catalog">Catalog</router-link>
          <router-link class="off" to="/printer">Labels</router-link>
          <router-link class="off" to="/outbox">Outbox</router-link>
          <router-link class="off" to="/host">Connections</router-link>
          <div class="name">
            <router-link v-if="can('add-person')" class="off" to="/people">People</router-link>
            <button class="off plain" title="Change your password or PIN" @click="choosing = true">
              {{ session.person?.name }}
            </button>
            <button class="off" @click="signOff">Sign off</button>
          </div>
        </div>
      </a-config-provider>
    </header>
    <ChooseSecret v-if="choosing" @done="choosing = false" />
    <ScanLine />
    <div v-if="!connected" class="note w cut" role="status">
      Changes by others do not come through this moment. What you do still counts.
    </div>
    <div v-if="differs && site" class="note cut clock" role="note">
      Times are by the clock of {{ site.name }} ({{ zone }}).
    </div>
    <div v-if="progress" class="note cut" role="status" data-progress>
      <template v-if="progress.total">
        <progress :value="progress.done" :max="progress.total" aria-hidden="true" /> {{ progress.done }} of
        {{ progress.total }} done. Nothing counts before all of it is.
      </template>
      <template v-else>It is being done. This takes a moment.</template>
    </div>
    <main id="main">
      <div v-if="closed" class="page">
        <h1>{{ route.meta.title }}</h1>
        <p class="empty">
          What you work as, {{ roleWords(session.person!.roles) }}, does not see this. A lead gives roles.
        </p>
      </div>
      <PartGuard v-else><router-view /></PartGuard>
    </main>
    <KeysPanel v-if="help" @close="help = false" />
    <LeaveGuard />
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
  width: 244px;
  flex: none;
  padding: 10px 14px 0 0;
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
.who .name .plain {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  color: inherit;
  text-decoration: none;
  flex: 0 1 auto;
}
.who .top {
  display: flex;
  justify-content: flex-end;
  align-items: center;
  margin-bottom: 3px;
}
.theme {
  margin-left: 6px;
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
  margin-left: 9px;
  flex: none;
  font-size: 12.5px;
  display: inline-flex;
  align-items: center;
}
.clock {
  background: var(--shade);
  color: var(--mute);
  padding: 4px 12px;
}
.cut {
  margin: 8px 20px 0;
}
main {
  flex: 1;
  min-height: 0;
  overflow: hidden;
}
@media (max-width: 1100px) {
  .mark {
    width: 84px;
    padding-left: 12px;
    font-size: 17px;
  }
  .who {
    width: 236px;
    padding-right: 8px;
  }
}
@media (max-width: 900px) {
  .shell {
    height: auto;
    min-height: 100%;
  }
  header {
    height: auto;
    flex-wrap: wrap;
  }
  .who {
    order: 2;
    margin-left: auto;
  }
  .shell :deep(.row) {
    order: 3;
    flex-basis: 100%;
    overflow-x: auto;
  }
  main {
    overflow: visible;
  }
}
@media print {
  header,
  .shell :deep(.scan),
  .cut {
    display: none;
  }
  .shell,
  main {
    height: auto;
    overflow: visible;
    display: block;
  }
}
</style>
