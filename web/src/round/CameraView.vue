<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import * as THREE from 'three'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'

import type { DrawnShape, PhotoSet, Plan, View } from '@/api/client'
import { over, type Share } from '@/composables/proofSize'
import { LineUpInTheRound } from './lineUpInTheRound'
import { usePictureHands, within } from './pictureHands'
import { TableTop } from './tableTop'

export interface Compared {
  name: string
  proof: string | null
  /** What of the picture its proof shows, if not all. */
  part: Share | null
  /** What stands as it is drawn there, where it is another than that which is open. */
  drawn: { shapes: Record<string, DrawnShape>; pictures: Record<string, THREE.Texture[]> } | null
}

const props = defineProps<{
  stands: Plan['stands']
  /** Shapes and prints of packs, by their keys. */
  shapes: Record<string, DrawnShape>
  pictures: Record<string, THREE.Texture[]>
  set: PhotoSet
  plan: Plan | null
  /** Where it is seen from. */
  view: View | null
  aspect: number
  proof: string | null
  /** What of the picture the proof shows, if not all, and a whole proof that lies beneath it. */
  part: Share | null
  beneath: string | null
  /** A small picture of just this, shown until the proof comes; nothing is drawn in 3D for as long. */
  kept: string | null
  /** Whether to draw in 3D yet: until then the first proof has the machine to itself. */
  awake: boolean
  /** What is compared with it, seen on the left: its packs, and its proof once it has come. */
  beside?: Compared | null
  /** What it is called that is seen on the right then. */
  name?: string
  chosen: string[]
  /** Whether the hand says where a highlight goes. */
  pointing: boolean
}>()
const emit = defineEmits<{
  orbit: [turn: number, rise: number]
  /** By shares of the picture, to the right and down. */
  pan: [right: number, down: number]
  /** A place of the picture, 0..1 from its left and its top. */
  point: [at: { x: number; y: number }]
  nearer: [factor: number]
  choose: [ids: string[]]
  /** Something has been dragged by mm over the floor since it was taken hold of. */
  move: [id: string, dx: number, dy: number, done: boolean]
  /** Something out of a tray, by what it says of itself. */
  dropped: [what: string, x: number, y: number]
}>()

const holder = ref<HTMLElement>()
const canvas = ref<HTMLCanvasElement>()
const { width, height } = useElementSize(holder)
const MARGIN = 24
const frame = computed(() => {
  const [w, h] = [Math.max(width.value - MARGIN, 50), Math.max(height.value - MARGIN, 50)]
  return w / h > props.aspect ? { width: h * props.aspect, height: h } : { width: w, height: w / props.aspect }
})
const ready = ref(false)
const wipe = ref(50)
let tableTop: TableTop | null = null
let drawn: LineUpInTheRound | null = null
let drawnBeside: LineUpInTheRound | null = null

/** Drawing takes the machine from a proof: what is seen as a picture is drawn once the hand comes near. */
let behind = false
function drawAll(): void {
  behind = false
  layOut()
  rebuild()
  fit()
  stand()
}
function changed(draw: () => void): void {
  behind = Boolean(props.kept)
  if (!behind) draw()
}
function catchUp(): void {
  if (behind) drawAll()
}
function rebuild(): void {
  drawn?.show(props.stands, props.shapes, props.pictures)
  tableTop?.redraw()
  rebuildBeside()
}
function rebuildBeside(): void {
  if (!tableTop || !drawn) return
  if (props.beside?.drawn) {
    if (!drawnBeside) tableTop.scene.add((drawnBeside = new LineUpInTheRound()).group)
    drawnBeside.show(props.stands, props.beside.drawn.shapes, props.beside.drawn.pictures)
    tableTop.split({ left: drawnBeside.group, right: drawn.group, at: wipe.value / 100 })
  } else if (drawnBeside) {
    tableTop.scene.remove(drawnBeside.group)
    drawnBeside.dispose()
    drawnBeside = null
    tableTop.split(null)
  }
}
function stand(): void {
  if (!props.view || !tableTop) return
  tableTop.standAt(props.view)
  drawn?.seenFrom(tableTop.camera.position)
  drawnBeside?.seenFrom(tableTop.camera.position)
}
function layOut(): void {
  if (props.plan) tableTop?.layOut(props.set, props.plan.sweep)
}
function fit(): void {
  tableTop?.resize(frame.value.width, frame.value.height)
}

function wake(): void {
  if (tableTop || !props.awake) return
  try {
    tableTop = new TableTop(canvas.value!)
  } catch {
    return // without 3D in the browser the rendered proof alone is shown
  }
  drawn = new LineUpInTheRound()
  tableTop.scene.add(drawn.group)
  ready.value = true
  drawAll()
}
onMounted(wake)
watch(
  () => props.awake,
  () => setTimeout(wake),
)
onBeforeUnmount(() => {
  drawn?.dispose()
  drawnBeside?.dispose()
  tableTop?.dispose()
})
watch(
  () => [props.stands, props.shapes, props.pictures],
  () => changed(rebuild),
)
watch(
  () => props.kept,
  (kept, before) => (kept ? changed(drawAll) : before && drawAll()),
)
watch([() => props.beside, wipe], rebuildBeside)
watch(
  () => props.view,
  () => changed(stand),
)
watch(frame, fit)
watch(
  () => [props.set, props.plan],
  () => changed(layOut),
)

/** What was taken out of a tray, dropped where the pointer is on the floor. */
function drop(event: DragEvent): void {
  catchUp()
  const said = event.dataTransfer?.getData('text/plain') ?? ''
  const at = tableTop?.onFloor(within(event))
  if (said && at) emit('dropped', said, Math.round(at.x), Math.round(at.y))
}
const hands = usePictureHands({
  pointing: () => props.pointing,
  met: (at) => {
    const ray = tableTop?.ray(at)
    const id = ray && drawn?.hit(ray)
    return id ? { id, carried: props.chosen.includes(id) } : null
  },
  onFloor: (at) => tableTop?.onFloor(at) ?? null,
  point: (at) => emit('point', at),
  choose: (id, too) => emit('choose', too ? [...props.chosen, id] : [id]),
  carry: (id, dx, dy, done) => emit('move', id, dx, dy, done),
  orbit: (turn, rise) => emit('orbit', turn, rise),
  pan: (right, down) => emit('pan', right, down),
  nearer: (factor) => emit('nearer', factor),
})
function down(event: PointerEvent): void {
  catchUp()
  hands.down(event)
}
</script>

<template>
  <div ref="holder" class="camera-view">
    <div
      class="frame"
      :class="{ pointing }"
      :style="{ width: `${frame.width}px`, height: `${frame.height}px` }"
      tabindex="0"
      role="img"
      :data-seen="view?.position.join()"
      aria-label="What the camera sees; arrow keys walk around, with Shift they move it, + and − step closer and back"
      @pointerenter="catchUp"
      @pointerdown="down"
      @pointermove="hands.drag"
      @pointerup="hands.up"
      @pointercancel="hands.up"
      @contextmenu.prevent
      @wheel.prevent="hands.wheel"
      @dragover.prevent
      @drop.prevent="drop"
      @keydown="hands.key"
    >
      <canvas ref="canvas" />
      <img v-if="kept" :src="kept" alt="Its last picture, small" draggable="false" data-test="kept" />
      <p v-if="!proof && !kept && !ready" class="coming" role="status">The first proof is on its way …</p>
      <img v-if="beneath" :src="beneath" alt="The whole proof from before" draggable="false" data-test="beneath" />
      <Transition name="fade">
        <img v-if="proof" :src="proof" :style="over(part)" alt="Rendered proof" draggable="false" data-test="proof" />
      </Transition>
      <slot />
      <template v-if="beside">
        <div v-if="beside.proof" class="half" :style="{ clipPath: `inset(0 ${100 - wipe}% 0 0)` }">
          <img
            :src="beside.proof"
            :style="over(beside.part)"
            :alt="`Rendered proof: ${beside.name}`"
            draggable="false"
            data-test="compared"
          />
        </div>
        <span class="cut" :style="{ left: `${wipe}%` }" />
        <span class="side left">{{ beside.name }}</span>
        <span class="side right">{{ name }}</span>
        <input
          v-model.number="wipe"
          class="wipe"
          type="range"
          min="0"
          max="100"
          aria-label="How much is seen of each"
          @pointerdown.stop
          @pointermove.stop
          @keydown.stop
        />
      </template>
    </div>
  </div>
</template>

<style scoped>
.camera-view {
  position: relative;
  min-height: 0;
  overflow: hidden;
  display: grid;
  place-items: center;
}
.frame {
  position: relative;
  cursor: grab;
  touch-action: none;
  overflow: hidden;
}
.frame:active {
  cursor: grabbing;
}
.frame.pointing {
  cursor: crosshair;
}
canvas {
  position: absolute;
  inset: 0;
  width: 100% !important;
  height: 100% !important;
  display: block;
}
img {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  user-select: none;
}
.half {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.wipe {
  position: absolute;
  left: 0;
  bottom: 6px;
  width: 100%;
  margin: 0;
  accent-color: var(--ribbon);
}
.cut {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 1px;
  background: var(--card);
  pointer-events: none;
}
.left {
  left: 10px;
}
.right {
  right: 10px;
}
.side {
  position: absolute;
  top: 10px;
  padding: 1px 8px;
  background: var(--card);
  font-size: 12.5px;
}
.coming {
  position: absolute;
  left: 12px;
  bottom: 12px;
  margin: 0;
  padding: 2px 10px;
  background: var(--card);
}
.fade-enter-active {
  transition: opacity 0.25s;
}
.fade-enter-from {
  opacity: 0;
}
</style>
