<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref } from 'vue'
import { api, ask } from '@/api/client'
import { passwordAnswered, session, signedOn } from '@/api/session'

/** Signs on; on again over a page whose session ended; or takes the password where a badge is not good enough. */
const props = defineProps<{ why: 'first' | 'again' | 'password' }>()
const confirms = computed(() => props.why === 'password')
const badge = ref(!confirms.value && location.pathname.startsWith('/hand'))
const name = ref('')
const secret = ref('')
const wrong = ref('')
const busy = ref(false)
const first = ref<HTMLInputElement>()
const second = ref<HTMLInputElement>()
const before = document.activeElement as HTMLElement | null
onMounted(() => (confirms.value ? second : first).value?.focus())
onUnmounted(() => before?.focus())
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
    if (confirms.value) passwordAnswered(answer)
    else signedOn(answer)
  } catch (e) {
    wrong.value = (e as Error).message
    secret.value = ''
    second.value?.focus()
  }
  busy.value = false
}
</script>

<template>
  <div
    class="veil"
    role="dialog"
    aria-modal="true"
    aria-labelledby="sign-on"
    @keydown.esc.stop="confirms && passwordAnswered(null)"
  >
    <form class="door" @submit.prevent="submit">
      <svg width="44" height="56" viewBox="0 0 30 40" aria-hidden="true">
        <circle cx="15" cy="23" r="15" fill="#f2ac34" opacity=".2" />
        <path d="M15 0v9" stroke="#8a7657" />
        <path d="M9 12h12l3 6-3 14H9L6 18z" fill="#f2ac34" stroke="#ffe0a3" stroke-width="1.5" />
        <path d="M10 9h10v3H10zM11 33h8v3h-8z" fill="#ffe0a3" />
      </svg>
      <h1 id="sign-on">Lantern Row</h1>
      <p class="say">{{ words }}</p>
      <label v-if="!confirms" class="field"
        >{{ badge ? 'Badge' : 'Name' }}<input ref="first" v-model="name" autocomplete="username" required
      /></label>
      <label class="field"
        >{{ badge ? 'PIN' : 'Password'
        }}<input ref="second" v-model="secret" type="password" autocomplete="current-password"
      /></label>
      <div v-if="wrong" class="note s" role="alert">{{ wrong }}</div>
      <button class="btn go" :disabled="busy">{{ confirms ? 'Go on' : 'Sign on' }}</button>
      <button v-if="confirms" type="button" class="btn bare" @click="passwordAnswered(null)">Leave it undone</button>
      <button v-else type="button" class="btn bare" @click="badge = !badge">
        {{ badge ? 'Use a name and password' : 'Use a badge and PIN' }}
      </button>
    </form>
  </div>
</template>

<style scoped>
.veil {
  position: fixed;
  inset: 0;
  background: rgb(29 24 19 / 96%);
  display: grid;
  place-items: center;
  z-index: 50;
}
.door {
  width: min(340px, 92vw);
  color: #fff6e4;
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.door svg {
  margin: 0 auto;
}
h1 {
  text-align: center;
  font-size: 30px;
  color: #fff6e4;
}
.say {
  text-align: center;
  color: #d9ccb5;
  margin: 0;
}
.field {
  color: #d9ccb5;
}
.field input {
  min-height: 44px;
  background: #fffdf8;
}
.btn.go {
  min-height: 46px;
  background: #f2ac34;
  border-color: #f2ac34;
  color: #2a1e05;
  font-size: 17px;
}
.btn.bare {
  color: #f2c877;
}
</style>
