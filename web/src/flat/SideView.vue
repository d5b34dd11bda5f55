<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Camera, PhotoSet, Plan } from '@/api/client'
import { useBoard } from '@/composables/board'
import { showNumber } from '@/composables/quantity'
import { drawnAt, type Place } from '@/set/lights'
import LightMark from './LightMark.vue'
import Mat from './Mat.vue'

/** The set from its right side: the front on the left, heights upwards. */
/** Of what is chosen, not to lie over each other. */
const MOST_NAMES = 4
const props = defineProps<{
  set: PhotoSet
  camera: Camera
  plan: Plan
  selected: number
  chosen: string[]
  names: Record<string, string>
  /** Whether what stands is shown rather than the whole set. */
  close: boolean
}>()
const emit = defineEmits<{
  select: [index: number]
  choose: [ids: string[]]
  hang: [index: number, centre: Place]
  aim: [index: number, target: Place]
  cameraHeight: [height: number]
  /** What is lifted by mm since it was grabbed. */
  lift: [ids: string[], dz: number, done: boolean]
}>()

const CAMERA = -1
const [BACK, UP] = [1, 2]
const holder = ref<HTMLElement>()
interface Hold {
  what: 'light' | 'aim' | 'camera' | 'thing'
  index: number
  id: string
  from: { x: number; y: number }
  place: Place
}
const held = ref<Hold | null>(null)
const lifted = ref(0)
const frozen = ref<{ left: number; right: number; bottom: number; top: number } | null>(null)
const extent = computed(() => {
  if (props.close) {
    const [reach, y] = [Math.max(props.plan.reach, 60), props.plan.middle[BACK]!]
    const top = Math.max(...props.plan.stands.flatMap((one) => one.side.map((p) => p[1]!)), 60)
    return { left: y - reach * 0.8, right: y + reach * 0.8, bottom: -0.1 * top, top: top * 1.15 }
  }
  const places = [
    ...props.plan.lights.map((hung, i) => drawnAt(props.set.lights[i] ?? props.set.lights[0]!, hung, props.plan)),
    props.plan.camera as Place,
  ]
  const far = Math.max(...places.map((p) => Math.abs(p[BACK]!)), 300) * 1.08
  const high = Math.max(...places.map((p) => p[UP]!), props.plan.reach, 300) * 1.1
  return {
    left: -far,
    right: Math.min(far, Math.max(props.set.sweep.back * 1.1, 300)),
    bottom: -0.06 * high,
    top: high,
  }
})
/** What is sharp, where not everything is. */
const sharp = computed(() => {
  const corners = props.plan.sharp?.side
  return corners && `${board.line(corners.map((p) => [p[BACK]!, p[UP]!]))}Z`
})
const board = useBoard(holder, () => frozen.value ?? extent.value, 30)
const sweep = computed(() => board.line(props.plan.sweep))
const stands = computed(() =>
  props.plan.stands.map((one) => ({
    ...one,
    name: props.names[one.id] ?? one.id,
    top: one.side.reduce((best, p) => (p[1]! > best[1]! ? p : best), one.side[0]!),
  })),
)
const eye = computed(() => [board.x(props.plan.camera[BACK]!), board.y(props.plan.camera[UP]!)] as const)
const seen = computed(() => [board.x(props.plan.target[BACK]!), board.y(props.plan.target[UP]!)] as const)
const lean = computed(() => (Math.atan2(eye.value[1] - seen.value[1], seen.value[0] - eye.value[0]) * -180) / Math.PI)

function grab(hold: Omit<Hold, 'from'>, event: PointerEvent): void {
  ;(event.currentTarget as Element | null)?.setPointerCapture?.(event.pointerId)
  held.value = { ...hold, from: board.toMm(event) }
  frozen.value = extent.value
  lifted.value = 0
  if (hold.what === 'thing') emit('choose', [hold.id])
  else emit('select', hold.index)
}
function grabLight(index: number, what: 'light' | 'aim', event: PointerEvent): void {
  const hung = props.plan.lights[index]!
  const place = what === 'aim' ? (hung.target as Place) : drawnAt(props.set.lights[index]!, hung, props.plan)
  grab({ what, index, id: '', place }, event)
}
function drag(event: PointerEvent): void {
  if (!held.value) return
  const at = board.toMm(event)
  const { what, index, id, place, from } = held.value
  const there: Place = [place[0], place[BACK]! + at.x - from.x, place[UP]! + at.y - from.y]
  if (what === 'light') emit('hang', index, there)
  else if (what === 'aim') emit('aim', index, there)
  else if (what === 'camera') emit('cameraHeight', Math.round(there[UP]!))
  else {
    lifted.value = Math.round(at.y - from.y)
    emit('lift', [id], lifted.value, false)
  }
}
function nudge(index: number, across: number, up: number): void {
  const [x, y, z] = drawnAt(props.set.lights[index]!, props.plan.lights[index]!, props.plan)
  emit('hang', index, [x, y + across, z + up])
}
function release(): void {
  if (held.value?.what === 'thing' && lifted.value) emit('lift', [held.value.id], lifted.value, true)
  held.value = null
  frozen.value = null
}
</script>

<template>
  <div ref="holder" class="side">
    <svg
      width="100%"
      height="100%"
      role="group"
      aria-label="Side elevation in millimetres, the front on the left"
      @pointermove="drag"
      @pointerup="release"
      @pointercancel="release"
    >
      <Mat :step="board.gridStep.value" :scale="board.scale.value" :origin="board.origin.value" />
      <path class="sweep" :d="sweep" />
      <line class="axis" :x1="eye[0]" :y1="eye[1]" :x2="seen[0]" :y2="seen[1]" />
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
        :aria-label="`${one.name}: ${showNumber(one.lifted, 0)} mm above the floor`"
        :data-test="`side-${one.id}`"
        @pointerdown="grab({ what: 'thing', index: 0, id: one.id, place: [0, 0, 0] }, $event)"
        @keydown.up.prevent="emit('lift', [one.id], $event.shiftKey ? 10 : 1, true)"
        @keydown.down.prevent="emit('lift', [one.id], $event.shiftKey ? -10 : -1, true)"
      >
        <path :d="`${board.line(one.side)}Z`" />
        <text
          v-if="chosen.includes(one.id) && chosen.length <= MOST_NAMES"
          :x="board.x(one.top[0]!)"
          :y="board.y(one.top[1]!) - 6"
          text-anchor="middle"
        >
          {{ held && lifted ? `${showNumber(lifted, 0)} mm` : one.name }}
        </text>
      </g>
      <template v-for="(light, index) in set.lights" :key="index">
        <LightMark
          v-if="plan.lights[index]"
          :light="light"
          :hung="plan.lights[index]!"
          :plan="plan"
          :board="board"
          :axes="[BACK, UP]"
          :chosen="index === selected"
          :index="index"
          @grab="(what, event) => grabLight(index, what, event)"
          @select="emit('select', index)"
          @nudge="(across, up) => nudge(index, across, up)"
        />
      </template>
      <g
        class="camera"
        :class="{ chosen: selected === CAMERA }"
        tabindex="0"
        role="button"
        data-test="side-camera"
        :aria-label="`Camera ${showNumber(camera.height, 0)} mm above the floor`"
        @pointerdown="grab({ what: 'camera', index: CAMERA, id: '', place: plan.camera as Place }, $event)"
        @focus="emit('select', CAMERA)"
        @keydown.up.prevent="emit('cameraHeight', camera.height + 10)"
        @keydown.down.prevent="emit('cameraHeight', camera.height - 10)"
      >
        <g :transform="`translate(${eye[0]} ${eye[1]}) rotate(${lean})`">
          <rect x="-15" y="-10" width="15" height="20" rx="2" />
          <path d="M0 -5 L7 -8 V8 L0 5Z" />
        </g>
        <text :x="eye[0] - 6" :y="eye[1] + 26" text-anchor="middle">{{ showNumber(camera.height, 0) }} mm up</text>
      </g>
    </svg>
  </div>
</template>

<style scoped>
.side {
  position: absolute;
  inset: 0;
}
svg {
  display: block;
  touch-action: none;
}
.sweep {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
  opacity: 0.6;
}
.axis {
  stroke: #b3324c66;
}
text {
  font: 11.5px var(--sans);
  fill: var(--ink);
}
.sharp {
  fill: #3c7a5730;
  stroke: var(--fine);
}
.pack,
.camera {
  cursor: ns-resize;
  outline: none;
}
.pack path {
  fill: var(--ink);
  fill-opacity: 0.85;
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
