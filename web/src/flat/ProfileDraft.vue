<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Pack, Shape } from '@/api/client'
import { snap, useBoard } from '@/composables/board'
import { showNumber } from '@/composables/quantity'
import Mat from './Mat.vue'

const props = defineProps<{ pack: Pack; shape: Shape | null; selected: number; badPlace: string }>()
const emit = defineEmits<{ select: [index: number]; move: [index: number, radius: number, height: number] }>()

const holder = ref<HTMLElement>()
const dragging = ref(-1)
const frozen = ref<{ left: number; right: number; bottom: number; top: number } | null>(null)
const extent = computed(() => {
  const corners = props.pack.body.profile
  const radius = Math.max(...corners.map((c) => c.radius), 10)
  const top = Math.max(props.shape?.facts.height ?? 0, ...corners.map((c) => c.height))
  // room at the right for the heights that are written there
  return { left: -radius - 8, right: radius + 0.16 * top + 8, bottom: -8, top: top + 6 }
})
const board = useBoard(holder, () => frozen.value ?? extent.value)

const corners = computed(() => props.pack.body.profile)
const liquid = computed(() =>
  props.shape?.liquid_wall && props.shape.liquid_top
    ? [...props.shape.liquid_top].reverse().concat(props.shape.liquid_wall)
    : null,
)
const raw = computed(() => [[0, 0], ...corners.value.map((c) => [c.radius, c.height])])
const bad = (index: number) => props.badPlace.startsWith(`body.profile.${index}`)

function grab(index: number, event: PointerEvent): void {
  ;(event.target as Element).setPointerCapture(event.pointerId)
  dragging.value = index
  frozen.value = extent.value
  emit('select', index)
}
function drag(event: PointerEvent): void {
  if (dragging.value < 0) return
  const at = board.toMm(event)
  const step = event.shiftKey ? 0.1 : 0.5
  move(dragging.value, snap(at.x, step), snap(at.y, step))
}
function drop(): void {
  dragging.value = -1
  frozen.value = null
}
function move(index: number, radius: number, height: number): void {
  const z = index === 0 ? 0 : Math.max(height, 0)
  emit('move', index, Number(Math.max(radius, 0.5).toFixed(2)), Number(z.toFixed(2)))
}
function nudge(index: number, dr: number, dz: number, event: KeyboardEvent): void {
  const by = event.shiftKey ? 5 : 0.5
  const corner = corners.value[index]!
  move(index, corner.radius + dr * by, corner.height + dz * by)
}
</script>

<template>
  <div ref="holder" class="draft">
    <svg width="100%" height="100%" role="group" aria-label="Half-profile in millimetres" @pointermove="drag" @pointerup="drop" @pointercancel="drop">
      <Mat :step="board.gridStep.value" :scale="board.scale.value" :origin="board.origin.value" />
      <template v-if="shape">
        <path v-if="liquid" :d="board.line(liquid) + 'Z'" class="liquid" :style="{ fill: pack.contents?.material.colour }" />
        <path v-if="liquid" :d="board.line(liquid, -1) + 'Z'" class="liquid ghost" :style="{ fill: pack.contents?.material.colour }" />
        <path :d="board.line(shape.glass) + 'Z'" class="glass" />
        <path :d="board.line(shape.glass, -1) + 'Z'" class="glass ghost" />
        <template v-if="shape.cap">
          <path :d="board.line(shape.cap) + 'Z'" class="cap" />
          <path :d="board.line(shape.cap, -1) + 'Z'" class="cap ghost" />
        </template>
        <path v-for="sheet in shape.sheets" :key="sheet.name" :d="board.line(sheet.face)" class="sheet" />
      </template>
      <line :x1="board.x(0)" :x2="board.x(0)" y1="0" y2="100%" class="axis" />
      <line x1="0" x2="100%" :y1="board.y(0)" :y2="board.y(0)" class="table" />
      <path :d="board.line(raw)" class="raw" />
      <template v-if="shape">
        <text :x="board.x(shape.facts.diameter / 2 + 6)" :y="board.y(shape.facts.rim_height) + 4" class="size">rim {{ showNumber(shape.facts.rim_height) }}</text>
        <text v-if="pack.contents" :x="board.x(shape.facts.diameter / 2 + 6)" :y="board.y(pack.contents.fill_height) + 14" class="size fill">fill {{ showNumber(pack.contents.fill_height) }}</text>
        <text :x="board.x(0)" :y="board.y(0) + 18" class="size" text-anchor="middle">⌀ {{ showNumber(shape.facts.diameter) }}</text>
      </template>
      <g
        v-for="(corner, index) in corners" :key="index" class="corner" :class="{ chosen: index === selected, bad: bad(index) }"
        tabindex="0" role="button" :aria-label="`Corner ${index + 1}: ${corner.radius} mm from the axis, ${corner.height} mm up`" :data-test="`corner-${index}`"
        @pointerdown="grab(index, $event)"
        @focus="emit('select', index)"
        @keydown.left.prevent="nudge(index, -1, 0, $event)"
        @keydown.right.prevent="nudge(index, 1, 0, $event)"
        @keydown.up.prevent="nudge(index, 0, 1, $event)"
        @keydown.down.prevent="nudge(index, 0, -1, $event)"
      >
        <circle :cx="board.x(corner.radius)" :cy="board.y(corner.height)" r="11" fill="transparent" />
        <rect :x="board.x(corner.radius) - 4.5" :y="board.y(corner.height) - 4.5" width="9" height="9" />
        <text v-if="index === dragging" :x="board.x(corner.radius) + 12" :y="board.y(corner.height) - 8" class="size now">{{ showNumber(corner.radius) }} , {{ showNumber(corner.height) }}</text>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.draft { position: absolute; inset: 0; }
svg { display: block; touch-action: none; }
.glass { fill: #9fb8b2; fill-opacity: 0.75; stroke: #3d5750; stroke-width: 1; }
.liquid { fill-opacity: 0.62; }
.cap { fill: #8d867b; fill-opacity: 0.65; stroke: #4a453d; }
.sheet { fill: none; stroke: var(--ribbon); stroke-width: 2.5; }
.ghost { opacity: 0.42; }
.raw { fill: none; stroke: var(--ink); stroke-width: 1; stroke-dasharray: 2 3; opacity: 0.55; pointer-events: none; }
.axis { stroke: var(--ink); stroke-dasharray: 14 4 2 4; opacity: 0.6; }
.table { stroke: var(--ink); opacity: 0.5; }
.size { font: 11.5px var(--mono); fill: var(--ink); }
.fill { fill: #7a4d09; }
.corner { cursor: move; outline: none; }
.corner rect { fill: var(--card); stroke: var(--ink); stroke-width: 1.6; }
.corner:hover rect, .corner:focus-visible rect { stroke: var(--ribbon); stroke-width: 2.4; }
.corner.chosen rect { fill: var(--ribbon); stroke: var(--ribbon); }
.corner.bad rect { fill: #97213a; stroke: #97213a; }
.now { paint-order: stroke; stroke: var(--card); stroke-width: 4px; }
</style>
