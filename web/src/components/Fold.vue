<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { ref } from 'vue'

const props = defineProps<{ name: string }>()
const share = useLocalStorage(`fold-${props.name}`, 0.5)
const table = ref<HTMLElement>()

function drag(event: PointerEvent): void {
  const box = table.value?.getBoundingClientRect()
  if (box && event.buttons) set((event.clientX - box.left) / box.width)
}
function set(value: number): void {
  share.value = Math.min(Math.max(value, 0.2), 0.8)
}
</script>

<template>
  <div ref="table" class="table" :style="{ gridTemplateColumns: `${share}fr 7px ${1 - share}fr` }">
    <section class="flat" aria-label="Flat"><slot name="flat" /></section>
    <div
      class="fold"
      role="separator"
      aria-orientation="vertical"
      aria-label="Fold between flat and round"
      :aria-valuenow="Math.round(share * 100)"
      tabindex="0"
      @pointerdown="($event.target as HTMLElement).setPointerCapture($event.pointerId)"
      @pointermove="drag"
      @dblclick="set(0.5)"
      @keydown.left="set(share - 0.02)"
      @keydown.right="set(share + 0.02)"
    />
    <section class="round" aria-label="Round"><slot name="round" /></section>
  </div>
</template>

<style scoped>
.table {
  display: grid;
  height: 100%;
  min-height: 0;
  min-width: 0;
}
.flat,
.round {
  min-width: 0;
  min-height: 0;
  position: relative;
  overflow: hidden;
}
.flat {
  background: var(--mat);
}
.round {
  background: var(--grey);
}
.fold {
  cursor: col-resize;
  background: var(--card);
  position: relative;
  touch-action: none;
}
.fold::after {
  content: '';
  position: absolute;
  inset: 0 3px;
  border-left: 1.5px dashed #a39b88;
}
.fold:hover::after {
  border-color: var(--ribbon);
}
</style>
