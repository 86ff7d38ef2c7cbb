<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { can } from '@/api/session'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { useCommand } from '@/parts/command'
import CommandNotice from '@/parts/CommandNotice.vue'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import { useDraft } from '@/parts/draft'
import FormField from '@/parts/FormField.vue'
import { usePreview } from '@/parts/preview'
import ManyEntry from '@/parts/ManyEntry.vue'
import TextEntry from '@/parts/TextEntry.vue'
import { plural, when } from '@/parts/words'
import { tracePath } from './trace'

/** A recall of goods, step by step: begun, its customers told, its goods cleared or scrapped, ended. */
const props = defineProps<{ of: Schemas['RecallTrace'] }>()
const emit = defineEmits<{ changed: [] }>()
const router = useRouter()
const command = useCommand()
const { busy, run } = command
const recall = computed(() => props.of.recall)
interface Typed {
  reason: string
  drill: boolean
  why: string
  becomes: Schemas['RecallCleared']['becomes']
  /** The lots and units that are cleared, by their keys; all that is held without. */
  which: string[]
}
const typed = useDraft<Typed>(
  () => `recall/${props.of.source}/${props.of.id}`,
  () => ({ reason: '', drill: false, why: '', becomes: 'good', which: [] }),
)
const whole = useQuery({
  queryKey: ['recall', 'whole', computed(() => recall.value?.id ?? 0)],
  queryFn: () => ask(api.GET('/api/v1/recalls/{id}', { params: { path: { id: recall.value!.id } } })),
  enabled: computed(() => !!recall.value),
})
type Part = Schemas['RecallPart']
const keyOf = (p: Part) => `${p.lot_id}/${p.serial_id}`
const parts = computed(() => whole.data.value?.parts ?? [])
const held = computed(() => parts.value.filter((p) => p.held))
const chosen = computed(() => held.value.filter((p) => d.value.which.includes(keyOf(p))))
const d = computed(() => typed.mine.value!)
const body = computed<Schemas['RecallBegun'] | null>(() =>
  !recall.value && props.of.source !== 'recall' && d.value.reason.trim()
    ? { source: props.of.source, id: props.of.id, reason: d.value.reason, drill: d.value.drill || undefined }
    : null,
)
const look = usePreview('recall', body, (b) => ask(api.POST('/api/v1/recalls/preview', { body: b })))
async function begin() {
  const b = body.value
  if (!b) return
  const made = await run(() => once((h) => ask(api.POST('/api/v1/recalls', { headers: h, body: b }))))
  if (!made) return
  typed.discard()
  emit('changed')
  void router.push(tracePath('recall', made.id))
}
const path = computed(() => ({ path: { id: recall.value?.id ?? 0 } }))
async function clear() {
  const done = await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/recalls/{id}/clear', {
            headers: h,
            params: path.value,
            body: {
              becomes: d.value.becomes,
              reason: d.value.why,
              lots: chosen.value.flatMap((p) => (p.lot_id ? [p.lot_id] : [])),
              serials: chosen.value.flatMap((p) => (p.serial_id ? [p.serial_id] : [])),
            },
          }),
        ),
      ),
    (r) => `${r.cleared} of ${r.goods} lots or units of ${r.number} are cleared.`,
  )
  if (!done) return
  typed.discard()
  emit('changed')
  await whole.refetch()
}
const mail = () =>
  run(
    () => once((h) => ask(api.POST('/api/v1/recalls/{id}/mail', { headers: h, params: path.value }))),
    (t) =>
      `${plural(t.mailed, 'customer')} told by mail${t.unaddressed.length ? `; without an address are ${t.unaddressed.join(', ')}` : ''}.`,
  )
const end = () =>
  run(
    () => once((h) => ask(api.POST('/api/v1/recalls/{id}/end', { headers: h, params: path.value }))),
    (r) => `${r.number} is ended after ${r.minutes} min; its page is kept.`,
  ).then((done) => done && emit('changed'))
</script>

<template>
  <CommandNotice :of="command" />
  <section v-if="recall" data-recall :class="['note', recall.held ? 's' : 'g']">
    <b>{{ recall.drill ? 'Drill' : 'Recall' }} {{ recall.number }}</b
    >: {{ recall.reason }}. Begun by {{ recall.begun_by }}, {{ when(recall.begun_at) }};
    <template v-if="recall.ended_at"
      >ended by {{ recall.ended_by }} after {{ recall.minutes }} min. This page is as it stood then.</template
    ><template v-else-if="recall.held">{{ recall.held }} of {{ recall.goods }} lots or units are held.</template
    ><template v-else-if="recall.cleared">{{ recall.cleared }} of {{ recall.goods }} are cleared.</template
    ><template v-else>nothing is held.</template>
  </section>
  <div v-if="recall && !recall.ended_at && can('end-recall')" class="fields steps">
    <template v-if="recall.held">
      <FormField v-if="held.length > 1" label="Which of them"
        ><ManyEntry
          v-model="d.which"
          placeholder="all that is held"
          :width="230"
          :options="held.map((p) => ({ value: keyOf(p), label: p.label }))"
      /></FormField>
      <FormField label="They become"
        ><ChoiceEntry
          v-model="d.becomes"
          :options="[
            { value: 'good', label: 'good again, where they are' },
            { value: 'scrap', label: 'scrapped, off the books' },
          ]"
          :width="220"
      /></FormField>
      <FormField label="How you know" tip="It stays in the trail."
        ><TextEntry v-model="d.why" :width="260" :maxlength="200"
      /></FormField>
      <a-button type="primary" :disabled="busy || !d.why.trim()" @click="clear">{{
        (d.becomes === 'good' ? 'Let ' : 'Scrap ') +
        (chosen.length ? `${chosen.length} of them` : 'them') +
        (d.becomes === 'good' ? ' go' : '')
      }}</a-button>
    </template>
    <ConfirmButton
      v-if="of.went.length && !recall.drill"
      label="Tell the customers by mail"
      :title="`Tell the customers of ${recall.number}?`"
      :happens="`Each customer gets a letter that names what it got, with which delivery note, and asks to set it aside.`"
      does="Tell them"
      :busy="busy"
      @confirm="mail"
    />
    <a-button v-if="!recall.held" :disabled="busy" @click="end"
      >End the {{ recall.drill ? 'drill' : 'recall' }}</a-button
    >
  </div>
  <ul v-if="parts.some((p) => p.cleared_at)" class="mute small" data-cleared>
    <li v-for="p in parts.filter((x) => x.cleared_at)" :key="keyOf(p)">
      {{ p.label }} was cleared {{ when(p.cleared_at!) }} by {{ p.cleared_by }}: “{{ p.cleared_why }}”
    </li>
  </ul>
  <section v-if="!recall && of.goods.length && of.source !== 'recall' && can('begin-recall')" data-begin>
    <div class="fields steps">
      <FormField label="Why it is called back" tip="Whoever is stopped in the hand reads it."
        ><TextEntry v-model="d.reason" :width="320" :maxlength="200"
      /></FormField>
      <a-checkbox v-model:checked="d.drill">Only a drill</a-checkbox>
      <a-button
        type="primary"
        :danger="!d.drill"
        data-primary
        :disabled="busy || !look.plan.value || !look.fresh.value"
        @click="begin"
        >{{ look.plan.value?.button ?? 'Hold it' }}</a-button
      >
    </div>
    <p v-for="n in look.plan.value?.notes" :key="n" class="note w">{{ n }}</p>
    <p v-if="look.problem.value && !command.problem.value" class="note s" data-problem>
      {{ look.problem.value.message }}
    </p>
  </section>
</template>

<style scoped>
.steps {
  margin: 12px 0;
  align-items: end;
}
</style>
