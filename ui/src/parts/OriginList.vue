<script setup lang="ts">
import type { Schemas } from '@/api/client'

/** Where goods that go were taken from, and what is left there. */
defineProps<{ origins: Schemas['ShippingOrigin'][] }>()
</script>

<template>
  <table v-if="origins.length" class="plain" data-origins>
    <thead>
      <tr>
        <th>Picked from</th>
        <th>Item and lot</th>
        <th class="r">Goes</th>
        <th class="r">Left there</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="o in origins" :key="`${o.item_id}/${o.lot_id}/${o.bin}`">
        <td class="mono">{{ o.bin }}</td>
        <td>
          <span class="mono">{{ o.sku }}</span><span v-if="o.lot" class="mono mute lot">{{ o.lot }}</span>
        </td>
        <td class="r mono">{{ o.quantity }}</td>
        <td class="r mono">{{ o.left }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.lot {
  margin-left: 0.6em;
}
</style>
