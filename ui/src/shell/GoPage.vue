<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask } from '@/api/client'
import { session } from '@/api/session'
import { pathOf } from './scan'

/** Opens whatever a document's number stands for. */
const props = defineProps<{ number: string }>()
const router = useRouter()
const said = ref('')

onMounted(async () => {
  const reading = await ask(api.GET('/api/v1/scan', { params: { query: { site: session.site, text: props.number } } }))
  const found = reading.found.find((f) => f.code === props.number)
  if (found) await router.replace(pathOf(found))
  else said.value = `${props.number} is not a document here.`
})
</script>

<template>
  <p class="empty">{{ said || 'Looking it up' }}</p>
</template>
