<script setup lang="ts">
import { computed } from 'vue'

import type { HungLight, Light, Plan } from '@/api/client'
import type { useBoard } from '@/composables/board'
import { showNumber } from '@/composables/quantity'
import { drawnAt, outline, type Place } from '@/set/lights'

/** A light on a drawing that sees the set along one of its axes: `axes` are the two that it shows. */
const props = defineProps<{
  light: Light
  hung: HungLight
  plan: Plan
  board: ReturnType<typeof useBoard>
  axes: [number, number]
  chosen: boolean
  index: number
}>()
const emit = defineEmits<{
  grab: [what: 'light' | 'aim', event: PointerEvent]
  select: []
  nudge: [across: number, up: number]
}>()

const onBoard = (place: Place) => [props.board.x(place[props.axes[0]]!), props.board.y(place[props.axes[1]]!)] as const
const middle = computed(() => onBoard(drawnAt(props.light, props.hung, props.plan)))
const target = computed(() => onBoard(props.hung.target as Place))
const face = computed(() =>
  outline(props.light, props.hung, props.plan)
    .map((place) => onBoard(place).map((v) => v.toFixed(1)))
    .map(([x, y], i) => `${i ? 'L' : 'M'}${x} ${y}`)
    .join(''),
)
const aims = computed(() => props.light.kind !== 'sun' && props.light.kind !== 'table')
const where = computed(() =>
  props.light.kind === 'table'
    ? 'on the floor'
    : `${showNumber(props.light.azimuth, 0)} degrees, ` +
      (props.light.kind === 'sun' ? 'far away' : `${showNumber(props.light.distance, 0)} mm away`),
)
function press(event: KeyboardEvent): void {
  const by = event.shiftKey ? 100 : 10
  const ways: Record<string, [number, number]> = {
    ArrowLeft: [-by, 0],
    ArrowRight: [by, 0],
    ArrowUp: [0, by],
    ArrowDown: [0, -by],
  }
  const way = ways[event.key]
  if (!way) return
  event.preventDefault()
  emit('nudge', ...way)
}
</script>

<template>
  <g
    class="light"
    :class="[light.kind, { chosen, off: !light.on }]"
    tabindex="0"
    role="button"
    :aria-label="`${light.name}: ${where}`"
    :data-test="`light-${index}`"
    @pointerdown="emit('grab', 'light', $event)"
    @focus="emit('select')"
    @keydown="press"
  >
    <line v-if="aims" class="aim" :x1="middle[0]" :y1="middle[1]" :x2="target[0]" :y2="target[1]" />
    <circle v-if="light.kind === 'sun'" class="face" :cx="middle[0]" :cy="middle[1]" r="9" />
    <path v-else class="face" :d="`${face}Z`" />
    <circle class="grip" :data-test="`grip-${index}`" :cx="middle[0]" :cy="middle[1]" r="11" />
    <text :x="middle[0]" :y="middle[1] + 24" text-anchor="middle">{{ light.name }}{{ light.on ? '' : ' (off)' }}</text>
  </g>
  <g
    v-if="chosen && aims"
    class="target"
    tabindex="-1"
    :data-test="`aim-${index}`"
    @pointerdown="emit('grab', 'aim', $event)"
  >
    <circle :cx="target[0]" :cy="target[1]" r="9" />
    <path :d="`M${target[0] - 7} ${target[1]}h14M${target[0]} ${target[1] - 7}v14`" />
    <title>{{ light.name }} is aimed here</title>
  </g>
</template>

<style scoped>
.light,
.target {
  cursor: move;
  outline: none;
}
.face {
  fill: #fffdf4;
  stroke: var(--ink);
  stroke-width: 5;
  stroke-linejoin: round;
  paint-order: stroke;
  fill-opacity: 0.5;
  pointer-events: stroke;
}
.card .face {
  fill: #d8d2c4;
  stroke-dasharray: 6 4;
  stroke-width: 3;
}
.table .face {
  fill-opacity: 0.35;
  stroke-width: 1.5;
}
.off .face {
  fill: #b6b3aa;
  stroke: #8b8880;
}
.grip {
  fill: transparent;
}
.aim {
  pointer-events: none;
  stroke: var(--ink);
  stroke-dasharray: 3 4;
  opacity: 0.35;
}
.chosen .face,
.light:focus-visible .face {
  stroke: var(--ribbon);
}
.target circle {
  fill: #ffffff99;
  stroke: var(--ribbon);
}
.target path {
  stroke: var(--ribbon);
}
text {
  font: 11.5px var(--sans);
  fill: var(--ink);
  stroke: #ffffffb8;
  stroke-width: 3px;
  paint-order: stroke;
  pointer-events: none;
}
</style>
