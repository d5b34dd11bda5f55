<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Corner, VesselPack, Shape } from '@/api/client'
import GrainArrow from '@/components/GrainArrow.vue'
import { useBoard } from '@/composables/board'
import { grainInHand } from '@/composables/grain'
import { showNumber } from '@/composables/quantity'
import { snapPoint } from '@/composables/snapping'
import Mat from './Mat.vue'
import Tracing from './Tracing.vue'

const props = defineProps<{
  pack: VesselPack
  shape: Shape | null
  selected: number
  badPlace: string
  locked: boolean
}>()
const emit = defineEmits<{
  select: [index: number]
  move: [index: number, radius: number, height: number]
  insert: [after: number, radius: number, height: number]
  bulge: [index: number, bulge: number]
  remove: [index: number]
  zone: [name: string, top: number]
}>()

const SNAP_PX = 6
const LEAST_TEXT_PX = 15

const holder = ref<HTMLElement>()
const dragging = ref(-1)
const leg = ref(-1)
const zoneDragged = ref('')
const guides = ref<{ x: number | null; y: number | null }>({ x: null, y: null })
const frozen = ref<{ left: number; right: number; bottom: number; top: number } | null>(null)
const corners = computed(() => props.pack.form.body.profile)
const extent = computed(() => {
  const closure = props.shape?.drawing.closure.flatMap((o) => o.points) ?? []
  const radius = Math.max(...corners.value.map((c) => c.radius), (props.shape?.facts.diameter ?? 0) / 2, 10)
  const right = Math.max(radius, ...closure.map(([x]) => x))
  const left = Math.max(radius, ...closure.map(([x]) => -x))
  const top = Math.max(
    props.shape?.facts.rim_height ?? 0,
    ...corners.value.map((c) => c.height),
    ...closure.map(([, z]) => z),
  )
  // room at the right for the heights that are written there, at the left for the zones
  return { left: -left - 0.1 * top - 6, right: right + 0.2 * top + 8, bottom: -10, top: top + 6 }
})
const board = useBoard(holder, () => frozen.value ?? extent.value)

const body = computed(() => {
  const drawing = props.shape?.drawing
  return drawing ? [...drawing.outer, ...[...drawing.inner].reverse()] : null
})
const contents = computed(() => props.shape?.drawing.contents ?? null)
const legs = computed(() =>
  corners.value.slice(0, -1).map((a, index) => {
    const b = corners.value[index + 1]!
    const length = Math.hypot(b.radius - a.radius, b.height - a.height) || 1
    const bulge = a.leave === 'arc' ? a.bulge : 0
    return {
      index,
      x: (a.radius + b.radius) / 2 + (bulge * (b.height - a.height)) / length,
      y: (a.height + b.height) / 2 - (bulge * (b.radius - a.radius)) / length,
      long: length * board.scale.value > 34,
    }
  }),
)
/** Heights written up the right side, left out where they would cover each other. */
const heights = computed(() => {
  const facts = props.shape?.facts
  const wanted: { z: number; words: string; kind: string }[] = []
  if (facts) wanted.push({ z: facts.rim_height, words: `rim ${showNumber(facts.rim_height)}`, kind: 'rim' })
  if (facts && props.pack.form.contents)
    wanted.push({
      z: props.pack.form.contents.fill_height,
      words: `fill ${showNumber(props.pack.form.contents.fill_height)}`,
      kind: 'fill',
    })
  corners.value.forEach(
    (c, i) =>
      i && wanted.push({ z: c.height, words: showNumber(c.height), kind: i === props.selected ? 'chosen' : '' }),
  )
  const kept: typeof wanted = []
  for (const one of wanted)
    if (kept.every((k) => Math.abs(k.z - one.z) * board.scale.value > LEAST_TEXT_PX)) kept.push(one)
  return kept
})
/** Where the way of the grain in hand is shown: the middle of its part, as it is seen from the front. */
const grainAt = computed((): [number, number] | null => {
  const part = grainInHand.held?.place.part
  const { drawing } = props.shape ?? {}
  if (!part || !drawing) return null
  const closure = drawing.closure.some((o) => o.part === part) ? drawing.closure : []
  const its = part === 'body' ? body.value : part === 'contents' ? contents.value : closure.flatMap((o) => o.points)
  const heights = its?.map(([, z]) => z!) ?? []
  return heights.length ? [board.x(0), board.y((Math.min(...heights) + Math.max(...heights)) / 2)] : null
})
const margin = computed(() => extent.value.right - 0.15 * extent.value.top - 4)
const zones = computed(() => props.shape?.zones.filter((z) => (z.top - z.bottom) * board.scale.value > 2) ?? [])
const chosen = computed(() => corners.value[props.selected])
const limit = computed(() => props.shape?.drawing.limits[props.selected] ?? null)
/** Colour of the contents, as they are dressed. */
const liquid = computed(() => {
  const made = props.shape?.surfaces.find((s) => s.part === 'contents')?.material
  return made && 'colour' in made ? made.colour : '#d8d0c0'
})
const bad = (index: number) =>
  props.badPlace.startsWith(`body.profile.${index}.`) || props.badPlace === `body.profile.${index}`
const capture = (event: PointerEvent) => (event.currentTarget as Element).setPointerCapture(event.pointerId)

function grab(index: number, event: PointerEvent): void {
  emit('select', index)
  if (props.locked || event.button) return
  capture(event)
  dragging.value = index
  frozen.value = extent.value
}
function grabLeg(index: number, event: PointerEvent): void {
  if (props.locked || event.button) return
  capture(event)
  leg.value = index
  frozen.value = extent.value
}
function grabZone(name: string, event: PointerEvent): void {
  if (props.locked) return
  capture(event)
  zoneDragged.value = name
  frozen.value = extent.value
}
function drag(event: PointerEvent): void {
  if (dragging.value < 0 && leg.value < 0 && !zoneDragged.value) return
  const at = board.toMm(event)
  if (zoneDragged.value) return emit('zone', zoneDragged.value, Number(Math.max(at.y, 0).toFixed(1)))
  if (leg.value >= 0) return bend(at)
  const others = corners.value.filter((_, i) => i !== dragging.value).map((c) => ({ x: c.radius, y: c.height }))
  const reach = event.altKey ? 0 : SNAP_PX / board.scale.value
  const found = snapPoint(at, others, reach, event.shiftKey ? 0.1 : 0.5)
  guides.value = { x: found.atX, y: found.atY }
  move(dragging.value, found.x, found.y)
}
/** A dragged middle puts a corner in a straight leg and bends an arc. */
function bend(at: { x: number; y: number }): void {
  const [a, b] = [corners.value[leg.value]!, corners.value[leg.value + 1]!]
  if (a.leave === 'arc') {
    const [dr, dz] = [b.radius - a.radius, b.height - a.height]
    const length = Math.hypot(dr, dz) || 1
    const off = ((at.x - (a.radius + b.radius) / 2) * dz - (at.y - (a.height + b.height) / 2) * dr) / length
    const most = length / 2
    emit('bulge', leg.value, Number(Math.min(Math.max(Math.round(off * 10) / 10, -most), most).toFixed(2)))
    return
  }
  const after = leg.value
  leg.value = -1
  dragging.value = after + 1
  emit('insert', after, Number(Math.max(at.x, 0.5).toFixed(1)), Number(Math.max(at.y, 0).toFixed(1)))
}
function drop(): void {
  dragging.value = leg.value = -1
  zoneDragged.value = ''
  guides.value = { x: null, y: null }
  frozen.value = null
}
function move(index: number, radius: number, height: number): void {
  const z = index === 0 ? 0 : Math.max(height, 0)
  emit('move', index, Number(Math.max(radius, 0.5).toFixed(2)), Number(z.toFixed(2)))
}
function press(index: number, event: KeyboardEvent): void {
  if (props.locked) return
  const by = event.shiftKey ? 5 : event.altKey ? 0.1 : 0.5
  const steps: Record<string, [number, number]> = {
    ArrowLeft: [-by, 0],
    ArrowRight: [by, 0],
    ArrowUp: [0, by],
    ArrowDown: [0, -by],
  }
  const step = steps[event.key]
  const corner = corners.value[index]!
  if (step) move(index, corner.radius + step[0], corner.height + step[1])
  else if (event.key === 'Delete' || event.key === 'Backspace') emit('remove', index)
  else if (event.key === 'Insert' || event.key === '+') {
    const next = corners.value[index + 1]
    if (next) emit('insert', index, (corner.radius + next.radius) / 2, (corner.height + next.height) / 2)
  } else return
  event.preventDefault()
}
const words = (corner: Corner, index: number) =>
  `Corner ${index + 1}: ${corner.radius} mm from the axis, ${corner.height} mm up, rounded ${corner.rounding} mm`
</script>

<template>
  <div ref="holder" class="draft">
    <svg
      width="100%"
      height="100%"
      role="group"
      aria-label="Half-profile in millimetres"
      @pointermove="drag"
      @pointerup="drop"
      @pointercancel="drop"
    >
      <Mat :step="board.gridStep.value" :scale="board.scale.value" :origin="board.origin.value" />
      <Tracing v-if="pack.form.tracing" :tracing="pack.form.tracing" :board="board" />
      <g v-for="(zone, index) in zones" :key="zone.name" class="zone" :class="{ even: index % 2 }">
        <rect
          :x="board.x(extent.left + 2)"
          :width="7"
          :y="board.y(zone.top)"
          :height="(zone.top - zone.bottom) * board.scale.value"
        />
        <text
          v-if="(zone.top - zone.bottom) * board.scale.value > 11"
          :x="board.x(extent.left + 2) + 12"
          :y="board.y((zone.top + zone.bottom) / 2) + 4"
        >
          {{ zone.name }}
        </text>
        <g
          v-if="zone.name !== 'finish' && index < zones.length - 1"
          class="edge"
          :data-test="`zone-${zone.name}`"
          @pointerdown="grabZone(zone.name, $event)"
        >
          <rect
            :x="board.x(extent.left + 2) - 4"
            width="15"
            :y="board.y(zone.top) - 5"
            height="10"
            fill="transparent"
            stroke="none"
          />
          <line
            :x1="board.x(extent.left + 2) - 3"
            :x2="board.x(extent.left + 2) + 10"
            :y1="board.y(zone.top)"
            :y2="board.y(zone.top)"
          />
        </g>
      </g>
      <template v-if="shape && body">
        <path v-if="contents" :d="board.line(contents) + 'Z'" class="liquid" :style="{ fill: liquid }" />
        <path v-if="contents" :d="board.line(contents, -1) + 'Z'" class="liquid ghost" :style="{ fill: liquid }" />
        <path :d="board.line(body) + 'Z'" class="glass" />
        <path :d="board.line(body, -1) + 'Z'" class="glass ghost" />
        <path
          v-for="(outline, i) in shape.drawing.closure"
          :key="i"
          :d="board.line(outline.points) + 'Z'"
          class="cap"
        />
        <path v-for="sheet in shape.sheets" :key="sheet.name" :d="board.line(sheet.wall)" class="sheet" />
      </template>
      <line :x1="board.x(0)" :x2="board.x(0)" y1="0" y2="100%" class="axis" />
      <line x1="0" x2="100%" :y1="board.y(0)" :y2="board.y(0)" class="table" />
      <path :d="board.line([[0, 0], ...corners.map((c) => [c.radius, c.height])])" class="raw" />
      <line v-if="guides.x !== null" :x1="board.x(guides.x)" :x2="board.x(guides.x)" y1="0" y2="100%" class="guide" />
      <line v-if="guides.y !== null" x1="0" x2="100%" :y1="board.y(guides.y)" :y2="board.y(guides.y)" class="guide" />
      <g v-for="one in heights" :key="one.words" class="height" :class="one.kind">
        <line :x1="board.x(margin) - 8" :x2="board.x(margin) + 6" :y1="board.y(one.z)" :y2="board.y(one.z)" />
        <text :x="board.x(margin) + 10" :y="board.y(one.z) + 4">{{ one.words }}</text>
      </g>
      <line
        v-if="shape"
        :x1="board.x(margin)"
        :x2="board.x(margin)"
        :y1="board.y(0)"
        :y2="board.y(shape.facts.rim_height)"
        class="ladder"
      />
      <text v-if="shape" :x="board.x(0)" :y="board.y(0) + 18" class="size" text-anchor="middle">
        ⌀ {{ showNumber(shape.facts.diameter)
        }}{{ shape.facts.diameter - shape.facts.depth > 0.1 ? ` × ${showNumber(shape.facts.depth)} deep` : '' }}
      </text>
      <g v-if="chosen" class="measure">
        <line :x1="board.x(0)" :x2="board.x(chosen.radius)" :y1="board.y(chosen.height)" :y2="board.y(chosen.height)" />
        <text :x="board.x(chosen.radius / 2)" :y="board.y(chosen.height) - 5" text-anchor="middle">
          {{ showNumber(chosen.radius) }}
        </text>
      </g>
      <GrainArrow v-if="grainAt" :at="grainAt" :right="[1, 0]" :up="[0, -1]" />
      <g
        v-for="one in legs"
        v-show="one.long && !locked"
        :key="`leg-${one.index}`"
        class="middle"
        :data-test="`leg-${one.index}`"
        @pointerdown="grabLeg(one.index, $event)"
      >
        <circle :cx="board.x(one.x)" :cy="board.y(one.y)" r="9" class="reach" />
        <circle :cx="board.x(one.x)" :cy="board.y(one.y)" r="3.5" />
        <title>{{ corners[one.index]!.leave === 'arc' ? 'Drag to bend the arc' : 'Drag to put a corner here' }}</title>
      </g>
      <g
        v-for="(corner, index) in corners"
        :key="index"
        class="corner"
        :class="{ chosen: index === selected, bad: bad(index), locked }"
        tabindex="0"
        role="button"
        :aria-label="words(corner, index)"
        :data-test="`corner-${index}`"
        @pointerdown="grab(index, $event)"
        @focus="emit('select', index)"
        @keydown="press(index, $event)"
      >
        <circle :cx="board.x(corner.radius)" :cy="board.y(corner.height)" r="11" fill="transparent" />
        <rect :x="board.x(corner.radius) - 4.5" :y="board.y(corner.height) - 4.5" width="9" height="9" />
      </g>
      <template v-if="chosen">
        <text
          v-if="dragging === selected"
          :x="board.x(chosen.radius) + 12"
          :y="board.y(chosen.height) - 8"
          class="size now"
        >
          {{ showNumber(chosen.radius) }} , {{ showNumber(chosen.height) }}
        </text>
        <text
          v-else-if="limit && selected < corners.length - 1"
          :x="board.x(chosen.radius) - 10"
          :y="board.y(chosen.height) + 16"
          text-anchor="end"
          class="size limit"
        >
          r {{ showNumber(chosen.rounding) }} of {{ showNumber(limit) }}
        </text>
      </template>
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
.glass {
  fill: #9fb8b2;
  fill-opacity: 0.75;
  stroke: #3d5750;
  stroke-width: 1;
}
.liquid {
  fill-opacity: 0.62;
}
.cap {
  fill: #8d867b;
  fill-opacity: 0.55;
  stroke: #4a453d;
}
.sheet {
  fill: none;
  stroke: var(--ribbon);
  stroke-width: 2.5;
}
.ghost {
  opacity: 0.42;
}
.raw {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1;
  stroke-dasharray: 2 3;
  opacity: 0.55;
  pointer-events: none;
}
.axis {
  stroke: var(--ink);
  stroke-dasharray: 14 4 2 4;
  opacity: 0.6;
}
.table {
  stroke: var(--ink);
  opacity: 0.5;
}
.guide {
  stroke: var(--ribbon);
  stroke-dasharray: 5 4;
  pointer-events: none;
}
.size,
.height text,
.measure text {
  font: 11.5px var(--mono);
  fill: var(--ink);
}
.ladder,
.height line {
  stroke: #5c5a54;
  stroke-width: 1;
}
.height.fill text {
  fill: #7a4d09;
}
.height.chosen text {
  fill: #97213a;
  font-weight: 600;
}
.measure line {
  stroke: #97213a;
  stroke-width: 1;
  stroke-dasharray: 3 3;
  pointer-events: none;
}
.measure text {
  fill: #97213a;
  pointer-events: none;
}
.zone rect {
  fill: #c2a173;
  opacity: 0.55;
}
.zone.even rect {
  fill: #8d867b;
}
.zone text {
  font: 11px var(--text, 'Instrument Sans');
  fill: #4d4b46;
}
.edge {
  cursor: ns-resize;
}
.edge line {
  stroke: var(--ink);
  stroke-width: 2;
}
.middle {
  cursor: copy;
}
.middle circle {
  fill: var(--card);
  stroke: #5c5a54;
  stroke-width: 1.2;
}
.middle .reach {
  fill: transparent;
  stroke: none;
}
.middle:hover circle:nth-child(2) {
  fill: var(--ribbon);
}
.corner {
  cursor: move;
  outline: none;
}
.corner.locked {
  cursor: not-allowed;
}
.corner rect {
  fill: var(--card);
  stroke: var(--ink);
  stroke-width: 1.6;
}
.corner:focus-visible rect {
  stroke-width: 3;
}
.corner.chosen rect {
  fill: var(--ribbon);
  stroke: var(--ribbon);
}
.corner.bad rect {
  fill: #97213a;
  stroke: #97213a;
}
.now,
.limit {
  pointer-events: none;
  paint-order: stroke;
  stroke: var(--card);
  stroke-width: 3px;
}
</style>
