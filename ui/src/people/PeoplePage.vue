<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import { useCommand } from '@/parts/command'
import ConfirmButton from '@/parts/ConfirmButton.vue'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import EntryForm from '@/parts/EntryForm.vue'
import FormField from '@/parts/FormField.vue'
import ManyEntry from '@/parts/ManyEntry.vue'
import QueueCard from '@/parts/QueueCard.vue'
import { useSites } from '@/parts/sites'
import TextEntry from '@/parts/TextEntry.vue'
import { plural, when } from '@/parts/words'
import MemberAccess from './MemberAccess.vue'
import { mayWords, roles, roleWords } from './roles'

/** Who works here: their name, role, sites and badge, and what they sign on with. */
const props = defineProps<{ id?: string }>()
const router = useRouter()
const queries = useQueryClient()
const id = computed(() => Number(props.id) || 0)
const fresh = computed(() => props.id === 'new')
const people = useQuery({ queryKey: ['people', 'list'], queryFn: () => ask(api.GET('/api/v1/people')) })
const sites = useSites()
const member = computed(() => people.data.value?.find((m) => m.id === id.value))
const here = computed(() => (people.data.value ?? []).filter((m) => !m.ended_at))
const left = computed(() => (people.data.value ?? []).filter((m) => m.ended_at))
interface Form {
  name: string
  login: string
  roles: Schemas['StaffMember']['roles']
  site: number
  sites: string[]
  badge: string
  password: string
  pin: string
}
const draft = useDraft<Form>(
  () => `person/${props.id ?? ''}`,
  () => {
    const m = member.value
    if (fresh.value)
      return { name: '', login: '', roles: ['picker'], site: session.site, sites: [], badge: '', password: '', pin: '' }
    return (
      m && {
        name: m.name,
        login: m.login,
        roles: [...m.roles],
        site: m.site_id,
        sites: m.sites.map(String),
        badge: m.badge,
        password: '',
        pin: '',
      }
    )
  },
)
const f = computed(() => draft.mine.value)
const body = computed(() => {
  const w = f.value
  return (
    w && {
      name: w.name,
      login: w.login,
      roles: Object.keys(roles).filter((r) => w.roles.includes(r as never)) as Form['roles'],
      site_id: w.site,
      sites: w.sites.map(Number),
      badge: w.badge || undefined,
    }
  )
})
const changed = computed(() => {
  const [m, b] = [member.value, body.value]
  if (!m || !b) return false
  const was = {
    name: m.name,
    login: m.login,
    roles: m.roles,
    site_id: m.site_id,
    sites: m.sites,
    badge: m.badge || undefined,
  }
  return JSON.stringify(was) !== JSON.stringify(b)
})
const { busy, problem, done, run } = useCommand()
watch(id, () => (done.value = ''))
// What was refused is asked anew once something else is typed.
watch(f, () => (problem.value = undefined), { deep: true })
/** What saving does, in the words of who is changed. */
const plan = computed<Schemas['LedgerPlan'] | undefined>(() => {
  const [m, w] = [member.value, f.value]
  if (!w?.name || !w.login || !w.roles.length || (!fresh.value && !changed.value)) return undefined
  const notes = [
    `${w.name} signs on as ${w.login}${w.badge ? `, or with the badge ${w.badge}` : ''}.`,
    `They ${mayWords(w.roles)}.`,
  ]
  const warnings: string[] = []
  if (fresh.value && (w.password || w.pin))
    notes.push('What you give them to sign on with, they change at its first use.')
  if (fresh.value && !w.password && !w.pin) warnings.push('Without a password or a PIN they cannot sign on yet.')
  const rights =
    m &&
    (m.roles.join() !== (body.value?.roles ?? []).join() ||
      m.badge !== w.badge ||
      m.sites.map(String).join() !== w.sites.join())
  if (m?.sessions && rights) warnings.push(`Signed on at ${plural(m.sessions, 'device')}, they sign on again.`)
  return { moves: [], changes: [], notes, warnings, button: fresh.value ? `Add ${w.name}` : `Change ${m?.name ?? ''}` }
})
async function save() {
  const [b, w] = [body.value, f.value]
  if (!b || !w) return
  const saved = await run(
    () =>
      once((headers) =>
        fresh.value
          ? ask(
              api.POST('/api/v1/people', {
                headers,
                body: { ...b, password: w.password || undefined, pin: w.pin || undefined },
              }),
            )
          : ask(
              api.POST('/api/v1/people/{id}', {
                headers,
                params: { path: { id: id.value } },
                body: { ...b, version: member.value?.version },
              }),
            ),
      ),
    (m) => (fresh.value ? `${m.name} works here now.` : `${m.name} is changed.`),
  )
  if (!saved) return
  draft.discard()
  await queries.invalidateQueries({ queryKey: ['people'] })
  void router.push(`/people/${saved.id}`)
}
async function put(how: 'end' | 'return') {
  const to = { params: { path: { id: id.value } } }
  await run(
    () =>
      once((headers) =>
        ask(
          how === 'end'
            ? api.POST('/api/v1/people/{id}/end', { headers, ...to })
            : api.POST('/api/v1/people/{id}/return', { headers, ...to }),
        ),
      ),
    (m) =>
      how === 'end' ? `${m.name} signs on no more.` : `${m.name} works here again. Give them a password or a PIN.`,
  )
  await queries.invalidateQueries({ queryKey: ['people'] })
}
const siteOptions = computed(() => (sites.data.value ?? []).map((s) => ({ value: s.id, label: s.name })))
const named = computed(() => siteOptions.value.map((s) => ({ value: String(s.value), label: s.label })))
const roleOptions = Object.entries(roles).map(([value, r]) => ({ value, label: r.label }))
const showLeft = ref(false)
</script>

<template>
  <BenchLayout waits="People" :waiting="[people]" :sheet="[people, sites]">
    <template #waiting>
      <h2><span>People</span><router-link to="/people/new">New</router-link></h2>
      <QueueCard v-for="m in here" :key="m.id" :to="`/people/${m.id}`" :selected="id === m.id">
        <span>{{ m.name }}</span><span class="small">{{ roleWords(m.roles) }}</span>
        <template #more
          ><span>{{ m.acts_at || 'all sites' }}</span
          ><span v-if="!m.has_password && !m.has_pin" class="late">cannot sign on</span
          ><span v-else-if="m.sessions">signed on</span></template
        >
      </QueueCard>
      <a-button v-if="left.length" type="link" size="small" :aria-expanded="showLeft" @click="showLeft = !showLeft">
        {{ left.length }} who left
      </a-button>
      <template v-if="showLeft || member?.ended_at">
        <QueueCard v-for="m in left" :key="m.id" :to="`/people/${m.id}`" :selected="id === m.id">
          <span>{{ m.name }}</span><span class="small mute">left {{ when(m.ended_at!) }}</span>
        </QueueCard>
      </template>
    </template>
    <template v-if="f && (fresh || member)">
      <h1>
        {{ fresh ? 'Somebody new' : member!.name }}
        <span v-if="member?.ended_at" class="mute small">left {{ when(member.ended_at) }}</span>
      </h1>
      <EntryForm v-if="!member?.ended_at" :problem="problem" @submit="save">
        <DraftNotice :of="draft" :labels="() => 'who they are'" />
        <div class="fields">
          <FormField label="Name" field="name" required tip="As it stands in the trail."
            ><TextEntry v-model="f.name" :width="220" :maxlength="80"
          /></FormField>
          <FormField label="Signs on as" field="login" required
            ><TextEntry v-model="f.login" mono :width="150" :maxlength="60"
          /></FormField>
          <FormField label="Works as" field="roles" required tip="One role or several."
            ><ManyEntry v-model="f.roles as string[]" :options="roleOptions" :width="200"
          /></FormField>
        </div>
        <p v-if="f.roles.length" class="mute small role">They {{ mayWords(f.roles) }}.</p>
        <div class="fields">
          <FormField label="Works at" field="site_id" required
            ><ChoiceEntry v-model="f.site" :options="siteOptions" :width="170"
          /></FormField>
          <FormField label="May act at" field="sites" tip="All sites where none is named."
            ><ManyEntry v-model="f.sites" :options="named" placeholder="all sites" :width="230"
          /></FormField>
          <FormField label="Badge" field="badge" tip="What its code says. It is printed here once it is saved."
            ><TextEntry v-model="f.badge" mono :width="120" :maxlength="40"
          /></FormField>
        </div>
        <div v-if="fresh" class="fields">
          <FormField
            label="First password"
            field="password"
            tip="10 characters or more. They change it at its first use."
            ><TextEntry v-model="f.password" mono :width="220" :maxlength="200"
          /></FormField>
          <FormField
            v-if="f.badge"
            label="First PIN"
            field="pin"
            tip="4 digits or more. They change it at its first use."
            ><TextEntry v-model="f.pin" mono :width="110" :maxlength="12"
          /></FormField>
        </div>
      </EntryForm>
      <MemberAccess v-if="member" :key="member.id" :member="member" />
      <p v-if="member">
        <ConfirmButton
          v-if="!member.ended_at"
          label="They left"
          :title="`${member.name} left?`"
          :happens="`They sign on no more${member.sessions ? `, and ${plural(member.sessions, 'session')} end at once` : ''}. Their name stays in the trail.`"
          does="They left"
          :busy="busy"
          @confirm="put('end')"
        />
        <a-button v-else :disabled="busy" @click="put('return')">They work here again</a-button>
      </p>
    </template>
    <template v-else>
      <h1>People</h1>
      <p class="mute">
        {{ here.length === 1 ? 'One person works' : `${here.length} people work` }} here. Choose one, or
        <router-link class="btn" to="/people/new">add somebody</router-link>
        <router-link class="btn" to="/people/events">See who signed on</router-link>
        <router-link class="btn" to="/house">See how the house does</router-link>
      </p>
    </template>
    <template #after>
      <BeforeAfter
        by="add-person"
        :plan="plan"
        :problem="problem"
        :done="done"
        :busy="busy"
        :fresh="!!plan"
        idle="What saving does stands here."
        doing="Save"
        @go="save"
      />
    </template>
  </BenchLayout>
</template>

<style scoped>
.role {
  margin: -6px 0 10px;
}
</style>
