<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, ask, once, type Schemas } from '@/api/client'
import { session } from '@/api/session'
import ItemFinder from '@/parts/ItemFinder.vue'
import PartyFinder from '@/parts/PartyFinder.vue'
import { useCommand } from '@/parts/preview'
import { plural, today } from '@/parts/words'
import { takeScans } from '@/shell/scan'

const router = useRouter()
const queries = useQueryClient()
const supplier = ref<Schemas['CatalogParty']>()
const expected = ref(today(3))
const note = ref('')
const lines = ref<
  { found: Schemas['CatalogItemStock']; pack: number; quantity: string; price: string; why?: string }[]
>([])
const suggestions = useQuery({
  queryKey: ['stock', 'suggestions', computed(() => session.site), computed(() => supplier.value?.id ?? 0)],
  queryFn: () =>
    ask(
      api.GET('/api/v1/suggestions', {
        params: { query: { site: session.site, supplier: supplier.value?.id ?? 0 } },
      }),
    ),
  enabled: computed(() => !!supplier.value),
})
const suggested = computed(() =>
  (supplier.value ? (suggestions.data.value ?? []) : []).filter(
    (s) => !lines.value.some((l) => l.found.item.id === s.item.id),
  ),
)

function addSuggested() {
  for (const s of suggested.value)
    lines.value.push({
      found: s,
      pack: s.pack_id,
      quantity: s.suggest.packs,
      price: s.item.cost,
      why: s.suggest.reckoning,
    })
}
const { busy, problem, run } = useCommand()

function add(found: Schemas['CatalogItemStock']) {
  const packs = found.item.packs
  lines.value.push({ found, pack: packs.at(-1)?.id ?? 0, quantity: '', price: found.item.cost })
}

takeScans(async (_, reading) => {
  if (!reading?.goods) return false
  const sku = reading.goods.item.sku
  const found = await ask(api.GET('/api/v1/items', { params: { query: { q: sku, site: session.site, limit: 1 } } }))
  if (found[0]) add(found[0])
  return true
})

const base = (l: (typeof lines.value)[number]) => {
  const pack = l.found.item.packs.find((p) => p.id === l.pack)
  return Number(l.quantity || 0) * Number(pack?.holds ?? 1)
}
const ready = computed(() => supplier.value && lines.value.length > 0)

async function save(place: boolean) {
  const order = await run(() =>
    once((h) =>
      ask(
        api.POST('/api/v1/purchase-orders', {
          headers: h,
          body: {
            supplier_id: supplier.value?.id ?? 0,
            site_id: session.site,
            expected_on: expected.value,
            note: note.value,
            place,
            lines: lines.value.map((l) => ({
              item_id: l.found.item.id,
              pack_id: l.pack,
              quantity: l.quantity,
              price: l.price,
            })),
          },
        }),
      ),
    ),
  )
  if (order) {
    await queries.invalidateQueries({ queryKey: ['receive'] })
    void router.push(`/receive/order/${order.id}`)
  }
}
const refused = (i: number, part: string) => problem.value?.field === `lines[${i}].${part}`
</script>

<template>
  <div class="page">
    <h1>New purchase order</h1>
    <div class="fields">
      <label class="field">Supplier<PartyFinder v-model="supplier" kind="supplier" label="Supplier" /></label>
      <label class="field">Expected<input v-model="expected" class="mono" size="11" /></label>
      <label class="field">Note<input v-model="note" size="30" /></label>
    </div>
    <p v-if="suggested.length" class="note w">
      {{ plural(suggested.length, 'item') }} of {{ supplier?.name }} {{ suggested.length === 1 ? 'is' : 'are' }} at the
      reorder point.
      <button class="btn" @click="addSuggested">Add what is suggested</button>
    </p>
    <table class="plain">
      <thead>
        <tr>
          <th>Item</th>
          <th class="r">On hand</th>
          <th class="r">Free</th>
          <th class="r">Promised</th>
          <th class="r">On order</th>
          <th class="r">Reorder at, to</th>
          <th>Pack</th>
          <th class="r">Quantity</th>
          <th class="r">In base units</th>
          <th class="r">Price</th>
          <th><span class="skip">What to do</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(l, i) in lines" :key="i">
          <td>
            <b>{{ l.found.item.description }}</b>
            <div class="mono mute small">{{ l.found.item.sku }}</div>
            <div v-if="l.why" class="mute small">{{ l.why }}</div>
          </td>
          <td class="r mono">{{ l.found.figures.physical }}</td>
          <td class="r mono">{{ l.found.figures.free }}</td>
          <td class="r mono">{{ l.found.figures.promised }}</td>
          <td class="r mono">{{ l.found.figures.on_order }}</td>
          <td class="r mono mute">{{ l.found.levels.reorder_point }}, {{ l.found.levels.target }}</td>
          <td>
            <select v-model.number="l.pack" :aria-label="`${l.found.item.sku} pack`">
              <option v-for="p in l.found.item.packs" :key="p.id" :value="p.id">{{ p.name }}</option>
            </select>
          </td>
          <td class="r">
            <input
              v-model="l.quantity"
              class="num mono"
              inputmode="decimal"
              :aria-label="`${l.found.item.sku} quantity`"
              :aria-invalid="refused(i, 'quantity')"
            />
          </td>
          <td class="r mono">{{ base(l) }} {{ l.found.item.base_unit }}</td>
          <td class="r">
            <input v-model="l.price" class="num mono" inputmode="decimal" :aria-label="`${l.found.item.sku} price`" />
          </td>
          <td><button class="btn bare" @click="lines.splice(i, 1)">leave out</button></td>
        </tr>
        <tr>
          <td colspan="11"><ItemFinder label="Add an item" @choose="add" /></td>
        </tr>
      </tbody>
    </table>
    <div v-if="problem" class="note s" role="alert" style="margin-top: 12px">{{ problem.message }}</div>
    <div class="fields" style="margin-top: 14px">
      <button class="btn go" data-primary :disabled="!ready || busy" @click="save(true)">
        Place the order, {{ lines.length }} {{ lines.length === 1 ? 'line' : 'lines' }}
      </button>
      <button class="btn" :disabled="!ready || busy" @click="save(false)">Keep as a draft</button>
      <router-link to="/receive" class="btn">Leave it</router-link>
    </div>
  </div>
</template>
