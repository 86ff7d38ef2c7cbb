<script setup lang="ts">
import { useRouter } from 'vue-router'
import OrderForm from './OrderForm.vue'

const router = useRouter()
</script>

<template>
  <div class="page">
    <h1>New order</h1>
    <OrderForm @saved="(o) => router.push(`/orders/${o.id}`)" @leave="router.push('/orders')" />
  </div>
</template>
