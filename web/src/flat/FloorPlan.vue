<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Camera, PhotoSet, Plan } from '@/api/client'
import { snap, useBoard } from '@/composables/board'
import { showNumber } from '@/composables/quantity'
import Mat from './Mat.vue'

const props = defineProps<{
  set: PhotoSet
  camera: Camera
  plan: Plan
  packRadius: number
  viewAngle: number
  selected: number
}>()
const emit = defineEmits<{
  select: [index: number]
  moveLight: [index: number, azimuth: number, distance: number]
  moveCamera: [azimuth: number, distance: number]
}>()

const CAMERA = -1
const holder = ref<HTMLElement>()
const grip = ref<number | null>(null)
const frozen = ref<{ left: number; right: number; bottom: number; top: number } | null>(null)

const RAD = Math.PI / 180
const lights = computed(() =>
  props.set.lights.map((light, index) => {
    const [x, y] = props.plan.lights[index] ?? props.plan.middle
    return { ...light, x, y, out: Math.hypot(x - props.plan.middle[0], y - props.plan.middle[1]) }
  }),
)
const eye = computed(() => ({ x: props.plan.camera[0], y: props.plan.camera[1] }))
/** Where the sweep leaves the floor. */
const crease = computed(() => Math.max(...props.plan.sweep.filter(([, z]) => z < 1).map(([y]) => y)))
const extent = computed(() => {
  const reach = Math.max(...lights.value.map((l) => l.out + l.width / 3), props.camera.distance, 500) * 1.06
  return { left: -reach, right: reach, bottom: -reach, top: Math.min(props.set.sweep.back * 1.1, reach) }
})
const board = useBoard(holder, () => frozen.value ?? extent.value, 30)
const cone = computed(() => {
  const reach = props.camera.distance * 1.5
  const centre = Math.atan2(props.plan.target[0] - eye.value.x, props.plan.target[1] - eye.value.y)
  const edge = (side: number) => {
    const a = centre + side * (props.viewAngle / 2) * RAD
    return [eye.value.x + reach * Math.sin(a), eye.value.y + reach * Math.cos(a)]
  }
  return [edge(-1), [eye.value.x, eye.value.y], edge(1)]
})

function grab(index: number, event: PointerEvent): void {
  ;(event.target as Element).setPointerCapture(event.pointerId)
  grip.value = index
  frozen.value = extent.value
  emit('select', index)
}
function drag(event: PointerEvent): void {
  if (grip.value === null) return
  const at = board.toMm(event)
  const [x, y] = grip.value === CAMERA ? props.plan.target : props.plan.middle
  const azimuth = snap(Math.atan2(at.x - x, -(at.y - y)) / RAD, 1)
  const out = Math.max(snap(Math.hypot(at.x - x, at.y - y), 5), 60)
  place(grip.value, azimuth, out)
}
function place(index: number, azimuth: number, out: number): void {
  if (index === CAMERA) emit('moveCamera', azimuth, out)
  else emit('moveLight', index, azimuth, Math.round(out / Math.cos(props.set.lights[index]!.elevation * RAD)))
}
function nudge(index: number, turn: number, away: number, event: KeyboardEvent): void {
  const by = event.shiftKey ? 10 : 1
  const now = index === CAMERA ? { azimuth: props.camera.azimuth, out: props.camera.distance } : lights.value[index]!
  place(index, now.azimuth + turn * by, Math.max(now.out + away * by * 10, 60))
}
function release(): void {
  grip.value = null
  frozen.value = null
}
</script>

<template>
  <div ref="holder" class="plan">
    <svg
      width="100%"
      height="100%"
      role="group"
      aria-label="Floor plan in millimetres, seen from above"
      @pointermove="drag"
      @pointerup="release"
      @pointercancel="release"
    >
      <Mat :step="board.gridStep.value" :scale="board.scale.value" :origin="board.origin.value" />
      <rect
        class="sweep"
        :style="{ fill: set.background }"
        :x="board.x(-set.sweep.width / 2)"
        :y="board.y(set.sweep.back)"
        :width="set.sweep.width * board.scale.value"
        :height="(set.sweep.back + set.sweep.front) * board.scale.value"
      />
      <line class="crease" x1="0" x2="100%" :y1="board.y(crease)" :y2="board.y(crease)" />
      <text class="word" x="10" :y="board.y(crease) - 5">here the sweep curves up</text>
      <path class="cone" :d="board.line(cone)" />
      <circle
        class="pack"
        :cx="board.x(plan.middle[0])"
        :cy="board.y(plan.middle[1])"
        :r="Math.max(packRadius * board.scale.value, 4)"
      />
      <g
        v-for="(light, index) in lights"
        :key="index"
        class="light"
        :class="{ chosen: index === selected, off: !light.on }"
        tabindex="0"
        role="button"
        :aria-label="`${light.name}: ${showNumber(light.azimuth, 0)} degrees, ${showNumber(light.distance, 0)} mm away`"
        :data-test="`light-${index}`"
        @pointerdown="grab(index, $event)"
        @focus="emit('select', index)"
        @keydown.left.prevent="nudge(index, -1, 0, $event)"
        @keydown.right.prevent="nudge(index, 1, 0, $event)"
        @keydown.up.prevent="nudge(index, 0, 1, $event)"
        @keydown.down.prevent="nudge(index, 0, -1, $event)"
      >
        <line
          class="aim"
          :x1="board.x(light.x)"
          :y1="board.y(light.y)"
          :x2="board.x(plan.middle[0])"
          :y2="board.y(plan.middle[1])"
        />
        <g :transform="`translate(${board.x(light.x)} ${board.y(light.y)}) rotate(${-light.azimuth})`">
          <rect
            :x="-Math.max((light.width * board.scale.value) / 2, 8)"
            y="-7"
            :width="Math.max(light.width * board.scale.value, 16)"
            height="14"
            rx="2"
          />
        </g>
        <text :x="board.x(light.x)" :y="board.y(light.y) + 24" text-anchor="middle">
          {{ light.name }}{{ light.on ? '' : ' (off)' }}
        </text>
      </g>
      <g
        class="camera"
        :class="{ chosen: selected === CAMERA }"
        tabindex="0"
        role="button"
        data-test="plan-camera"
        :aria-label="`${showNumber(camera.lens_mm)} mm lens: camera ${showNumber(camera.distance, 0)} mm away`"
        @pointerdown="grab(CAMERA, $event)"
        @focus="emit('select', CAMERA)"
        @keydown.left.prevent="nudge(CAMERA, -1, 0, $event)"
        @keydown.right.prevent="nudge(CAMERA, 1, 0, $event)"
        @keydown.up.prevent="nudge(CAMERA, 0, -1, $event)"
        @keydown.down.prevent="nudge(CAMERA, 0, 1, $event)"
      >
        <g :transform="`translate(${board.x(eye.x)} ${board.y(eye.y)}) rotate(${-camera.azimuth})`">
          <rect x="-11" y="-4" width="22" height="15" rx="2" />
          <path d="M-5 -4 L-8 -11 H8 L5 -4Z" />
        </g>
        <text :x="board.x(eye.x) + 18" :y="board.y(eye.y) + 9">{{ showNumber(camera.lens_mm) }} mm lens</text>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.plan {
  position: absolute;
  inset: 0;
}
svg {
  display: block;
  touch-action: none;
}
.sweep {
  opacity: 0.45;
}
.crease {
  stroke: var(--ink);
  stroke-dasharray: 7 5;
  opacity: 0.5;
}
.word,
text {
  font: 11.5px var(--sans);
  fill: var(--ink);
}
.cone {
  fill: #b3324c14;
  stroke: #b3324c66;
}
.pack {
  fill: var(--ink);
}
.light,
.camera {
  cursor: move;
  outline: none;
}
.light rect {
  fill: #fffdf4;
  stroke: var(--ink);
  stroke-width: 1.4;
}
.aim {
  stroke: var(--ink);
  stroke-dasharray: 3 4;
  opacity: 0.35;
}
.off rect {
  fill: #b6b3aa;
}
.camera rect,
.camera path {
  fill: var(--ink);
  stroke: var(--ink);
}
.chosen rect,
.light:focus-visible rect {
  stroke: var(--ribbon);
  stroke-width: 2.6;
}
.camera.chosen rect,
.camera.chosen path,
.camera:focus-visible rect {
  fill: var(--ribbon);
  stroke: var(--ribbon);
}
</style>
