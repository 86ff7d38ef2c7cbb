<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { useRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
import { can } from '@/api/session'
import OrderForm from './OrderForm.vue'

const router = useRouter()
const queries = useQueryClient()

async function saved(o: Schemas['PurchasingOrder']) {
  await queries.invalidateQueries({ queryKey: ['receive'] })
  void router.push(`/receive/order/${o.id}`)
}
</script>

<template>
  <div class="page">
    <h1>New purchase order</h1>
    <p v-if="!can('request-purchase') && !can('create-purchase-order')" class="empty">
      Your role looks only: an order or a request is written by those who buy and those on the floor.
    </p>
    <OrderForm v-else @saved="saved" @leave="router.push('/receive')" />
  </div>
</template>
