<script setup lang="ts">
import { ref } from 'vue'

import { over, type Share } from '@/composables/proofSize'
import { shareWithin } from './pictureHands'

/** The part of a picture that is looked at, drawn over it, or dragged out by hand while one chooses. */
const props = defineProps<{ part: Share | null; choosing: boolean }>()
const emit = defineEmits<{ chosen: [part: Share] }>()

/** Shares of the picture; what is smaller was no drag. */
const LEAST = 0.02
const dragged = ref<Share | null>(null)
let start: { x: number; y: number } | null = null

function down(event: PointerEvent): void {
  if (!props.choosing) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  start = shareWithin(event)
}
function drag(event: PointerEvent): void {
  if (!start) return
  event.stopPropagation()
  const at = shareWithin(event)
  dragged.value = {
    x: Math.min(at.x, start.x),
    y: Math.min(at.y, start.y),
    width: Math.abs(at.x - start.x),
    height: Math.abs(at.y - start.y),
  }
}
function up(): void {
  const found = dragged.value
  start = dragged.value = null
  if (found && found.width > LEAST && found.height > LEAST) emit('chosen', found)
}
</script>

<template>
  <div
    class="over"
    :class="{ choosing }"
    data-test="part-frame"
    @pointerdown="down"
    @pointermove="drag"
    @pointerup="up"
    @pointercancel="start = dragged = null"
  >
    <span v-if="dragged || part" class="part" :style="over(dragged ?? part)" />
  </div>
</template>

<style scoped>
.over {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.over.choosing {
  cursor: crosshair;
  pointer-events: auto;
  touch-action: none;
}
.part {
  position: absolute;
  outline: 1px dashed #fff;
  mix-blend-mode: difference;
}
</style>
