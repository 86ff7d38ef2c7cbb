<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { api, ask } from '@/api/client'
import { session, signedOn } from '@/api/session'
import DoorEntry from './DoorEntry.vue'
import DoorFrame from './DoorFrame.vue'

/** One's own password or PIN is changed: of one's own accord, or because somebody else gave it. */
const props = defineProps<{ forced?: boolean }>()
const emit = defineEmits<{ done: [] }>()
const what = ref<'password' | 'pin'>(session.person?.must_change || (session.person?.badge ? 'pin' : 'password'))
const old = ref('')
const fresh = ref('')
const again = ref('')
const wrong = ref('')
const busy = ref(false)
const first = ref<InstanceType<typeof DoorEntry>>()
onMounted(() => first.value?.focus())
const called = computed(() => (what.value === 'pin' ? 'PIN' : 'password'))
const say = computed(() =>
  props.forced
    ? `${session.person?.name ?? ''}: somebody else gave you this ${called.value}. Choose one of your own, and go on.`
    : `${session.person?.name ?? ''}: at other devices you sign on again afterwards.`,
)
async function submit() {
  if (fresh.value !== again.value) {
    wrong.value = 'The two new ones are not the same.'
    return
  }
  busy.value = true
  wrong.value = ''
  try {
    const body = { what: what.value, old: old.value, fresh: fresh.value }
    signedOn(await ask(api.POST('/api/v1/session/secret', { body })))
    emit('done')
  } catch (e) {
    wrong.value = (e as Error).message
  }
  busy.value = false
}
</script>

<template>
  <DoorFrame :title="`Your ${called}`" :say="say" @submit="submit" @leave="forced || emit('done')">
    <DoorEntry
      ref="first"
      v-model="old"
      :label="`The ${called} that you have now`"
      type="password"
      complete="current-password"
    />
    <DoorEntry v-model="fresh" label="The new one" type="password" complete="new-password" />
    <DoorEntry v-model="again" label="The new one again" type="password" complete="new-password" />
    <div v-if="wrong" class="note s" role="alert">{{ wrong }}</div>
    <button class="btn go" :disabled="busy">Change it</button>
    <template v-if="!forced">
      <button type="button" class="btn bare" @click="what = what === 'pin' ? 'password' : 'pin'">
        {{ what === 'pin' ? 'Change the password instead' : 'Change the PIN instead' }}
      </button>
      <button type="button" class="btn bare" @click="emit('done')">Leave it as it is</button>
    </template>
  </DoorFrame>
</template>
