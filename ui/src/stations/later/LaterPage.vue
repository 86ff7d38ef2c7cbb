<script setup lang="ts">
defineProps<{ later: string }>()
</script>

<template>
  <div class="later">
    <h1>Returns</h1>
    <p class="empty">
      This station is not open in this version. Goods that come back from a customer will be taken in here, from the
      shipment they went out with.
    </p>
  </div>
</template>

<style scoped>
.later {
  padding: 20px 24px;
  max-width: 640px;
}
</style>
