<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { plural } from '@/parts/words'
import { useGuarded } from './guarded'

/** After the last take: what could be shipped from here at once, without the bench. */
const props = defineProps<{ id: number }>()
const emit = defineEmits<{ shipped: [shipments: Schemas['ShippingShipment'][]] }>()
const look = useQuery({
  queryKey: ['pick', 'ship', computed(() => props.id)],
  queryFn: () => ask(api.POST('/api/v1/rounds/{id}/ship/preview', { params: { path: { id: props.id } }, body: {} })),
  retry: false,
})
const going = computed(() => (look.data.value?.orders ?? []).filter((o) => !o.why))
const staying = computed(() => (look.data.value?.orders ?? []).filter((o) => o.why))
const { busy, wrong, guarded } = useGuarded()
const ship = () =>
  guarded(async () => {
    const shipments = await once((h) =>
      ask(
        api.POST('/api/v1/rounds/{id}/ship', {
          headers: h,
          params: { path: { id: props.id } },
          body: { order_ids: going.value.map((o) => o.order_id) },
        }),
      ),
    )
    emit('shipped', shipments)
  })
</script>

<template>
  <section v-if="going.length" class="ship" aria-label="Ship from here">
    <p class="none">Or ship it from here, without the bench:</p>
    <div v-for="o in going" :key="o.order_id" class="job still">
      <b class="mono">{{ o.order }}</b><span
        >{{ o.customer }}: {{ o.units }} units in {{ plural(o.cartons, 'carton') }}</span
      >
    </div>
    <details>
      <summary>Where it was picked, and what is left there</summary>
      <p v-for="o in look.data.value!.origins" :key="`${o.item_id}/${o.lot_id}/${o.bin}`" class="none" data-origin>
        <b class="mono">{{ o.quantity }} {{ o.sku }} {{ o.lot }}</b> from <b class="mono">{{ o.bin }}</b>,
        {{ o.left }} stay
      </p>
    </details>
    <p v-for="n in look.data.value!.notes" :key="n" class="none">{{ n }}</p>
    <p v-for="o in staying" :key="o.order_id" class="none">
      <b class="mono">{{ o.order }}</b> goes to the bench: {{ o.why }}
    </p>
    <div v-if="wrong" class="ask wrong" role="alert">{{ wrong }}</div>
    <button class="press" :disabled="busy" data-ship @click="ship">
      Ship {{ plural(going.length, 'order') }} from here
    </button>
  </section>
</template>

<style scoped>
.ship {
  border-top: 1px solid #5b4d3c;
  margin-top: 14px;
  padding-top: 6px;
}
summary {
  min-height: 48px;
  display: flex;
  align-items: center;
  padding: 0 18px;
  color: #f2c877;
}
.ship .press {
  width: calc(100% - 36px);
}
.still {
  cursor: default;
}
</style>
