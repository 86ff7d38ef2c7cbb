<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, once, type Schemas } from '@/api/client'
import { plural } from '@/parts/words'
import { useGuarded } from './guarded'

/** After the last take: what could be sent from here at once, without the bench. */
const props = defineProps<{ id: number }>()
const emit = defineEmits<{ sent: [deliveries: Schemas['DeliveriesDelivery'][]] }>()
const look = useQuery({
  queryKey: ['pick', 'send-off', computed(() => props.id)],
  queryFn: () => ask(api.POST('/api/v1/rounds/{id}/send/preview', { params: { path: { id: props.id } }, body: {} })),
  retry: false,
})
const going = computed(() => (look.data.value?.orders ?? []).filter((o) => !o.why))
const staying = computed(() => (look.data.value?.orders ?? []).filter((o) => o.why))
const { busy, wrong, guarded } = useGuarded()
const send = () =>
  guarded(async () => {
    const sent = await once((h) =>
      ask(
        api.POST('/api/v1/rounds/{id}/send', {
          headers: h,
          params: { path: { id: props.id } },
          body: { order_ids: going.value.map((o) => o.order_id) },
        }),
      ),
    )
    emit('sent', sent)
  })
</script>

<template>
  <section v-if="going.length" class="off" aria-label="Send from here">
    <p class="none">Or send it from here, without the bench:</p>
    <div v-for="o in going" :key="o.order_id" class="job still">
      <b class="mono">{{ o.order }}</b><span
        >{{ o.customer }}: {{ o.units }} units in {{ plural(o.cartons, 'carton') }}</span
      >
    </div>
    <details>
      <summary>Where it was taken, and what is left there</summary>
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
    <button class="press" :disabled="busy" data-send-off @click="send">
      Send {{ plural(going.length, 'order') }} from here
    </button>
  </section>
</template>

<style scoped>
.off {
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
.off .press {
  width: calc(100% - 36px);
}
.still {
  cursor: default;
}
</style>
