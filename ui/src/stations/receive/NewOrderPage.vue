<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { useRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
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
    <OrderForm @saved="saved" @leave="router.push('/receive')" />
  </div>
</template>
