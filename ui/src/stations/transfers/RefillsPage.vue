<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session } from '@/api/session'
import BenchLayout from '@/parts/BenchLayout.vue'
import type { Column } from '@/parts/columns'
import { useCommand } from '@/parts/command'
import CommandNotice from '@/parts/CommandNotice.vue'
import DateEntry from '@/parts/DateEntry.vue'
import FormField from '@/parts/FormField.vue'
import { usePreview } from '@/parts/preview'
import QueryView from '@/parts/QueryView.vue'
import QueueCard from '@/parts/QueueCard.vue'
import WholeList from '@/parts/WholeList.vue'
import { plural } from '@/parts/words'
import RefillSheet from './RefillSheet.vue'

/** Picking bins that are kept filled from reserve: what is short, the walks that would fill it, and those that were made. */
const props = defineProps<{ id?: string }>()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
type Level = Schemas['RefillLevel']
type Fetch = Schemas['RefillFetch']

const open = useQuery({
  queryKey: ['refills', 'open', site],
  queryFn: () => ask(api.GET('/api/v1/refills', { params: { query: { site: site.value } } })),
})
const chosen = useQuery({
  queryKey: ['refills', 'one', id],
  queryFn: () => ask(api.GET('/api/v1/refills/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
/** The last day whose orders are looked at; all released ones without. */
const until = ref('')
const levels = useQuery({
  queryKey: ['stock', 'picking-bins', site, until],
  queryFn: () =>
    ask(api.GET('/api/v1/picking-bins', { params: { query: { site: site.value, until: until.value || undefined } } })),
  enabled: computed(() => !id.value),
})
/** Those that are short come first. */
const rows = computed(() => [...(levels.data.value ?? [])].sort((a, b) => Number(b.short) - Number(a.short)))
const full = computed(() => rows.value.filter((l) => l.short && !Number(l.need)))
const short = computed(() => rows.value.filter((l) => l.short).length)
const wish = computed<Schemas['RefillWish'] | null>(() =>
  id.value || !can('make-refills') || !rows.value.length
    ? null
    : { site_id: site.value, until: until.value || undefined },
)
const look = usePreview('make-refills', wish, (b) => ask(api.POST('/api/v1/refills/preview', { body: b })))
const command = useCommand()
const queries = useQueryClient()
async function make() {
  const body = wish.value
  if (!body) return
  await command.run(
    () => once((h) => ask(api.POST('/api/v1/refills', { headers: h, body }))),
    (made) => `${made.map((r) => r.number).join(', ')} ${made.length === 1 ? 'waits' : 'wait'} for whoever walks next.`,
  )
  await queries.invalidateQueries({ queryKey: ['refills'] })
}

const figure = (name: keyof Level & string, label: string): Column<Level> => ({
  name,
  label,
  of: (l) => String(l[name]),
  right: true,
  mono: true,
  width: 74,
})
const columns: Column<Level>[] = [
  {
    name: 'bin',
    label: 'Bin',
    of: (l) => l.bin,
    to: (l) => `/stock/location/${l.location_id}`,
    mono: true,
    width: 104,
    late: (l) => l.short,
  },
  {
    name: 'item',
    label: 'Item',
    of: (l) => `${l.sku} ${l.item}`,
    to: (l) => `/stock/item/${l.item_id}`,
    width: 210,
  },
  figure('holds', 'Holds'),
  figure('coming', 'Coming'),
  figure('wanted', 'Wanted'),
  { ...figure('after', 'After'), late: (l) => l.short },
  figure('least', 'Least'),
  figure('most', 'Most'),
  figure('need', 'Goes in'),
]
const fetches: Column<Fetch>[] = [
  { name: 'from', label: 'From', of: (f) => f.from, mono: true, width: 104 },
  { name: 'to', label: 'To', of: (f) => f.to, mono: true, width: 104 },
  { name: 'item', label: 'Item', of: (f) => `${f.sku} ${f.item}`, width: 210 },
  { name: 'lot', label: 'Lot', of: (f) => f.lot, mono: true, width: 90 },
  { name: 'expires', label: 'Expires', of: (f) => f.expires, mono: true, width: 104 },
  {
    name: 'carton',
    label: 'Carton',
    of: (f) => (f.carton ? `…${f.carton.slice(-4)}${f.whole ? ' as it is' : ''}` : ''),
    mono: true,
    width: 118,
  },
  { name: 'quantity', label: 'Quantity', of: (f) => f.quantity, right: true, mono: true, width: 84 },
]
const walks = computed(() => look.plan.value?.walks ?? [])
const planned = computed(() => walks.value.flatMap((w) => w.fetches))
const share = (r: Schemas['RefillRefill']) => (r.step_count ? 1 - r.steps.length / r.step_count : 0)
</script>

<template>
  <BenchLayout waits="Refills under way" :waiting="[open]" :sheet="id ? [chosen] : []">
    <template #waiting>
      <h2>
        <span>Refills</span><span><router-link to="/transfers">transfers</router-link></span>
      </h2>
      <QueueCard
        v-for="r in open.data.value"
        :key="r.id"
        :to="`/transfers/refills/${r.id}`"
        :selected="r.id === id"
        :share="share(r)"
      >
        <span class="mono">{{ r.number }}</span><span>{{ plural(r.lines.length, 'line') }}</span>
        <template #more
          ><span>{{ r.person || 'nobody yet' }}</span
          ><span class="mono">{{ r.metres }} m</span></template
        >
      </QueueCard>
      <div v-if="open.data.value?.length === 0" class="empty">
        No refill is under way. Make one where picking bins are short; it is walked in the hand.
      </div>
    </template>
    <RefillSheet v-if="id && chosen.data.value" :key="id" :of="chosen.data.value" @changed="chosen.refetch()" />
    <template v-else-if="!id">
      <h1>Picking bins</h1>
      <p class="mute">
        Filled from reserve when they fall below their least, or will once released orders are picked: what expires
        first, whole cartons where they fit. <router-link to="/catalog/picking-bins">Set their levels</router-link>
      </p>
      <CommandNotice :of="command" />
      <QueryView :query="levels">
        <div v-if="!rows.length" class="empty">
          No picking bin has levels at this site yet. Set a least and a most for an item's home bin or another, in the
          catalog under Picking bins.
        </div>
        <template v-else>
          <div class="fields">
            <FormField label="Orders wanted up to" tip="All released orders without a day."
              ><DateEntry v-model="until"
            /></FormField>
          </div>
          <WholeList
            data-levels
            name="picking-bins"
            label="Picking bins"
            style="--list-height: 30vh"
            :columns="columns"
            :rows="rows"
            :row-key="(l) => l.id"
          />
          <template v-if="planned.length">
            <h2 style="margin-top: 16px">
              <span>{{ plural(short, 'bin') }} short: {{ plural(walks.length, 'walk') }}</span>
              <span
                ><span class="mono">{{ walks.map((w) => `${w.metres} m`).join(', ') }}</span>
                <a-button
                  type="primary"
                  style="margin-left: 14px"
                  :disabled="!look.fresh.value || command.busy.value"
                  @click="make"
                  >{{ look.plan.value?.button }}</a-button
                ></span
              >
            </h2>
            <WholeList
              data-fetches
              name="refill-plan"
              label="What would be fetched"
              style="--list-height: 26vh"
              :columns="fetches"
              :rows="planned"
              :row-key="(f) => f.from + f.to + f.sku + f.lot + f.carton"
            />
          </template>
          <p v-else-if="look.plan.value && !short" class="note g">
            Every picking bin holds its least, with what released orders want.
          </p>
          <p v-for="l in full" :key="l.id" class="note w">
            {{ l.bin }} is full: {{ l.after }} of {{ l.sku }} are left there of at least {{ l.least }}, and no more fit.
            Give it a larger bin, or clear what else lies there.
          </p>
          <p v-for="l in look.plan.value?.lacks" :key="l.bin + l.sku" class="note w">
            {{ l.bin }} needs {{ l.quantity }} of {{ l.sku }} that no reserve has.
          </p>
          <p v-if="look.problem.value" class="note s" data-problem>{{ look.problem.value.message }}</p>
        </template>
      </QueryView>
    </template>
  </BenchLayout>
</template>
