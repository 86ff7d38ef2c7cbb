<script setup lang="ts">
import { onMounted } from 'vue'
import { api, ask } from './api/client'
import { session, signedOn } from './api/session'
import AppShell from './shell/AppShell.vue'
import SignOn from './shell/SignOn.vue'
import { theme } from './theme'

onMounted(async () => {
  try {
    signedOn(await ask(api.GET('/api/v1/session')))
  } catch {
    session.ended = false
  }
  session.known = true
})
</script>

<template>
  <a-config-provider :theme="theme">
    <template v-if="session.known">
      <AppShell v-if="session.person" />
      <SignOn v-if="!session.person || session.ended" :again="session.ended" />
    </template>
  </a-config-provider>
</template>
