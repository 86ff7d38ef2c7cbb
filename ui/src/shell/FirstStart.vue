<script setup lang="ts">
import { onMounted, reactive, ref } from 'vue'
import { api, ask, Problem } from '@/api/client'
import { signedOn } from '@/api/session'
import DoorEntry from './DoorEntry.vue'
import DoorFrame from './DoorFrame.vue'

/** Nobody works here yet: the first site and the first lead are named, with the code that the server printed. */
const emit = defineEmits<{ done: [] }>()
const f = reactive({
  code: '',
  site_code: '',
  site_name: '',
  timezone: Intl.DateTimeFormat().resolvedOptions().timeZone,
  name: '',
  login: '',
  password: '',
})
const again = ref('')
const wrong = ref('')
const field = ref('')
const busy = ref(false)
const first = ref<InstanceType<typeof DoorEntry>>()
onMounted(() => first.value?.focus())
const asked: { name: keyof typeof f; label: string; type?: 'password'; complete?: string }[] = [
  { name: 'code', label: 'The code that the server printed' },
  { name: 'site_name', label: 'The site, as it stands on papers' },
  { name: 'site_code', label: 'A short code for it, which stays' },
  { name: 'timezone', label: 'The clock on its walls' },
  { name: 'name', label: 'Your name, as it is to stand in the trail' },
  { name: 'login', label: 'What you sign on with', complete: 'username' },
  { name: 'password', label: 'Your password', type: 'password', complete: 'new-password' },
]
async function submit() {
  if (f.password !== again.value) {
    wrong.value = 'The two passwords are not the same.'
    return
  }
  busy.value = true
  wrong.value = ''
  field.value = ''
  try {
    await ask(api.POST('/api/v1/first-start', { body: f }))
    signedOn(await ask(api.POST('/api/v1/session', { body: { login: f.login, password: f.password } })))
    emit('done')
  } catch (e) {
    wrong.value = (e as Error).message
    field.value = e instanceof Problem ? e.field : ''
  }
  busy.value = false
}
</script>

<template>
  <DoorFrame
    wide
    title="A new house"
    say="Nobody works here yet. Name its first site, and yourself as its first lead."
    @submit="submit"
  >
    <DoorEntry
      v-for="(a, i) in asked"
      :key="a.name"
      :ref="(el) => !i && (first = el as InstanceType<typeof DoorEntry>)"
      v-model="f[a.name]"
      :label="a.label"
      :type="a.type"
      :complete="a.complete"
      :wrong="field === a.name"
    />
    <DoorEntry v-model="again" label="Your password again" type="password" complete="new-password" />
    <div v-if="wrong" class="note s" role="alert">{{ wrong }}</div>
    <button class="btn go" :disabled="busy">Open the house</button>
  </DoorFrame>
</template>
