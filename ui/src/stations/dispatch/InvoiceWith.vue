<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { can } from '@/api/session'
import ChoiceEntry from '@/parts/ChoiceEntry.vue'
import FormField from '@/parts/FormField.vue'

/** Whether an invoice goes with what is shipped; those who make none let the customer's own setting decide. */
type With = Schemas['ShippingTerms']['invoice']
const invoice = defineModel<With>({ required: true })
const may = can('invoice-shipments')
const ways: { value: NonNullable<With>; label: string }[] = [
  { value: '', label: 'as the customer is invoiced' },
  { value: 'later', label: 'made later' },
  { value: 'shipped', label: 'goes with it' },
  { value: 'mailed', label: 'goes with it, by mail' },
]
</script>

<template>
  <FormField v-if="may" label="Invoice"><ChoiceEntry v-model="invoice" :options="ways" :width="215" /></FormField>
</template>
