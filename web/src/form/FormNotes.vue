<script setup lang="ts">
/** What is wrong with what is formed, and with a file that was brought to it. */
defineProps<{ problem: string; what: string; fileProblem: string }>()
defineEmits<{ away: [] }>()
</script>

<template>
  <p v-if="problem" class="over-flat" role="alert" data-test="form-problem">
    {{ problem }} <em>The last good {{ what }} stays on the table.</em>
  </p>
  <p v-if="fileProblem" class="over-flat" role="alert" data-test="file-problem">
    {{ fileProblem }} <button type="button" @click="$emit('away')">Put away</button>
  </p>
</template>

<style scoped>
.over-flat button {
  border: 1px solid #fff;
  background: none;
  color: #fff;
  font: inherit;
  font-size: 12px;
  cursor: pointer;
}
</style>
