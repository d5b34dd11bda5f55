<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Camera, PhotoSet, Plan } from '@/api/client'
import { snap, useBoard } from '@/composables/board'
import { showNumber } from '@/composables/quantity'
import { drawnAt, type Place } from '@/set/lights'
import LightMark from './LightMark.vue'
import Mat from './Mat.vue'

const props = defineProps<{
  set: PhotoSet
  camera: Camera
  plan: Plan
  viewAngle: number
  selected: number
  chosen: string[]
  names: Record<string, string>
  /** Whether what stands is shown rather than the whole set. */
  close: boolean
  /** What moves along with something. */
  together: (ids: string[]) => string[]
}>()
const emit = defineEmits<{
  select: [index: number]
  choose: [ids: string[]]
  /** What has moved by mm since it was grabbed. */
  move: [ids: string[], dx: number, dy: number, done: boolean]
  /** Something out of a tray, by what it says of itself. */
  dropped: [what: string, x: number, y: number]
  hang: [index: number, centre: Place]
  aim: [index: number, target: Place]
  moveCamera: [azimuth: number, distance: number]
}>()

const CAMERA = -1
/** Of what is chosen, not to lie over each other. */
const MOST_NAMES = 4
const holder = ref<HTMLElement>()
const grip = ref<{
  what: 'light' | 'aim' | 'camera'
  index: number
  from: { x: number; y: number }
  place: Place
} | null>(null)
const frozen = ref<{ left: number; right: number; bottom: number; top: number } | null>(null)

const RAD = Math.PI / 180
const places = computed(() =>
  props.plan.lights.flatMap((hung, index) => {
    const light = props.set.lights[index]
    return light ? [drawnAt(light, hung, props.plan)] : []
  }),
)
const eye = computed(() => ({ x: props.plan.camera[0], y: props.plan.camera[1] }))
/** Where the sweep leaves the floor. */
const crease = computed(() => Math.max(...props.plan.sweep.filter(([, z]) => z < 1).map(([y]) => y)))
const around = computed(() => {
  const [x, y] = props.plan.middle
  const reach = Math.max(props.plan.reach * 0.75, 60)
  return { left: x - reach, right: x + reach, bottom: y - reach, top: y + reach }
})
const extent = computed(() => {
  if (props.close) return around.value
  const away = places.value.map(([x, y]) => Math.hypot(x - props.plan.middle[0], y - props.plan.middle[1]))
  const reach = Math.max(...away, props.camera.distance, 500) * 1.12
  return { left: -reach, right: reach, bottom: -reach, top: Math.min(props.set.sweep.back * 1.1, reach) }
})
/** What is sharp, where not everything is. */
const sharp = computed(() => {
  const corners = props.plan.sharp?.above
  return corners && `${board.line(corners.map((p) => [p[0]!, p[1]!]))}Z`
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

interface Hold {
  ids: string[]
  from: { x: number; y: number }
  dx: number
  dy: number
}
const held = ref<Hold | null>(null)
/** What stands, with what is in the hand where the hand is. */
const stands = computed(() =>
  props.plan.stands.map((one) => {
    const its = waiting.value?.ids.includes(one.id) ? waiting.value : null
    const [dx, dy] = its ? [its.dx - its.came[0], its.dy - its.came[1]] : [0, 0]
    const points = one.footprint.map(([x, y]) => [x + dx, y + dy])
    const middle = [
      (Math.min(...points.map((p) => p[0]!)) + Math.max(...points.map((p) => p[0]!))) / 2,
      Math.min(...points.map((p) => p[1]!)),
    ]
    return { ...one, points, middle, name: props.names[one.id] ?? one.id }
  }),
)
/** A move on its way: by how much the plan that has come from the core has it already. */
const waiting = ref<(Hold & { came: [number, number] }) | null>(null)
const starts = new Map<string, [number, number]>()
watch(
  () => props.plan,
  (plan) => {
    if (!waiting.value) return
    const id = waiting.value.ids[0]!
    const now = plan.stands.find((one) => one.id === id)
    const from = starts.get(id)
    if (now && from) waiting.value = { ...waiting.value, came: [now.pose[3]! - from[0], now.pose[7]! - from[1]] }
    if (
      !held.value &&
      Math.hypot(waiting.value.dx - waiting.value.came[0], waiting.value.dy - waiting.value.came[1]) < 0.2
    )
      waiting.value = null
  },
)

function grabThing(id: string, event: PointerEvent): void {
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  const more = event.shiftKey || event.ctrlKey || event.metaKey
  const ids = more ? [...new Set([...props.chosen, id])] : props.chosen.includes(id) ? props.chosen : [id]
  emit('choose', ids)
  const moving = props.together(ids)
  starts.clear()
  for (const one of props.plan.stands) starts.set(one.id, [one.pose[3]!, one.pose[7]!])
  held.value = { ids: moving, from: board.toMm(event), dx: 0, dy: 0 }
  frozen.value = extent.value
}
function nudgeThing(id: string, dx: number, dy: number, event: KeyboardEvent): void {
  const by = event.shiftKey ? 10 : 1
  emit('move', props.together(props.chosen.includes(id) ? props.chosen : [id]), dx * by, dy * by, true)
}
function drop(event: DragEvent): void {
  const said = event.dataTransfer?.getData('text/plain') ?? ''
  const at = board.toMm(event)
  if (said) emit('dropped', said, snap(at.x, 1), snap(at.y, 1))
}

function grab(what: 'light' | 'aim' | 'camera', index: number, event: PointerEvent): void {
  ;(event.target as Element).setPointerCapture(event.pointerId)
  const hung = props.plan.lights[index]
  const place =
    what === 'camera'
      ? props.plan.camera
      : what === 'aim'
        ? hung!.target
        : drawnAt(props.set.lights[index]!, hung!, props.plan)
  grip.value = { what, index, from: board.toMm(event), place: place as Place }
  frozen.value = extent.value
  emit('select', index)
}
function drag(event: PointerEvent): void {
  if (held.value) {
    const at = board.toMm(event)
    const step = event.altKey ? 0.1 : 1
    const [dx, dy] = [snap(at.x - held.value.from.x, step), snap(at.y - held.value.from.y, step)]
    if (dx === held.value.dx && dy === held.value.dy) return
    held.value = { ...held.value, dx, dy }
    waiting.value = { ...held.value, came: waiting.value?.came ?? [0, 0] }
    emit('move', held.value.ids, dx, dy, false)
    return
  }
  if (grip.value === null) return
  const at = board.toMm(event)
  const { what, index, from, place } = grip.value
  const there: Place = [place[0] + at.x - from.x, place[1] + at.y - from.y, place[2]]
  if (what === 'light') emit('hang', index, there)
  else if (what === 'aim') emit('aim', index, there)
  else placeCamera(at.x, at.y)
}
function placeCamera(x: number, y: number): void {
  const [across, back] = [x - props.plan.target[0], y - props.plan.target[1]]
  emit('moveCamera', snap(Math.atan2(across, -back) / RAD, 1), Math.max(snap(Math.hypot(across, back), 5), 60))
}
function nudgeLight(index: number, across: number, up: number): void {
  const [x, y, z] = drawnAt(props.set.lights[index]!, props.plan.lights[index]!, props.plan)
  emit('hang', index, [x + across, y + up, z])
}
function nudgeCamera(turn: number, away: number, event: KeyboardEvent): void {
  const by = event.shiftKey ? 10 : 1
  emit('moveCamera', props.camera.azimuth + turn * by, Math.max(props.camera.distance + away * by * 10, 60))
}
function release(): void {
  if (held.value && (held.value.dx || held.value.dy)) emit('move', held.value.ids, held.value.dx, held.value.dy, true)
  held.value = null
  grip.value = null
  frozen.value = null
}
</script>

<template>
  <div ref="holder" class="plan" @dragover.prevent @drop.prevent="drop">
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
      <path v-if="sharp" class="sharp" :d="sharp">
        <title>What is sharp</title>
      </path>
      <g
        v-for="one in stands"
        :key="one.id"
        class="pack"
        :class="{
          chosen: chosen.includes(one.id),
          crossing: one.crosses.length > 0,
          prop: one.key.startsWith('prop:'),
        }"
        tabindex="0"
        role="button"
        :aria-label="`${one.name}: ${showNumber(one.pose[3]!, 0)} mm across, ${showNumber(one.pose[7]!, 0)} mm back`"
        :aria-pressed="chosen.includes(one.id)"
        :data-test="`stands-${one.id}`"
        @pointerdown="grabThing(one.id, $event)"
        @keydown.enter.prevent="emit('choose', [one.id])"
        @keydown.left.prevent="nudgeThing(one.id, -1, 0, $event)"
        @keydown.right.prevent="nudgeThing(one.id, 1, 0, $event)"
        @keydown.up.prevent="nudgeThing(one.id, 0, 1, $event)"
        @keydown.down.prevent="nudgeThing(one.id, 0, -1, $event)"
      >
        <path :d="`${board.line(one.points)}Z`" />
        <text
          v-if="chosen.includes(one.id) && chosen.length <= MOST_NAMES"
          :x="board.x(one.middle[0]!)"
          :y="board.y(one.middle[1]!) + 13"
          text-anchor="middle"
        >
          {{ held && (held.dx || held.dy) ? `${showNumber(held.dx, 1)}, ${showNumber(held.dy, 1)} mm` : one.name }}
        </text>
      </g>
      <template v-for="(light, index) in set.lights" :key="index">
        <LightMark
          v-if="plan.lights[index]"
          :light="light"
          :hung="plan.lights[index]!"
          :plan="plan"
          :board="board"
          :axes="[0, 1]"
          :chosen="index === selected"
          :index="index"
          @grab="(what, event) => grab(what, index, event)"
          @select="emit('select', index)"
          @nudge="(across, up) => nudgeLight(index, across, up)"
        />
      </template>
      <g
        class="camera"
        :class="{ chosen: selected === CAMERA }"
        tabindex="0"
        role="button"
        data-test="plan-camera"
        :aria-label="`${showNumber(camera.lens_mm)} mm lens: camera ${showNumber(camera.distance, 0)} mm away`"
        @pointerdown="grab('camera', CAMERA, $event)"
        @focus="emit('select', CAMERA)"
        @keydown.left.prevent="nudgeCamera(-1, 0, $event)"
        @keydown.right.prevent="nudgeCamera(1, 0, $event)"
        @keydown.up.prevent="nudgeCamera(0, -1, $event)"
        @keydown.down.prevent="nudgeCamera(0, 1, $event)"
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
.sharp {
  fill: #3c7a5730;
  stroke: var(--fine);
}
.pack {
  cursor: move;
  outline: none;
}
.pack path {
  fill: var(--ink);
  stroke: var(--ink);
}
.pack.prop path {
  fill: #c2a17366;
  stroke: #7d6442;
}
.pack.crossing path {
  fill: var(--caution);
  stroke-dasharray: 3 2;
}
.pack.chosen path,
.pack:focus-visible path {
  stroke: var(--ribbon);
  stroke-width: 3;
}
.camera {
  cursor: move;
  outline: none;
}
.camera rect,
.camera path {
  fill: var(--ink);
  stroke: var(--ink);
}
.camera.chosen rect,
.camera.chosen path,
.camera:focus-visible rect {
  fill: var(--ribbon);
  stroke: var(--ribbon);
}
</style>
