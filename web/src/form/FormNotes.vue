<script setup lang="ts">
/** What is wrong with what is formed, and with a file that was brought to it. */
defineProps<{ problem: string; what: string; fileProblem: string }>()
defineEmits<{ away: [] }>()
</script>

<template>
  <p v-if="problem" class="note" role="alert" data-test="form-problem">
    {{ problem }} <em>The last good {{ what }} stays on the table.</em>
  </p>
  <p v-if="fileProblem" class="note" role="alert" data-test="file-problem">
    {{ fileProblem }} <button type="button" @click="$emit('away')">Put away</button>
  </p>
</template>

<style scoped>
.note {
  position: absolute;
  left: 14px;
  right: 14px;
  bottom: 12px;
  margin: 0;
  padding: 8px 12px;
  background: #97213a;
  color: #fff;
  z-index: 6;
}
.note button {
  border: 1px solid #fff;
  background: none;
  color: #fff;
  font: inherit;
  font-size: 12px;
  cursor: pointer;
}
</style>
