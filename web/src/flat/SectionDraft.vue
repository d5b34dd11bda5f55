<script setup lang="ts">
import { computed, ref } from 'vue'

import type { VesselPack, Section } from '@/api/client'
import { useBoard } from '@/composables/board'
import { showNumber } from '@/composables/quantity'
import Mat from './Mat.vue'

const props = defineProps<{
  pack: VesselPack
  selected: number
  outlines: { height: number; outer: [number, number][]; inner: [number, number][] | null }[]
  locked: boolean
}>()
const emit = defineEmits<{ points: [points: [number, number][]] }>()

const holder = ref<HTMLElement>()
const dragging = ref(-1)
const outline = computed(() => props.outlines[props.selected] ?? props.outlines[0] ?? null)
const reach = computed(() => Math.max(10, ...(outline.value?.outer.flat().map(Math.abs) ?? [])))
const frozen = ref<number | null>(null)
const board = useBoard(holder, () => {
  const r = (frozen.value ?? reach.value) * 1.25
  return { left: -r, right: r, bottom: -r, top: r }
})
const own = computed(() => {
  const section = props.pack.form.body.sections?.[props.selected]?.section as Section | undefined
  return section?.kind === 'own' ? section : null
})
/** Own points as they lie on the drawing: centred and scaled to the width, as the core does. */
const scale = computed(() => {
  if (!own.value || !outline.value) return { k: 1, x: 0, y: 0 }
  const xs = own.value.points.map((p) => p[0])
  const ys = own.value.points.map((p) => p[1])
  const half = (Math.max(...xs) - Math.min(...xs)) / 2 || 1
  const wide = Math.max(...outline.value.outer.map((p) => Math.abs(p[0])))
  return { k: wide / half, x: (Math.max(...xs) + Math.min(...xs)) / 2, y: (Math.max(...ys) + Math.min(...ys)) / 2 }
})
const shown = computed(
  () =>
    own.value?.points.map(
      (p) => [(p[0] - scale.value.x) * scale.value.k, (p[1] - scale.value.y) * scale.value.k] as const,
    ) ?? [],
)

function grab(index: number, event: PointerEvent): void {
  if (props.locked) return
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  dragging.value = index
  frozen.value = reach.value
}
function drag(event: PointerEvent): void {
  if (dragging.value < 0 || !own.value) return
  const at = board.toMm(event)
  const { k, x, y } = scale.value
  place(dragging.value, [at.x / k + x, at.y / k + y])
}
function place(index: number, point: [number, number]): void {
  const points = own.value!.points.map(
    (p, i) =>
      (i === index ? [Number(point[0].toFixed(3)), Number(point[1].toFixed(3))] : [p[0], p[1]]) as [number, number],
  )
  emit('points', points)
}
function nudge(index: number, dx: number, dy: number, event: KeyboardEvent): void {
  const by = (event.shiftKey ? 2 : 0.5) / scale.value.k
  const p = own.value!.points[index]!
  place(index, [p[0] + dx * by, p[1] + dy * by])
}
function insert(index: number): void {
  const points = own.value!.points.map((p) => [p[0], p[1]] as [number, number])
  const next = points[(index + 1) % points.length]!
  points.splice(index + 1, 0, [(points[index]![0] + next[0]) / 2, (points[index]![1] + next[1]) / 2])
  emit('points', points)
}
function remove(index: number): void {
  if (own.value!.points.length > 3)
    emit(
      'points',
      own.value!.points.filter((_, i) => i !== index).map((p) => [p[0], p[1]] as [number, number]),
    )
}
function press(index: number, event: KeyboardEvent): void {
  const steps: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, 1],
    ArrowDown: [0, -1],
  }
  const step = steps[event.key]
  if (step) nudge(index, step[0], step[1], event)
  else if (event.key === 'Delete' || event.key === 'Backspace') remove(index)
  else if (event.key === 'Insert' || event.key === '+') insert(index)
  else return
  event.preventDefault()
}
function drop(): void {
  dragging.value = -1
  frozen.value = null
}
const size = computed(() => {
  const points = outline.value?.outer ?? []
  const span = (k: 0 | 1) => Math.max(...points.map((p) => p[k])) - Math.min(...points.map((p) => p[k]))
  return points.length ? { width: span(0), depth: span(1) } : null
})
</script>

<template>
  <div ref="holder" class="draft">
    <svg
      width="100%"
      height="100%"
      role="group"
      aria-label="Cross-section seen from above, in millimetres"
      @pointermove="drag"
      @pointerup="drop"
      @pointercancel="drop"
    >
      <Mat :step="board.gridStep.value" :scale="board.scale.value" :origin="board.origin.value" />
      <template v-for="(other, index) in outlines" :key="index">
        <path v-if="index !== selected" :d="board.line(other.outer) + 'Z'" class="other" />
      </template>
      <template v-if="outline">
        <path
          :d="board.line(outline.outer) + 'Z' + (outline.inner ? board.line(outline.inner) + 'Z' : '')"
          class="wall"
        />
        <text v-if="size" :x="board.x(0)" :y="board.y(-reach) + 22" class="size" text-anchor="middle">
          {{ showNumber(size.width) }} wide × {{ showNumber(size.depth) }} deep, at {{ showNumber(outline.height) }} mm
        </text>
      </template>
      <line :x1="board.x(0)" :x2="board.x(0)" y1="0" y2="100%" class="axis" />
      <line x1="0" x2="100%" :y1="board.y(0)" :y2="board.y(0)" class="axis" />
      <text :x="board.x(0) + 6" :y="board.y(-reach) + 40" class="size">front</text>
      <g
        v-for="(point, index) in shown"
        :key="`p${index}`"
        class="point"
        tabindex="0"
        role="button"
        :aria-label="`Outline point ${index + 1}`"
        :data-test="`outline-${index}`"
        @pointerdown="grab(index, $event)"
        @dblclick="insert(index)"
        @keydown="press(index, $event)"
      >
        <circle :cx="board.x(point[0])" :cy="board.y(point[1])" r="11" fill="transparent" stroke="none" />
        <rect :x="board.x(point[0]) - 4.5" :y="board.y(point[1]) - 4.5" width="9" height="9" />
      </g>
    </svg>
  </div>
</template>

<style scoped>
.draft {
  position: absolute;
  inset: 0;
}
svg {
  display: block;
  touch-action: none;
}
.wall {
  fill: #9fb8b2;
  fill-opacity: 0.75;
  fill-rule: evenodd;
  stroke: #3d5750;
}
.other {
  fill: none;
  stroke: #5c5a54;
  stroke-dasharray: 4 4;
  opacity: 0.6;
}
.axis {
  stroke: var(--ink);
  stroke-dasharray: 14 4 2 4;
  opacity: 0.5;
}
.size {
  font: 11.5px var(--mono);
  fill: var(--ink);
}
.point {
  cursor: move;
  outline: none;
}
.point rect {
  fill: var(--card);
  stroke: var(--ink);
  stroke-width: 1.6;
}
.point:focus-visible rect {
  stroke-width: 3;
  stroke: var(--ribbon);
}
</style>
