<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, onMounted, ref } from 'vue'
import { api, ask } from '@/api/client'
import { passwordAnswered, session, signedOn } from '@/api/session'
import DoorEntry from './DoorEntry.vue'
import DoorFrame from './DoorFrame.vue'

/** Signs on; on again over a page whose session ended; or takes the password where a badge is not good enough. */
const props = defineProps<{ why: 'first' | 'again' | 'password' }>()
const confirms = computed(() => props.why === 'password')
const badge = ref(!confirms.value && location.pathname.startsWith('/hand'))
const name = ref('')
const secret = ref('')
const wrong = ref('')
const busy = ref(false)
const queries = useQueryClient()
const first = ref<InstanceType<typeof DoorEntry>>()
const second = ref<InstanceType<typeof DoorEntry>>()
onMounted(() => (confirms.value ? second : first).value?.focus())
const words = computed(() => {
  switch (props.why) {
    case 'again':
      return 'Your session has ended. Sign on again; what you typed is still there.'
    case 'password':
      return `${session.person?.name ?? ''}: a badge is good for work on the floor. Give your password to go on.`
    default:
      return 'Sign on to this device.'
  }
})

function call() {
  if (confirms.value) return api.POST('/api/v1/session/password', { body: { password: secret.value } })
  return badge.value
    ? api.POST('/api/v1/session/badge', { body: { badge: name.value, pin: secret.value } })
    : api.POST('/api/v1/session', { body: { login: name.value, password: secret.value } })
}

async function submit() {
  if (!secret.value) return second.value?.focus()
  busy.value = true
  wrong.value = ''
  try {
    const answer = await ask(call())
    const another = session.person?.id !== answer.person.id
    if (confirms.value) passwordAnswered(answer)
    else signedOn(answer)
    // What somebody else was told, or was not told before the password was given, is asked anew.
    void (another ? queries.resetQueries() : queries.invalidateQueries())
  } catch (e) {
    wrong.value = (e as Error).message
    secret.value = ''
    second.value?.focus()
  }
  busy.value = false
}
</script>

<template>
  <DoorFrame title="Lantern Row" :say="words" @submit="submit" @leave="confirms && passwordAnswered(null)">
    <DoorEntry v-if="!confirms" ref="first" v-model="name" :label="badge ? 'Badge' : 'Name'" complete="username" />
    <DoorEntry
      ref="second"
      v-model="secret"
      :label="badge ? 'PIN' : 'Password'"
      type="password"
      complete="current-password"
      needless
    />
    <div v-if="wrong" class="note s" role="alert">{{ wrong }}</div>
    <button class="btn go" :disabled="busy">{{ confirms ? 'Go on' : 'Sign on' }}</button>
    <button v-if="confirms" type="button" class="btn bare" @click="passwordAnswered(null)">Leave it undone</button>
    <button v-else type="button" class="btn bare" @click="badge = !badge">
      {{ badge ? 'Use a name and password' : 'Use a badge and PIN' }}
    </button>
  </DoorFrame>
</template>
