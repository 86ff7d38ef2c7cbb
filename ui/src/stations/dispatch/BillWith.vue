<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { session } from '@/api/session'

/** Whether a bill goes with what is sent; those who make none leave it to the customer's own setting. */
const bill = defineModel<Schemas['DeliveriesTerms']['bill']>({ required: true })
const may = ['lead', 'office'].includes(session.person?.role ?? '')
</script>

<template>
  <label v-if="may" class="field"
    >The bill<select v-model="bill" aria-label="The bill">
      <option value="">as the customer is billed</option>
      <option value="later">is made later</option>
      <option value="sent">goes with it</option>
      <option value="mailed">goes with it, by mail</option>
    </select></label
  >
</template>
