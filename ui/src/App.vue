<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import enUS from 'ant-design-vue/es/locale/en_US'
import { defineAsyncComponent, onMounted, ref, watch } from 'vue'
import { api, ask } from './api/client'
import { session, signedOn } from './api/session'
import AppShell from './shell/AppShell.vue'
import SignOn from './shell/SignOn.vue'
import { theme } from './theme/theme'

const FirstStart = defineAsyncComponent(() => import('./shell/FirstStart.vue'))
const ChooseSecret = defineAsyncComponent(() => import('./shell/ChooseSecret.vue'))
const queries = useQueryClient()
/** Nobody works here yet. */
const empty = ref(false)
watch(
  () => session.passwordWanted,
  (wanted) => {
    // What was refused for want of the password is looked at again.
    if (!wanted && session.person?.badge === false) void queries.invalidateQueries()
  },
)

/** In the hand, this device knows who is signed on where the server cannot be asked. */
async function find() {
  if (location.pathname.startsWith('/hand')) return (await import('./hand/presence')).findPresence()
  try {
    signedOn(await ask(api.GET('/api/v1/session')))
  } catch {
    session.ended = false
    empty.value = await ask(api.GET('/api/v1/first-start')).then(
      (d) => d.open,
      () => false,
    )
  }
}

onMounted(async () => {
  await find()
  session.known = true
})
</script>

<template>
  <a-config-provider :theme="theme" :locale="enUS" :auto-insert-space-in-button="false">
    <template v-if="session.known">
      <AppShell v-if="session.person && !session.person.must_change" />
      <FirstStart v-if="empty" @done="empty = false" />
      <SignOn v-else-if="!session.person || session.ended" :why="session.ended ? 'again' : 'first'" />
      <ChooseSecret v-else-if="session.person.must_change" forced />
      <SignOn v-else-if="session.passwordWanted" why="password" />
    </template>
  </a-config-provider>
</template>
