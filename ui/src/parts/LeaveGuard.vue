<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { discardTyped, hasTyped } from './draft'

/** Whoever leaves a page with something typed is asked: stay, keep it for later, or discard it. */
const router = useRouter()
const asking = ref(false)
let answer: (go: boolean) => void = () => {}

router.beforeEach((to, from) => {
  if (!hasTyped.value || to.path === from.path) return true
  asking.value = true
  return new Promise<boolean>((done) => {
    answer = (go) => {
      asking.value = false
      done(go)
    }
  })
})
useEventListener(window, 'beforeunload', (e: BeforeUnloadEvent) => {
  if (hasTyped.value) e.preventDefault()
})
function discard() {
  discardTyped()
  answer(true)
}
</script>

<template>
  <a-modal
    :open="asking"
    title="Leave with something typed?"
    :wrap-props="{ 'aria-modal': true }"
    :closable="false"
    :mask-closable="false"
    @cancel="answer(false)"
  >
    <p>What you typed here is not saved. Kept for later, it is there when you open this page again in this tab.</p>
    <template #footer>
      <a-button @click="discard">Discard it and leave</a-button>
      <a-button @click="answer(true)">Keep it for later</a-button>
      <a-button type="primary" data-primary autofocus @click="answer(false)">Stay here</a-button>
    </template>
  </a-modal>
</template>
