<script setup lang="ts">
import Fold from './Fold.vue'

defineProps<{ name: string }>()
</script>

<template>
  <div class="frame">
    <Fold :name="name" class="fold-area">
      <template #flat><slot name="flat" /></template>
      <template #round><slot name="round" /></template>
    </Fold>
    <aside class="slip" aria-label="Slip"><slot name="slip" /></aside>
    <div v-if="$slots.strip" class="strip-area"><slot name="strip" /></div>
    <footer class="rule" aria-label="Read-outs"><slot name="rule" /></footer>
  </div>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template: minmax(0, 1fr) auto 36px / minmax(0, 1fr) 296px;
  height: 100%;
  min-height: 0;
}
.strip-area {
  grid-area: 2 / 1;
  min-width: 0;
}
.slip {
  position: relative;
  grid-area: 1 / 2 / span 2;
  padding: 16px 16px 20px;
  overflow-y: auto;
  border-left: 1.5px dashed #cfc6b3;
  background: var(--card);
}
.slip :deep(h2) {
  margin-bottom: 10px;
}
.slip :deep(h3) {
  margin: 16px 0 6px;
}
.slip :deep(details) {
  margin-top: 14px;
  border-top: 1px solid #ddd4c0;
  padding-top: 8px;
}
.slip :deep(summary) {
  cursor: pointer;
  font-weight: 600;
}
.rule {
  grid-area: 3 / 1 / auto / -1;
  display: flex;
  align-items: center;
  gap: 26px;
  padding: 0 14px;
  font-size: 12.5px;
  white-space: nowrap;
  overflow: hidden;
  border-top: 1px solid #cfc6b3;
  background:
    repeating-linear-gradient(90deg, #b9ad94 0 1px, transparent 1px 12px) top / 100% 4px no-repeat,
    #efe9dc;
}
.rule :deep(.hint) {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
}
.rule :deep(b) {
  font-family: var(--mono);
  font-weight: 400;
}
</style>
