<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'
import { api, ask } from '@/api/client'
import { can, session } from '@/api/session'
import { useAddress } from '@/parts/address'
import BenchLayout from '@/parts/BenchLayout.vue'
import QueueCard from '@/parts/QueueCard.vue'
import { stateWords } from '@/parts/words'
import TrailTable from '@/parts/TrailTable.vue'
import HoldingList from './HoldingList.vue'
import ItemFigures from './ItemFigures.vue'
import LotLife from './LotLife.vue'
import StockCourse from './StockCourse.vue'
import StockDay from './StockDay.vue'
import StoodList from './StoodList.vue'
import UnitJourney from './UnitJourney.vue'
import WhenFields from './WhenFields.vue'
import FormField from '@/parts/FormField.vue'
import TextEntry from '@/parts/TextEntry.vue'

const props = defineProps<{ kind?: string; id?: string }>()
const id = computed(() => Number(props.id) || 0)
/** The instant that stock is looked at; none for now. */
const at = useAddress()<string>('at', '')
/** What stock of then is told of: units have their journey, and cartons their trail. */
const rewound = computed(() => (['location', 'item', 'lot'] as const).find((k) => k === props.kind))
const site = computed(() => session.site)
const trailOf = computed(() => (props.kind ?? 'location') as 'location' | 'item' | 'lot' | 'serial' | 'carton')
const text = ref('')
const rested = refDebounced(text, 150)
const items = useQuery({
  queryKey: ['stock', 'find', rested, site],
  queryFn: () => ask(api.GET('/api/v1/items', { params: { query: { q: rested.value, site: site.value, limit: 60 } } })),
})
const item = useQuery({
  queryKey: ['stock', 'item', id, site],
  queryFn: () =>
    ask(api.GET('/api/v1/items/{id}', { params: { path: { id: id.value }, query: { site: site.value } } })),
  enabled: computed(() => props.kind === 'item'),
})
const location = useQuery({
  queryKey: ['stock', 'location', id],
  queryFn: () => ask(api.GET('/api/v1/locations/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => props.kind === 'location'),
})
const lot = useQuery({
  queryKey: ['stock', 'lot', id],
  queryFn: () => ask(api.GET('/api/v1/lots/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => props.kind === 'lot'),
})
const serial = useQuery({
  queryKey: ['stock', 'serial', id],
  queryFn: () => ask(api.GET('/api/v1/serials/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => props.kind === 'serial'),
})
const unit = useQuery({
  queryKey: ['stock', 'load-unit', id],
  queryFn: () => ask(api.GET('/api/v1/load-units/{id}', { params: { path: { id: id.value } } })),
  enabled: computed(() => props.kind === 'carton'),
})
/** Free stock to come: the start, and each thing that comes or goes. */
const course = useQuery({
  queryKey: ['stock', 'course', id, site],
  queryFn: () =>
    ask(api.GET('/api/v1/items/{id}/course', { params: { path: { id: id.value }, query: { site: site.value } } })),
  enabled: computed(() => props.kind === 'item'),
})
</script>

<template>
  <BenchLayout
    waits="Items"
    :waiting="[items]"
    :sheet="
      kind === 'item'
        ? [item]
        : kind === 'location'
          ? [location]
          : kind === 'lot'
            ? [lot]
            : kind === 'serial'
              ? [serial]
              : kind === 'carton'
                ? [unit]
                : []
    "
  >
    <template #waiting>
      <h2>
        <span>Items</span
        ><span
          ><template v-if="can('read-value')"><router-link to="/stock/value">value</router-link> · </template
          ><router-link to="/stock/compare">compare</router-link> ·
          <router-link to="/stock/history">history</router-link></span
        >
      </h2>
      <FormField label="Find an item" style="margin-bottom: 10px"
        ><TextEntry v-model="text" placeholder="SKU, GTIN or words"
      /></FormField>
      <QueueCard
        v-for="i in items.data.value"
        :key="i.item.id"
        :to="`/stock/item/${i.item.id}`"
        :selected="kind === 'item' && id === i.item.id"
      >
        <span>{{ i.item.description }}</span><span class="mono">{{ i.figures.on_hand }}</span>
        <template #more
          ><span class="mono">{{ i.item.sku }}</span
          ><span>{{ i.figures.free }} free</span></template
        >
      </QueueCard>
      <p class="mute small">
        All that is in every bin:
        <a :href="`/api/v1/stock/export?site=${site}&format=xlsx`" download>XLSX</a>,
        <a :href="`/api/v1/stock/export?site=${site}&format=csv`" download>CSV</a>
      </p>
      <div v-if="items.data.value?.length === 0" class="empty">No item has these letters or words.</div>
    </template>

    <template v-if="kind === 'item' && item.data.value">
      <h1>
        {{ item.data.value.item.description }} <span class="mono mute small">{{ item.data.value.item.sku }}</span>
      </h1>
      <ItemFigures v-if="!at" :item="item.data.value.item" :figures="item.data.value.figures" />
    </template>
    <template v-else-if="kind === 'location' && location.data.value">
      <h1 class="mono">{{ location.data.value.location.code }}</h1>
      <p class="mute">
        {{ location.data.value.location.kind
        }}<template v-if="location.data.value.location.max_units"
          >, at most {{ location.data.value.location.max_units }} units</template
        >
      </p>
    </template>
    <template v-else-if="kind === 'lot' && lot.data.value">
      <h1>
        Lot <span class="mono">{{ lot.data.value.code }}</span>
      </h1>
      <p class="mute">
        {{ lot.data.value.item }}
        <router-link class="mono" :to="`/stock/item/${lot.data.value.item_id}`">{{
          lot.data.value.sku
        }}</router-link><template v-if="lot.data.value.expires_on"
          >, expires <span class="mono">{{ lot.data.value.expires_on }}</span></template
        >. <router-link :to="`/audit/recall/lot/${id}`">What became of all of it</router-link>
      </p>
    </template>
    <template v-else-if="kind === 'serial' && serial.data.value">
      <h1>
        Serial <span class="mono">{{ serial.data.value.code }}</span>
      </h1>
      <p class="mute">
        {{ serial.data.value.description }}
        <router-link class="mono" :to="`/stock/item/${serial.data.value.item_id}`">{{
          serial.data.value.sku
        }}</router-link>
      </p>
      <p data-where>
        It is <b>{{ serial.data.value.where }}</b>.
        <router-link v-if="serial.data.value.location_id" :to="`/stock/location/${serial.data.value.location_id}`"
          >What else is there</router-link
        >
        · <router-link :to="`/audit/recall/serial/${id}`">What became of it</router-link>
      </p>
      <UnitJourney :stays="serial.data.value.journey" />
    </template>
    <template v-else-if="kind === 'carton' && unit.data.value">
      <h1>
        {{ unit.data.value.kind === 'pallet' ? 'Pallet' : 'Carton' }}
        <span class="mono">…{{ unit.data.value.sscc.slice(-5) }}</span>
        <span class="mono mute small">{{ unit.data.value.sscc }}</span>
      </h1>
      <p class="mute">
        {{ stateWords(unit.data.value.state)
        }}<template v-if="unit.data.value.order"
          >, for
          <router-link class="mono" :to="`/go/${unit.data.value.order}`">{{ unit.data.value.order }}</router-link>,
          <router-link :to="`/pack/${id}`">at Pack</router-link></template
        ><template v-if="unit.data.value.pallet"
          >, on pallet <span class="mono">…{{ unit.data.value.pallet.slice(-5) }}</span></template
        >
      </p>
    </template>
    <template v-else-if="!kind">
      <WhenFields v-model="at" />
      <template v-if="at">
        <h1>What lay where</h1>
        <StoodList :id="0" of="site" :at="at" />
      </template>
      <StockDay v-else />
    </template>

    <template v-if="kind">
      <WhenFields v-if="rewound" v-model="at" />
      <StoodList v-if="at && rewound" :id="id" :of="rewound" :at="at" />
      <HoldingList v-else-if="trailOf !== 'serial'" :id="id" :of="trailOf" />
      <StockCourse v-if="kind === 'item' && !at && course.data.value" :course="course.data.value" />
      <LotLife v-if="kind === 'lot' && lot.data.value" :lot="lot.data.value" />
      <h2 style="margin-top: 18px">
        <span>Trail</span
        ><span v-if="kind === 'item'" class="small"
          ><router-link :to="`/stock/history?item=${item.data.value?.item.sku ?? ''}`">in the history</router-link> ·
          <router-link :to="`/stock/compare?item=${id}&by=bin`">two instants</router-link></span
        ><span v-else-if="kind === 'location'" class="small"
          ><router-link :to="`/stock/compare?location=${id}`">two instants</router-link></span
        >
      </h2>
      <TrailTable :id="id" :of="trailOf" />
    </template>
  </BenchLayout>
</template>
