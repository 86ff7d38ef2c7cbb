<script setup lang="ts">
import { useRouter } from 'vue-router'
import { can } from '@/api/session'
import OrderForm from './OrderForm.vue'

const router = useRouter()
</script>

<template>
  <div class="page">
    <h1>New order</h1>
    <p v-if="!can('create-sales-order')" class="empty">Your role looks only: orders are taken by the office.</p>
    <OrderForm v-else @saved="(o) => router.push(`/orders/${o.id}`)" @leave="router.push('/orders')" />
  </div>
</template>
