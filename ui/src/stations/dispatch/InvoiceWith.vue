<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { session } from '@/api/session'

/** Whether an invoice goes with what is shipped; those who make none leave it to the customer's own setting. */
const invoice = defineModel<Schemas['ShippingTerms']['invoice']>({ required: true })
const may = ['lead', 'office'].includes(session.person?.role ?? '')
</script>

<template>
  <label v-if="may" class="field"
    >The invoice<select v-model="invoice" aria-label="The invoice">
      <option value="">as the customer is invoiced</option>
      <option value="later">is made later</option>
      <option value="shipped">goes with it</option>
      <option value="mailed">goes with it, by mail</option>
    </select></label
  >
</template>
