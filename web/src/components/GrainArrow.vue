<script setup lang="ts">
import { computed } from 'vue'

import { grainInHand, type Place2, seenWay, settled, turnGrain, turnOf } from '@/composables/grain'

/** The way the grain in hand runs, px; `right` and `up` are how a mm of either is seen there. Drag an end to turn it. */
const props = defineProps<{ at: Place2; right: Place2; up: Place2 }>()

const BESIDE_PX = 11
const STEPS: Record<string, number> = { ArrowLeft: 1, ArrowUp: 1, ArrowRight: -1, ArrowDown: -1 }
const turn = computed(() => grainInHand.held?.grain.turn ?? 0)
const way = computed(() => seenWay(turn.value, props.right, props.up))
/** Lines beside each other, the middle one longest. */
const lines = computed(() => {
  const [x, y] = way.value
  const length = Math.hypot(x, y)
  return [-2, -1, 0, 1, 2].map((step) => {
    const share = 1 - 0.16 * Math.abs(step)
    const [dx, dy] = [(-y / length) * BESIDE_PX * step, (x / length) * BESIDE_PX * step]
    return { x1: dx - share * x, y1: dy - share * y, x2: dx + share * x, y2: dy + share * y }
  })
})
let frame: DOMRect | null = null
function grab(event: PointerEvent): void {
  const handle = event.currentTarget as SVGElement
  handle.setPointerCapture(event.pointerId)
  frame = handle.ownerSVGElement!.getBoundingClientRect()
  event.stopPropagation()
}
function drag(event: PointerEvent, side: number): void {
  if (!frame) return
  const [x, y] = [event.clientX - frame.left - props.at[0], event.clientY - frame.top - props.at[1]]
  const found = turnOf([side * x, side * y], props.right, props.up)
  if (found !== null && Math.hypot(x, y) > 6) turnGrain(settled(found, event.shiftKey))
}
function press(event: KeyboardEvent): void {
  const step = STEPS[event.key]
  if (!step) return
  event.preventDefault()
  turnGrain(settled(turn.value + step * (event.shiftKey ? 15 : 1), true))
}
</script>

<template>
  <g class="grain" :transform="`translate(${at[0]} ${at[1]})`" data-test="grain">
    <line v-for="(one, i) in lines" :key="`under-${i}`" class="under" v-bind="one" />
    <line v-for="(one, i) in lines" :key="i" v-bind="one" />
    <circle
      v-for="side in [1, -1]"
      :key="side"
      :cx="side * way[0]"
      :cy="side * way[1]"
      r="7"
      tabindex="0"
      role="slider"
      aria-label="Way of the grain"
      aria-valuemin="-90"
      aria-valuemax="90"
      :aria-valuenow="turn"
      :data-test="side > 0 ? 'grain-end' : 'grain-start'"
      @pointerdown="grab"
      @pointermove="drag($event, side)"
      @pointerup="frame = null"
      @pointercancel="frame = null"
      @keydown="press"
    >
      <title>Drag to turn the grain; with Shift to any degree</title>
    </circle>
  </g>
</template>

<style scoped>
line {
  stroke: var(--ribbon);
  stroke-width: 1.6;
  stroke-linecap: round;
  pointer-events: none;
}
.under {
  stroke: #fffdf8;
  stroke-width: 3.6;
  opacity: 0.75;
}
circle {
  fill: #fffdf8;
  stroke: var(--ribbon);
  stroke-width: 2;
  pointer-events: all;
  cursor: grab;
}
circle:active {
  cursor: grabbing;
}
</style>
