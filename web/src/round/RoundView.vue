<script lang="ts">
/** How the pack is seen, mm and degrees, the front being 0°; the aspect is of the view. */
export interface Rest {
  turn: number
  azimuth: number
  distance: number
  height: number
  aim_height: number
  vertical_angle: number
  aspect: number
}
</script>

<script setup lang="ts">
import { useDebounceFn, useResizeObserver } from '@vueuse/core'
import * as THREE from 'three'
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

import type { AnyShape } from '@/api/client'
import GrainArrow from '@/components/GrainArrow.vue'
import { grainInHand } from '@/composables/grain'
import type { Offer } from '@/composables/materialInHand'
import { seenGrain, type SeenGrain } from './grainSeen'
import { type Mark, seenMarks, type SeenMark } from './marks'
import { type Lit, type Met, PackInTheRound } from './packInTheRound'
import { TableTop } from './tableTop'

/** `proof` is the address of the pack in real light, seen as it rests. */
const props = defineProps<{
  shape: AnyShape
  pictures: THREE.Texture[]
  turning?: boolean
  label: string
  proof?: string | null
  /** Whether a place on the pack is being picked: by a click, or by a loop drawn around it. */
  picking?: boolean
  lasso?: boolean
  lit?: Lit | null
  marks?: Mark[]
  /** The panel whose print is met through what is laid over it. */
  preferred?: number
  /** Whether a press there takes hold of what lies there, instead of turning the pack. */
  holds?: (met: Met) => boolean
}>()
const emit = defineEmits<{
  held: []
  rest: [view: Rest | null]
  pick: [part: string, at: [number, number, number], on: [number, number] | null]
  /** A loop that was drawn on a part, mm. */
  loop: [part: string, places: [number, number, number][]]
  /** What lies under the hand, and what is held and carried: `free` of what it might be drawn to. */
  over: [met: Met | null]
  grab: [met: Met]
  carry: [met: Met | null, free: boolean]
  letGo: [met: Met | null]
  /** A material is held over a part, or let go there. */
  offer: [part: string, offer: Offer, taken: boolean, on: [number, number] | null]
}>()

/** px that a hand may slip while it clicks. */
const SLIP_PX = 4
/** Places of a hand's way that make a loop. */
const LEAST_LOOP = 5
/** That an outline has at least. */
const CORNERS = 3

const LATE_MS = 90
const LATE_FRAMES = 4

const holder = ref<HTMLElement>()
const canvas = ref<HTMLCanvasElement>()
const broken = ref('')
let tableTop: TableTop | null = null
let drawn: PackInTheRound | null = null
let controls: OrbitControls | null = null
let turn: number | undefined
let waiting = false
let rebuilding = false
let late = 0
let framed = { middle: 0, reach: 1 }

/** The drawing under the hand comes first: the pack is drawn once that is on the screen. */
function rebuildSoon(): void {
  if (rebuilding) return
  rebuilding = true
  requestAnimationFrame(() =>
    setTimeout(() => {
      rebuilding = false
      rebuild()
    }),
  )
}

function rebuild(): void {
  if (!tableTop || !drawn) return
  drawn.show(props.shape, props.pictures)
  drawn.light(props.lit ?? null)
  const { middle, reach } = extent()
  const grown = Math.abs(Math.log(reach / framed.reach)) > 0.12 || Math.abs(middle - framed.middle) > 0.15 * reach
  if (controls && grown) {
    frame()
    tellRestSoon()
  }
  tableTop.draw()
  mark()
}

/** Say how it is seen, or that it moves. */
function tellRest(moving = false): void {
  if (!tableTop || !controls || !drawn) return
  if (moving || props.turning) return emit('rest', null)
  const { position, fov, aspect } = tableTop.camera
  const { target } = controls
  const round = (v: number) => Math.round(v * 100) / 100
  const degrees = (v: number) => round((v * 180) / Math.PI)
  emit('rest', {
    turn: degrees(Math.atan2(Math.sin(drawn.group.rotation.y), Math.cos(drawn.group.rotation.y))),
    azimuth: degrees(Math.atan2(position.x, position.z)),
    distance: round(Math.min(Math.max(Math.hypot(position.x, position.z), 0.1), 5000)),
    height: round(position.y),
    aim_height: round(target.y),
    vertical_angle: fov,
    aspect: round(aspect),
  })
}

/** The middle and the reach of everything that stands there. */
function extent(): { middle: number; reach: number } {
  const box = new THREE.Box3().setFromObject(drawn!.group)
  const across = 2 * Math.max(Math.abs(box.min.x), box.max.x, Math.abs(box.min.z), box.max.z)
  return {
    middle: (box.min.y + box.max.y) / 2,
    reach: Math.max(box.max.y - box.min.y, (across * 1.1) / Math.min(tableTop?.camera.aspect ?? 1, 1.2)),
  }
}

function frame(): void {
  if (!tableTop || !controls || !drawn) return
  const { middle, reach } = (framed = extent())
  controls.target.set(0, middle, 0)
  // a box seen straight on shows one of its faces
  const [turn, up] = props.shape.kind === 'carton' ? [0.5, 0.85] : [0, 0.22]
  const far = reach * 3.1
  tableTop.camera.position.set(far * Math.sin(turn), middle + reach * up, far * Math.cos(turn))
  controls.update()
}

/** A step of the turn. On a machine that cannot keep up the pack is left standing. */
function spin(): void {
  if (!props.turning || !drawn || !tableTop || waiting) return
  drawn.group.rotation.y += 0.012
  tableTop.redraw()
  waiting = true
  const asked = performance.now()
  requestAnimationFrame(() =>
    requestAnimationFrame(() => {
      waiting = false
      late = performance.now() - asked > LATE_MS ? late + 1 : 0
      if (late > LATE_FRAMES) emit('held')
    }),
  )
}

let pressed = { x: 0, y: 0 }
/** What lies under the hand. */
function under(event: { clientX: number; clientY: number }): Met | null {
  if (!tableTop || !drawn) return null
  const frame = canvas.value!.getBoundingClientRect()
  const at = new THREE.Vector2(
    ((event.clientX - frame.left) / frame.width) * 2 - 1,
    1 - ((event.clientY - frame.top) / frame.height) * 2,
  )
  const ray = new THREE.Raycaster()
  drawn.group.updateMatrixWorld()
  ray.setFromCamera(at, tableTop.camera)
  return drawn.met(ray, props.preferred ?? null)
}
function offered(event: Event, taken: boolean): void {
  const { detail } = event as CustomEvent<Offer>
  const met = under({ clientX: detail.x, clientY: detail.y })
  if (met) emit('offer', met.part, detail, taken, met.on)
}
/** A loop as it is drawn: px for the eye, and where it lies on the pack. */
const trail = ref<[number, number][]>([])
let looped: Met[] = []
let holding = false
function press(event: PointerEvent): void {
  pressed = { x: event.clientX, y: event.clientY }
  const met = props.holds && !props.lasso ? under(event) : null
  if (met && props.holds!(met)) {
    holding = true
    canvas.value!.setPointerCapture(event.pointerId)
    emit('held')
    emit('grab', met)
  }
  if (controls) controls.enabled = !holding && !props.lasso
  if (!props.lasso) return
  canvas.value!.setPointerCapture(event.pointerId)
  ;[trail.value, looped] = [[], []]
  draw(event)
}
let asked: PointerEvent | null = null
/** Say what lies under the hand, once a frame at the most. */
function look(event: PointerEvent): void {
  const waits = asked !== null
  asked = event
  if (waits) return
  requestAnimationFrame(() => {
    if (!asked) return
    const met = under(asked)
    if (holding) emit('carry', met, asked.shiftKey)
    else if (!asked.buttons) emit('over', met)
    asked = null
  })
}
function leave(): void {
  asked = null
  emit('over', null)
}
function draw(event: PointerEvent): void {
  if (props.holds) look(event)
  if (!props.lasso || !event.buttons) return
  const frame = canvas.value!.getBoundingClientRect()
  const between = event.getCoalescedEvents() // where the hand was since the last picture of the page
  for (const one of between.length ? between : [event]) {
    trail.value.push([one.clientX - frame.left, one.clientY - frame.top])
    const met = under(one)
    if (met) looped.push(met)
  }
}
/** The part that most of a loop lies on, and its places there. */
function mostlyOn(loop: Met[]): [string, [number, number, number][]] {
  const parts = new Map<string, [number, number, number][]>()
  for (const one of loop) parts.set(one.part, [...(parts.get(one.part) ?? []), one.at])
  return [...parts].sort((a, b) => b[1].length - a[1].length)[0] ?? ['', []]
}
/** A click that did not turn the pack says what lies under it; a loop, what it was drawn on. */
function release(event: PointerEvent): void {
  const moved = Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y)
  if (holding) {
    holding = false
    asked = null
    const met = under(event)
    emit('carry', met, event.shiftKey)
    emit('letGo', met)
    if (controls) controls.enabled = true
    return
  }
  if (props.lasso && trail.value.length > LEAST_LOOP) {
    const [part, places] = mostlyOn(looped)
    if (places.length >= CORNERS) emit('loop', part, places)
  } else if (moved <= SLIP_PX) {
    const met = under(event)
    if (met) emit('pick', met.part, met.at, met.on)
  }
  trail.value = []
}

/** Marks as they are seen. */
const shownMarks = ref<SeenMark[]>([])
const grain = ref<SeenGrain | null>(null)
function mark(): void {
  if (!tableTop || !drawn) return
  shownMarks.value = seenMarks(props.marks ?? [], drawn, tableTop.camera, canvas.value!)
  const { held } = grainInHand
  grain.value = held && seenGrain(held.place, held.grain.lies, drawn, tableTop.camera, canvas.value!)
}
watch(() => props.marks, mark)
watch(() => grainInHand.held, mark)

onMounted(() => {
  try {
    tableTop = new TableTop(canvas.value!)
  } catch (error) {
    broken.value = `This browser does not draw in 3D here (${String(error)}). Everything else works.`
    return
  }
  drawn = new PackInTheRound()
  tableTop.scene.add(drawn.group)
  controls = new OrbitControls(tableTop.camera, canvas.value!)
  controls.enablePan = false
  controls.addEventListener('change', () => {
    tableTop?.redraw()
    mark()
    tellRest(true)
  })
  controls.addEventListener('start', () => emit('held'))
  controls.addEventListener('end', () => tellRest())
  canvas.value!.addEventListener('wheel', () => tellRestSoon(), { passive: true })
  rebuild()
  frame()
  turn = window.setInterval(spin, 50)
  tellRest()
})
const tellRestSoon = useDebounceFn(() => tellRest(), 150)
watch(
  () => props.turning,
  () => tellRest(),
)
onBeforeUnmount(() => {
  clearInterval(turn)
  drawn?.dispose()
  controls?.dispose()
  tableTop?.dispose()
  tableTop = null
})
useResizeObserver(holder, ([entry]) => {
  if (!entry) return
  tableTop?.resize(entry.contentRect.width, entry.contentRect.height)
  tellRestSoon()
})
watch(() => [props.shape, props.pictures], rebuildSoon)
watch(
  () => props.lit,
  (lit) => {
    drawn?.light(lit ?? null)
    tableTop?.redraw()
  },
)
watch(
  () => props.lasso,
  (on) => {
    if (controls) controls.enabled = !on
  },
)
</script>

<template>
  <div ref="holder" class="round-view">
    <canvas
      ref="canvas"
      :class="{ picking: picking || lasso }"
      :aria-label="label"
      role="img"
      data-test="round"
      @pointerdown="press"
      @pointermove="draw"
      @pointerup="release"
      @pointercancel="release"
      @pointerleave="leave"
      @material-over="offered($event, false)"
      @material-drop="offered($event, true)"
    />
    <svg v-if="shownMarks.length" class="marks" aria-hidden="true">
      <g v-for="(one, index) in shownMarks" :key="index" :class="{ behind: one.behind }">
        <polyline v-if="one.points.length > 1" :points="one.points.map((at) => at.join()).join(' ')" />
        <circle
          v-for="at in one.points.length > 1 ? [one.points[0]!, one.points.at(-1)!] : one.points"
          :key="at.join()"
          :cx="at[0]"
          :cy="at[1]"
          r="4.5"
        />
      </g>
    </svg>
    <svg v-if="grain && !turning" class="marks"><GrainArrow v-bind="grain" /></svg>
    <svg v-if="trail.length" class="trail" aria-hidden="true">
      <polygon :points="trail.map((at) => at.join()).join(' ')" />
    </svg>
    <Transition name="fade">
      <img v-if="proof && !lit && !lasso" class="proof" :src="proof" alt="" draggable="false" data-test="bench-proof" />
    </Transition>
    <p v-if="broken" class="broken">{{ broken }}</p>
  </div>
</template>

<style scoped>
.round-view {
  position: absolute;
  inset: 0;
}
canvas {
  width: 100%;
  height: 100%;
  display: block;
  cursor: grab;
}
canvas:active {
  cursor: grabbing;
}
canvas.picking {
  cursor: crosshair;
}
.marks {
  position: absolute;
  z-index: 1;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.marks circle {
  fill: #fff9;
  stroke: var(--ribbon);
  stroke-width: 2;
}
.marks polyline {
  fill: none;
  stroke: var(--ribbon);
  stroke-width: 2;
}
.behind {
  opacity: 0.4;
  stroke-dasharray: 3 3;
}
.trail {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.trail polygon {
  fill: #b3324c22;
  stroke: var(--ribbon);
  stroke-width: 2;
}
.proof {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.fade-enter-active {
  transition: opacity 0.25s;
}
.fade-enter-from {
  opacity: 0;
}
.broken {
  position: absolute;
  inset: auto 20px 20px;
  color: #fff;
}
</style>
