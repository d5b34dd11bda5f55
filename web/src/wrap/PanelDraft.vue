<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Artwork, FlatBlank, Panel } from '@/api/client'
import { snap, useBoard } from '@/composables/board'
import { showNumber } from '@/composables/quantity'
import { aspectOf } from './laying'
import { type Outline, pageOf } from '@/composables/page'
import { drawnTo, type Guide } from '@/composables/guides'
import StretchCells from './StretchCells.vue'
import { lengthOf, type Spot, type Tape } from './pointing'
import BlankLines from '@/flat/BlankLines.vue'
import Mat from '@/flat/Mat.vue'
import Rulers from '@/flat/Rulers.vue'

const props = defineProps<{
  panel: Panel
  artwork: Artwork[]
  picture: string | null
  selected: number
  locked?: boolean
  /** The blank that the panel is, of a carton. */
  blank?: FlatBlank | null
  /** What a developed label is cut to. */
  outline?: Outline | null
  /** What a label is cut to, mm from the lower left corner of its page. */
  cut?: Outline | null
  /** Where the hand is on the pack, a tape, and whether dragging measures. */
  pointed?: Spot | null
  tape?: Tape | null
  taping?: boolean
  /** How long a mm across is on the pack, in cells from the lower left corner of the page, row by row. */
  cells?: (number | null)[][] | null
}>()
const emit = defineEmits<{
  point: [spot: Spot | null]
  tape: [tape: Tape]
  select: [index: number]
  move: [index: number, x: number, y: number]
  size: [index: number, width: number]
  dropFiles: [files: FileList, at: { x: number; y: number }]
}>()

const holder = ref<HTMLElement>()
const over = ref(false)
const grip = ref<{ index: number; dx: number; dy: number; sizing: boolean } | null>(null)
const frozen = ref<{ left: number; right: number; bottom: number; top: number } | null>(null)
const page = computed(() => pageOf(props.panel, props.outline))
const extent = computed(() => {
  const { left, foot, width, height } = page.value
  return { left: left - 14, right: left + width + 6, bottom: foot - 12, top: foot + height + 6 }
})
/** What it is cut to, mm from its lower left corner, where it is no rectangle. */
const cuts = computed(() => {
  const { blank } = props
  if (blank) return blank.cuts
  const { left, foot } = page.value
  if (props.cut) return [props.cut.map(([x, y]) => [left + x!, foot + y!] as const)]
  return props.outline ? [props.outline.map(([x, y]) => [x!, y!] as const)] : null
})
/** Light inks on film and glass are seen on a middle grey. */
const seeThrough = computed(() => ['clear', 'bare'].includes(props.panel.stock?.kind ?? ''))
const board = useBoard(holder, () => frozen.value ?? extent.value, 34)

const placed = computed(() =>
  props.panel.placements.map((placement) => {
    const file = props.artwork.find((a) => a.sha256 === placement.artwork)
    return { ...placement, file, height: placement.width / aspectOf(placement, file) }
  }),
)

function grab(index: number, event: PointerEvent, sizing = false): void {
  if (props.taping) return
  emit('select', index)
  if (props.locked) return
  const at = board.toMm(event)
  const item = placed.value[index]!
  ;(event.target as Element).setPointerCapture(event.pointerId)
  grip.value = { index, dx: at.x - item.x, dy: at.y - item.y, sizing }
  frozen.value = extent.value
}
/** px within which what is dragged is drawn to edges and middles. */
const SNAP_PX = 7
const guides = computed(() => {
  const { width, height } = props.panel
  const ends = (size: number): Guide[] => [
    { at: 0, name: 'edge' },
    { at: size / 2, name: 'middle' },
    { at: size, name: 'edge' },
  ]
  const others = placed.value.filter((_, index) => index !== grip.value?.index)
  const of = (from: number, size: number): Guide[] =>
    [from, from + size / 2, from + size].map((at) => ({ at, name: 'artwork' }))
  return {
    x: [...ends(width), ...others.flatMap((one) => of(one.x, one.width))],
    y: [...ends(height), ...others.flatMap((one) => of(one.y, one.height))],
  }
})
/** Where what is dragged was drawn to, mm. */
const drawnAt = ref<{ x: number | null; y: number | null }>({ x: null, y: null })
function drag(event: PointerEvent): void {
  const at = board.toMm(event)
  emit('point', event.buttons && !taped ? null : at)
  if (taped) return emit('tape', { from: taped, to: at })
  if (!grip.value) return
  const { index, dx, dy, sizing } = grip.value
  const step = event.shiftKey ? 0.1 : 0.5
  if (sizing) return emit('size', index, Math.max(snap(at.x - placed.value[index]!.x, step), 1))
  const { width, height } = placed.value[index]!
  const within = event.shiftKey ? 0 : SNAP_PX / board.scale.value
  const x = drawnTo(at.x - dx, [0, width / 2, width], guides.value.x, within)
  const y = drawnTo(at.y - dy, [0, height / 2, height], guides.value.y, within)
  drawnAt.value = { x: x.guide?.at ?? null, y: y.guide?.at ?? null }
  emit('move', index, x.guide ? x.value : snap(x.value, step), y.guide ? y.value : snap(y.value, step))
}
let taped: Spot | null = null
function measure(event: PointerEvent): void {
  if (!props.taping) return
  taped = board.toMm(event)
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  emit('tape', { from: taped, to: taped })
}
function release(): void {
  taped = null
  grip.value = null
  frozen.value = null
  drawnAt.value = { x: null, y: null }
}
function nudge(index: number, dx: number, dy: number, event: KeyboardEvent): void {
  const by = event.shiftKey ? 5 : 0.5
  const item = placed.value[index]!
  emit('move', index, item.x + dx * by, item.y + dy * by)
}
function dropped(event: DragEvent): void {
  over.value = false
  if (event.dataTransfer?.files.length) emit('dropFiles', event.dataTransfer.files, board.toMm(event))
}
</script>

<template>
  <div
    ref="holder"
    class="draft"
    :class="{ over }"
    data-test="panel-draft"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="dropped"
  >
    <svg
      width="100%"
      height="100%"
      role="group"
      aria-label="Panel laid flat, in millimetres"
      :class="{ taping }"
      @pointerdown="measure"
      @pointerleave="emit('point', null)"
      @pointermove="drag"
      @pointerup="release"
      @pointercancel="release"
    >
      <Mat :step="board.gridStep.value" :scale="board.scale.value" :origin="board.origin.value" />
      <clipPath v-if="cuts" id="panel-board">
        <path clip-rule="evenodd" :d="cuts.map((ring) => `${board.line(ring)}Z`).join('')" />
      </clipPath>
      <rect
        v-if="picture && seeThrough"
        class="seen-through"
        :clip-path="cuts ? 'url(#panel-board)' : undefined"
        :x="board.x(page.left)"
        :y="board.y(page.foot + page.height)"
        :width="page.width * board.scale.value"
        :height="page.height * board.scale.value"
      />
      <image
        v-if="picture"
        :clip-path="cuts ? 'url(#panel-board)' : undefined"
        :href="picture"
        :x="board.x(page.left)"
        :y="board.y(page.foot + page.height)"
        :width="page.width * board.scale.value"
        :height="page.height * board.scale.value"
        preserveAspectRatio="none"
      />
      <BlankLines v-if="blank" :blank="blank" :board="board" :quiet="panel.placements.length > 0" />
      <path v-else-if="cuts" class="cut" :d="`${board.line(cuts[0]!)}Z`" />
      <rect
        v-else
        class="cut"
        :x="board.x(0)"
        :y="board.y(panel.height)"
        :width="panel.width * board.scale.value"
        :height="panel.height * board.scale.value"
      />
      <line
        v-if="!blank"
        class="centre"
        :x1="board.x(panel.width / 2)"
        :x2="board.x(panel.width / 2)"
        :y1="board.y(0)"
        :y2="board.y(panel.height)"
      />
      <text v-if="!blank" class="word" :x="board.x(panel.width)" :y="board.y(panel.height) - 6" text-anchor="end">
        cut
      </text>
      <text v-if="!blank" class="word" :x="board.x(panel.width / 2) + 4" :y="board.y(panel.height) - 6">middle</text>
      <Rulers :board="board" :width="panel.width" :height="panel.height" />
      <g
        v-for="(item, index) in placed"
        :key="index"
        class="placed"
        :transform="
          item.turn
            ? `rotate(${item.turn} ${board.x(item.x + item.width / 2)} ${board.y(item.y + item.height / 2)})`
            : undefined
        "
        :class="{ chosen: index === selected, locked }"
        tabindex="0"
        role="button"
        :aria-label="`${item.file?.filename ?? 'Artwork'} at ${showNumber(item.x)}, ${showNumber(item.y)} mm, ${showNumber(item.width)} mm wide`"
        :data-test="`placed-${index}`"
        @focus="emit('select', index)"
        @keydown.left.prevent="nudge(index, -1, 0, $event)"
        @keydown.right.prevent="nudge(index, 1, 0, $event)"
        @keydown.up.prevent="nudge(index, 0, 1, $event)"
        @keydown.down.prevent="nudge(index, 0, -1, $event)"
      >
        <rect
          class="frame"
          :x="board.x(item.x)"
          :y="board.y(item.y + item.height)"
          :width="item.width * board.scale.value"
          :height="item.height * board.scale.value"
          @pointerdown="grab(index, $event)"
        />
        <rect
          v-if="index === selected && !locked"
          class="grip"
          :x="board.x(item.x + item.width) - 5"
          :y="board.y(item.y) - 5"
          width="10"
          height="10"
          @pointerdown.stop="grab(index, $event, true)"
        />
      </g>
      <line
        v-if="drawnAt.x !== null"
        class="guide"
        :x1="board.x(drawnAt.x)"
        :x2="board.x(drawnAt.x)"
        :y1="board.y(page.foot - 8)"
        :y2="board.y(page.foot + page.height + 8)"
      />
      <line
        v-if="drawnAt.y !== null"
        class="guide"
        :x1="board.x(page.left - 8)"
        :x2="board.x(page.left + page.width + 8)"
        :y1="board.y(drawnAt.y)"
        :y2="board.y(drawnAt.y)"
      />
      <StretchCells v-if="cells" :cells="cells" :page="page" :board="board" />
      <circle v-if="pointed" class="pointed" :cx="board.x(pointed.x)" :cy="board.y(pointed.y)" r="4.5" />
      <g v-if="tape" class="tape">
        <line :x1="board.x(tape.from.x)" :y1="board.y(tape.from.y)" :x2="board.x(tape.to.x)" :y2="board.y(tape.to.y)" />
        <text :x="board.x(tape.to.x) + 8" :y="board.y(tape.to.y) - 8">{{ showNumber(lengthOf(tape), 2) }} mm</text>
      </g>
      <text
        v-if="!placed.length"
        class="empty"
        :x="board.x(panel.width / 2)"
        :y="board.y(panel.height / 2)"
        text-anchor="middle"
      >
        Drop artwork here
      </text>
    </svg>
  </div>
</template>

<style scoped>
.draft {
  position: absolute;
  inset: 0;
}
.draft.over {
  box-shadow: inset 0 0 0 4px var(--ribbon);
}
svg {
  display: block;
  touch-action: none;
}
.seen-through {
  fill: #777777;
}
.cut {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.4;
}
.centre {
  stroke: var(--ink);
  stroke-dasharray: 2 5;
  opacity: 0.35;
}
.word {
  font: 11px var(--sans);
  fill: #4a4f52;
}
.placed {
  outline: none;
}
.frame {
  fill: transparent;
  stroke: transparent;
  cursor: move;
}
.placed:hover .frame,
.placed:focus-visible .frame {
  stroke: var(--ribbon);
  stroke-dasharray: 4 3;
}
.locked .frame {
  cursor: default;
}
.chosen .frame {
  stroke: var(--ribbon);
  stroke-width: 1.6;
}
.grip {
  fill: var(--card);
  stroke: var(--ribbon);
  stroke-width: 2;
  cursor: nesw-resize;
  cursor: nwse-resize;
}
.taping,
.taping .frame {
  cursor: crosshair;
}
.guide {
  stroke: var(--ribbon);
  stroke-dasharray: 5 3;
}
.pointed {
  fill: #fff9;
  stroke: var(--ribbon);
  stroke-width: 2;
  pointer-events: none;
}
.tape {
  pointer-events: none;
}
.tape line {
  stroke: var(--ribbon);
  stroke-width: 2;
}
.tape text {
  font: 12px var(--mono);
  fill: var(--ribbon);
  paint-order: stroke;
  stroke: var(--card);
  stroke-width: 4px;
}
.empty {
  font: 15px var(--sans);
  fill: #4a4f52;
}
</style>
