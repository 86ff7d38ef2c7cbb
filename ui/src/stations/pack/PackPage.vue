<script setup lang="ts">
import { plural, stateWords } from '@/parts/words'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { can, session, worksAs } from '@/api/session'
import BeforeAfter from '@/parts/BeforeAfter.vue'
import BenchLayout from '@/parts/BenchLayout.vue'
import { useCommand } from '@/parts/command'
import { useDraft } from '@/parts/draft'
import DraftNotice from '@/parts/DraftNotice.vue'
import { usePreview } from '@/parts/preview'
import QueueCard from '@/parts/QueueCard.vue'
import TrailTable from '@/parts/TrailTable.vue'
import FormField from '@/parts/FormField.vue'
import QuantityEntry from '@/parts/QuantityEntry.vue'
import TextEntry from '@/parts/TextEntry.vue'
import SheetTable from '@/parts/SheetTable.vue'
import type { Column } from '@/parts/columns'
import CommandNotice from '@/parts/CommandNotice.vue'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import CountEntry from '@/parts/CountEntry.vue'
import EntryForm from '@/parts/EntryForm.vue'
import PackDay from './PackDay.vue'
import RepackGoods from './RepackGoods.vue'

const props = defineProps<{ id?: string }>()
const router = useRouter()
const id = computed(() => Number(props.id) || 0)
const site = computed(() => session.site)
const list = (state: 'at_bench' | 'blank') =>
  useQuery({
    queryKey: ['pack', state, site],
    queryFn: () => ask(api.GET('/api/v1/cartons', { params: { query: { site: site.value, state } } })),
  })
const bench = list('at_bench')
const blank = list('blank')
const carton = useQuery({
  queryKey: ['pack', 'carton', id],
  queryFn: () => ask(api.GET('/api/v1/cartons/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => id.value > 0),
})
const scan = ref('')
const sizes = useQuery({
  queryKey: ['pack', 'proposal', id],
  queryFn: () => ask(api.GET('/api/v1/cartons/{id}/proposal', { params: { path: { id: id.value } } })),
  enabled: computed(() => carton.data.value?.state === 'at_bench'),
  retry: false,
})
/** The sizes of which one carton holds it; others are not offered. */
const holding = useQuery({
  queryKey: ['pack', 'sizes', id],
  queryFn: () => ask(api.GET('/api/v1/cartons/{id}/sizes', { params: { path: { id: id.value } } })),
  enabled: computed(() => carton.data.value?.state === 'at_bench'),
  retry: false,
})
const sizeChoices = computed(() => [
  { value: '', label: 'none' },
  ...(holding.data.value ?? []).map((s) => ({
    value: s.code,
    label: s.max_kg ? `${s.code}, up to ${s.max_kg} kg` : s.code,
  })),
])
/** The only size that fits, or the one it was closed in before. */
const usualSize = computed(() => {
  const fits = sizes.data.value?.cartons ?? []
  return fits.length === 1 ? carton.data.value?.size || fits[0]!.size : ''
})
const draft = useDraft<{ weight: string; size: string; reason: string }>(
  () => `carton/${id.value}`,
  () => ({ weight: '', size: usualSize.value, reason: '' }),
)
const part = (name: 'weight' | 'size' | 'reason') =>
  computed<string>({
    get: () => draft.mine.value?.[name] ?? '',
    set: (v) => draft.mine.value && (draft.mine.value[name] = v),
  })
const [weight, size, reason] = [part('weight'), part('size'), part('reason')]
watch(id, () => (done.value = ''))
const command = useCommand()
const { busy, problem, done, run } = command
const body = computed<Schemas['PackClosing'] | null>(() =>
  carton.data.value?.state === 'at_bench'
    ? { weight_kg: weight.value || undefined, size: size.value || undefined, reason: reason.value || undefined }
    : null,
)
const {
  plan,
  problem: refused,
  fresh,
} = usePreview(
  'pack',
  computed(() => body.value && { ...body.value, id: id.value }),
  (b) =>
    ask(
      api.POST('/api/v1/cartons/{id}/pack/preview', {
        params: { path: { id: b.id } },
        body: { weight_kg: b.weight_kg, size: b.size, reason: b.reason },
      }),
    ),
)

async function close() {
  const b = body.value
  if (!b) return
  const c = await run(
    () =>
      once((h) =>
        ask(api.POST('/api/v1/cartons/{id}/pack', { headers: h, params: { path: { id: id.value } }, body: b })),
      ),
    (x) =>
      x.state === 'packed'
        ? `Carton …${x.sscc.slice(-4)} is closed and stands at the gate.`
        : `Carton …${x.sscc.slice(-4)} differs by ${x.variance_kg} kg: check it by scanning each thing.`,
  )
  if (c?.state === 'packed') {
    draft.discard()
    command.offerUndo(openAgain)
  } else if (c) weight.value = ''
  void carton.refetch()
  void bench.refetch()
}

async function weigh() {
  const r = await run(() =>
    ask(
      api.GET('/api/v1/cartons/{id}/weight', {
        params: { path: { id: id.value }, query: { size: size.value || undefined } },
      }),
    ),
  )
  if (r) weight.value = r.weight_kg
}
async function check() {
  const text = scan.value.trim()
  scan.value = ''
  if (!text) return
  const c = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/cartons/{id}/check', {
          headers: h,
          params: { path: { id: id.value } },
          body: { scan: text },
        }),
      ),
    ),
  )
  if (c) void carton.refetch()
}
function repacked() {
  void carton.refetch()
  void bench.refetch()
  void blank.refetch()
}
async function openAgain() {
  await run(
    () =>
      once((h) => ask(api.POST('/api/v1/cartons/{id}/open-again', { headers: h, params: { path: { id: id.value } } }))),
    (c) => `Carton …${c.sscc.slice(-4)} is at the bench again.`,
  )
  void carton.refetch()
}
async function unstack() {
  await run(
    () =>
      once((h) => ask(api.POST('/api/v1/cartons/{id}/unstack', { headers: h, params: { path: { id: id.value } } }))),
    (c) => `Carton …${c.sscc.slice(-4)} stands on no pallet any more.`,
  )
  void carton.refetch()
}
const packed = useQuery({
  queryKey: ['pack', 'packed', site],
  queryFn: () => ask(api.GET('/api/v1/cartons', { params: { query: { site: site.value, state: 'packed' } } })),
  enabled: computed(() => !id.value),
})
const stacked = ref<(string | number)[]>([])
async function stack() {
  const c = await run(
    () =>
      once((h) =>
        ask(
          api.POST('/api/v1/pallets', {
            headers: h,
            body: { site_id: site.value, cartons: stacked.value.map(String) },
          }),
        ),
      ),
    (x) => `${x.length} cartons stand on pallet …${x[0]?.pallet.slice(-5)}.`,
  )
  if (c) {
    stacked.value = []
    void packed.refetch()
  }
}
const asksWhy = computed(() => worksAs('lead') && (!!reason.value || refused.value?.code === 'weight_differs'))

const count = ref<number | undefined>(10)
async function labels() {
  const made = await run(
    () =>
      once((h) =>
        ask(api.POST('/api/v1/cartons', { headers: h, body: { site_id: site.value, count: count.value ?? 0 } })),
      ),
    (c) => `${c.length} blank labels made, …${c[0]?.sscc.slice(-4)} to …${c.at(-1)?.sscc.slice(-4)}.`,
  )
  if (made) void blank.refetch()
}
const contentColumns: Column<Schemas['CartonsContent']>[] = [
  { name: 'item', label: 'Item' },
  { name: 'lot', label: 'Lot', of: (c) => c.lot, mono: true },
  { name: 'expires', label: 'Expires', of: (c) => c.expires_on, mono: true },
  { name: 'quantity', label: 'Quantity', right: true, mono: true },
  { name: 'scanned', label: 'Scanned', of: (c) => (Number(c.checked) ? c.checked : ''), right: true, mono: true },
]
const packedColumns: Column<Schemas['CartonsCarton']>[] = [
  { name: 'carton', label: 'Carton', of: (c) => `…${c.sscc.slice(-5)}`, to: (c) => `/pack/${c.id}`, mono: true },
  { name: 'order', label: 'Order', of: (c) => c.order, mono: true, sort: true },
  { name: 'customer', label: 'Customer', of: (c) => c.customer, sort: true },
  { name: 'carrier', label: 'Carrier', of: (c) => c.carrier, sort: true },
  { name: 'weight', label: 'Weight', of: (c) => `${c.weight_kg} kg`, right: true, mono: true },
  { name: 'pallet', label: 'Pallet', mono: true },
]
</script>

<template>
  <BenchLayout waits="Cartons at the bench" :waiting="[bench]" :sheet="id ? [carton] : []">
    <template #waiting>
      <h2>
        <span>At the bench</span><span>{{ bench.data.value?.length ?? 0 }}</span>
      </h2>
      <QueueCard v-for="c in bench.data.value" :key="c.id" :to="`/pack/${c.id}`" :selected="id === c.id">
        <span class="mono">…{{ c.sscc.slice(-5) }}</span
        ><span class="mono">{{ c.order }}</span>
        <template #more
          ><span>{{ c.customer }}</span
          ><span v-if="c.variance_kg || c.restocks" class="late">{{
            c.variance_kg ? `weight differs by ${c.variance_kg} kg` : 'return goods to stock first'
          }}</span
          ><span v-else :class="{ late: c.late }">{{ c.wanted_on }}</span></template
        >
      </QueueCard>
      <div v-if="bench.data.value?.length === 0" class="empty">
        The bench is clear. Cartons come here when a round is brought to the bench.
      </div>
      <h2>
        <span>Blank labels</span><span>{{ blank.data.value?.length ?? 0 }}</span>
      </h2>
      <div v-if="can('make-carton-labels')" class="fields">
        <FormField label="How many"><CountEntry v-model="count" /></FormField
        ><a-button :disabled="busy" @click="labels">Make labels</a-button>
      </div>
    </template>

    <template v-if="id && carton.data.value">
      <h1>
        Carton <span class="mono">{{ carton.data.value.sscc }}</span>
      </h1>
      <p class="mute">
        {{ stateWords(carton.data.value.state)
        }}<template v-if="carton.data.value.order"
          >, for
          <router-link class="mono" :to="`/go/${carton.data.value.order}`">{{ carton.data.value.order }}</router-link>,
          {{ carton.data.value.customer }}, {{ carton.data.value.carrier }}</template
        ><template v-if="carton.data.value.round"
          >, from round
          <router-link class="mono" :to="`/go/${carton.data.value.round}`">{{
            carton.data.value.round
          }}</router-link></template
        >.
      </p>
      <SheetTable
        data-contents
        :columns="contentColumns"
        :rows="carton.data.value.contents ?? []"
        :row-key="(c) => c.line_id + '/' + c.lot_id"
        ><template #item="{ row: c }"
          ><b>{{ c.description }}</b> <span class="mono mute small">{{ c.sku }}</span></template
        ><template #quantity="{ row: c }">{{ c.quantity }} {{ c.unit }}</template></SheetTable
      >
      <div v-if="carton.data.value.restocks" class="note w">
        Something in it is not wanted any more. <router-link to="/putaway">Return it to stock</router-link> first.
      </div>
      <div v-if="carton.data.value.variance_kg" class="note w">
        Its weight differs by {{ carton.data.value.variance_kg }} kg from what is expected. Scan each thing in it before
        it is closed.
      </div>
      <p v-if="carton.data.value.checked_by" class="mute">Checked by {{ carton.data.value.checked_by }}.</p>
      <EntryForm v-if="carton.data.value.state === 'at_bench' && can('check-carton')" @submit="check"
        ><div class="fields">
          <FormField label="Scan what is in it"><TextEntry v-model="scan" data-check mono :width="224" /></FormField>
          <a-button html-type="submit" :disabled="busy">Check</a-button>
        </div></EntryForm
      >
      <RepackGoods
        v-if="carton.data.value.state === 'at_bench' && carton.data.value.order && can('repack-goods')"
        :id="id"
        :command="command"
        @moved="repacked"
      />
      <div v-if="holding.data.value?.length === 0 && carton.data.value.contents?.length" class="note w">
        No one size holds all of it. Move goods to another carton, or leave the size out.
      </div>
      <p v-if="sizes.data.value?.cartons.length" class="mute small">
        Holds it: <b class="mono">{{ sizes.data.value.cartons.map((c) => c.size).join(' and ') }}</b>,
        {{ Math.round(100 * Number(sizes.data.value.cartons[0]!.full)) }} % full.
      </p>
      <DraftNotice :of="draft" :labels="() => 'how the carton is closed'" />
      <FormField v-if="asksWhy" label="Reason for the weight" required
        ><TextEntry v-model="reason" :maxlength="200" :width="386"
      /></FormField>
      <div class="fields" style="margin-top: 14px">
        <FormField v-if="carton.data.value.state === 'at_bench'" label="Size of the carton"
          ><ChoiceEntry v-model="size" :options="sizeChoices" :width="150"
        /></FormField>
        <a-button v-if="carton.data.value.state === 'at_bench' && can('pack-carton')" :disabled="busy" @click="weigh"
          >Weigh</a-button
        >
        <FormField
          v-if="carton.data.value.state === 'at_bench'"
          :label="`Weight, kg (expected ${carton.data.value.expected_kg})`"
          ><QuantityEntry v-model="weight" :width="98"
        /></FormField>
        <span v-else-if="carton.data.value.weight_kg" class="mute">{{ carton.data.value.weight_kg }} kg</span>
        <a class="btn" :href="`/api/v1/cartons/${id}/label.pdf`" target="_blank">Label</a>
        <a v-if="carton.data.value.order" class="btn" :href="`/api/v1/cartons/${id}/slip.pdf`" target="_blank"
          >Packing slip</a
        >
        <template v-if="carton.data.value.state === 'packed'">
          <a-button @click="router.push('/dispatch')">To dispatch</a-button>
          <a-button v-if="can('open-carton-again')" :disabled="busy" @click="openAgain">Open again</a-button>
        </template>
        <template v-if="carton.data.value.pallet">
          <span class="mute">on pallet …{{ carton.data.value.pallet.slice(-5) }}</span>
          <a-button
            v-if="carton.data.value.state === 'packed' && can('unstack-carton')"
            :disabled="busy"
            @click="unstack"
          >
            Take off the pallet
          </a-button>
        </template>
      </div>
      <h2><span>Trail</span></h2>
      <TrailTable :id="id" of="carton" />
    </template>
    <template v-else>
      <h1>At the bench</h1>
      <p class="mute">
        Choose a carton, or scan its label: what is in it, its label and slip, and the weight that closes it.
      </p>
      <PackDay v-if="bench.data.value" :bench="bench.data.value" />
      <template v-if="packed.data.value?.length">
        <h2>
          <span>Packed, to be stacked on a pallet</span><span>{{ packed.data.value.length }}</span>
        </h2>
        <SheetTable
          v-model:ticked="stacked"
          data-stack
          label="Packed cartons"
          :columns="packedColumns"
          :rows="packed.data.value"
          :row-key="(c) => c.sscc"
          :tick-label="(c) => `Stack …${c.sscc.slice(-5)}`"
          :tickable="(c) => !c.pallet"
        >
          <template #pallet="{ row: c }">
            <a v-if="c.pallet_id" :href="`/api/v1/pallets/${c.pallet_id}/label.pdf`" target="_blank"
              >pallet …{{ c.pallet.slice(-5) }}</a
            >
          </template>
        </SheetTable>
        <a-button v-if="can('stack-cartons')" :disabled="!stacked.length || busy" @click="stack">
          Stack {{ plural(stacked.length, 'carton') }} on a new pallet
        </a-button>
      </template>
      <CommandNotice :of="command" />
    </template>

    <template v-if="id" #after>
      <BeforeAfter
        by="pack-carton"
        :plan="plan"
        :problem="problem ?? refused"
        :done="done"
        :undo="command.undo.value"
        :busy="busy"
        :fresh="fresh"
        :idle="
          carton.data.value?.state === 'at_bench'
            ? 'What closing it does stands here first.'
            : 'This carton is not at the bench; there is nothing to close.'
        "
        doing="Close the carton"
        @go="close"
      />
    </template>
  </BenchLayout>
</template>
