<script setup lang="ts">
import { RouterLink } from 'vue-router'
</script>

<template>
  <main class="lost">
    <h1>Nothing lies here</h1>
    <p>The address is wrong or what it showed has been removed. <RouterLink to="/">Go to the jobs</RouterLink></p>
  </main>
</template>

<style scoped>
.lost {
  padding: 80px;
}
</style>
