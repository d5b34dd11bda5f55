<script setup lang="ts">
import { computed, ref } from 'vue'

import type { ReceivedShape } from '@/api/client'
import { useBoard } from '@/composables/board'
import { showNumber } from '@/composables/quantity'
import Mat from './Mat.vue'
import Rulers from './Rulers.vue'

/** A received model from in front and from the right, in mm. */
const props = defineProps<{ shape: ReceivedShape; selected: string }>()
const emit = defineEmits<{ select: [part: string] }>()

type Outlines = ReceivedShape['front']
const holder = ref<HTMLElement>()
const bounds = (outlines: Outlines) => {
  const xs = outlines.flatMap((one) => one.points.map((p) => p[0]))
  const ys = outlines.flatMap((one) => one.points.map((p) => p[1]))
  return { left: Math.min(...xs, 0), right: Math.max(...xs, 1), top: Math.max(...ys, 1) }
}
const front = computed(() => bounds(props.shape.front))
const side = computed(() => bounds(props.shape.side))
const width = computed(() => front.value.right - front.value.left)
const depth = computed(() => side.value.right - side.value.left)
const height = computed(() => Math.max(front.value.top, side.value.top))
/** Between the two. */
const gap = computed(() => Math.max(0.3 * height.value, 12))
const board = useBoard(holder, () => ({
  left: -0.08 * height.value - 8,
  right: width.value + gap.value + depth.value + 4,
  bottom: -0.08 * height.value - 8,
  top: height.value * 1.04,
}))
const moved = (points: Outlines[number]['points'], by: number) => points.map(([x, y]) => [x + by, y] as const)
const views = computed(() => [
  { name: 'From in front', at: width.value / 2, by: -front.value.left, outlines: props.shape.front },
  {
    name: 'From the right',
    at: width.value + gap.value + depth.value / 2,
    by: width.value + gap.value - side.value.left,
    outlines: props.shape.side,
  },
])
const shown = (outlines: Outlines) => {
  const parts = new Map<string, Outlines>()
  for (const one of outlines) parts.set(one.part, [...(parts.get(one.part) ?? []), one])
  return [...parts]
}
const path = (rings: Outlines, by: number) => rings.map((one) => `${board.line(moved(one.points, by))}Z`).join('')
</script>

<template>
  <div ref="holder" class="draft" data-test="elevations">
    <svg width="100%" height="100%" role="group" aria-label="The model from two sides, in millimetres">
      <Mat :step="board.gridStep.value" :scale="board.scale.value" :origin="board.origin.value" />
      <g v-for="view in views" :key="view.name">
        <path
          v-for="[part, rings] in shown(view.outlines)"
          :key="part"
          class="part"
          :class="{ chosen: part === selected }"
          fill-rule="evenodd"
          :d="path(rings, view.by)"
          tabindex="0"
          role="button"
          :aria-label="`${part}, ${view.name.toLowerCase()}`"
          @click="emit('select', part)"
          @keydown.enter="emit('select', part)"
        >
          <title>{{ part }}</title>
        </path>
        <text class="name" :x="board.x(view.at)" :y="board.y(height) - 8" text-anchor="middle">{{ view.name }}</text>
      </g>
      <Rulers :board="board" :width="width" :height="height" />
      <text class="size" :x="board.x(width + gap + depth / 2)" :y="board.y(0) + 23" text-anchor="middle">
        {{ showNumber(depth) }} mm deep
      </text>
    </svg>
  </div>
</template>

<style scoped>
.draft {
  position: absolute;
  inset: 0;
  background: var(--mat);
}
.part {
  fill: #fbf8f1cc;
  stroke: var(--ink);
  stroke-width: 1;
  cursor: pointer;
  outline: none;
}
.part:hover {
  fill: #f3dfe0;
}
.part.chosen,
.part:focus-visible {
  fill: #e9b9bfcc;
  stroke: var(--ribbon);
  stroke-width: 2;
}
text {
  font: 11px var(--mono);
  fill: #4d5a52;
}
</style>
