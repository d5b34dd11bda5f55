<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, type Tracing, wordsFor } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'

const props = defineProps<{ photo: { picture: string; width_px: number; height_px: number } }>()
const emit = defineEmits<{ done: [tracing: Tracing]; cancel: [] }>()

type Mark = 'axis_top' | 'axis_base' | 'known_from' | 'known_to'
const STEPS: { mark: Mark; words: string }[] = [
  { mark: 'axis_top', words: 'Click the middle of the container at its top.' },
  { mark: 'axis_base', words: 'Click the middle of its base, where it stands on the table.' },
  { mark: 'known_from', words: 'Click one end of a length you know.' },
  { mark: 'known_to', words: 'Click its other end.' },
]
const marks = ref<Partial<Record<Mark, [number, number]>>>({})
const length = ref(100)
const problem = ref('')
const svg = ref<SVGSVGElement>()
const dragged = ref<Mark | null>(null)
const next = computed(() => STEPS.find((s) => !marks.value[s.mark]) ?? null)
const size = computed(() => Math.max(props.photo.width_px, props.photo.height_px) / 130)

function at(event: PointerEvent): [number, number] {
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.value!.getScreenCTM()!.inverse())
  return [point.x, point.y]
}
function down(event: PointerEvent): void {
  const near = STEPS.find(({ mark }) => {
    const m = marks.value[mark]
    const p = at(event)
    return m && Math.hypot(m[0] - p[0], m[1] - p[1]) < size.value * 2
  })
  const mark = near?.mark ?? next.value?.mark
  if (!mark) return
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  dragged.value = mark
  marks.value = { ...marks.value, [mark]: at(event) }
}
function move(event: PointerEvent): void {
  if (dragged.value) marks.value = { ...marks.value, [dragged.value]: at(event) }
}
async function lay(): Promise<void> {
  const { axis_top, axis_base, known_from, known_to } = marks.value
  if (!axis_top || !axis_base || !known_from || !known_to) return
  try {
    const body = { ...props.photo, axis_top, axis_base, known_from, known_to, length: length.value }
    emit('done', await answer(api.POST('/api/tracing', { body })))
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
</script>

<template>
  <div class="trace" role="region" aria-label="Trace a photo">
    <div class="words">
      <p v-if="next">
        <b>{{ next.words }}</b> Marks can be dragged afterwards.
      </p>
      <p v-else class="known">
        That length is
        <QuantityInput
          label="Known length"
          unit="mm"
          :value="length"
          :min="0.5"
          :max="5000"
          :step="1"
          :digits="2"
          @change="(v) => (length = v)"
        />
      </p>
      <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
      <Button type="primary" :disabled="Boolean(next)" data-test="lay-photo" @click="lay"
        >Lay it behind the profile</Button
      >{{ ' ' }} <Button @click="marks = {}">Mark again</Button>{{ ' ' }}
      <Button @click="emit('cancel')">Leave it</Button>
    </div>
    <svg
      ref="svg"
      :viewBox="`0 0 ${photo.width_px} ${photo.height_px}`"
      data-test="trace-photo"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="dragged = null"
      @pointercancel="dragged = null"
    >
      <image :href="`/api/photos/${photo.picture}.jpg`" :width="photo.width_px" :height="photo.height_px" />
      <line
        v-if="marks.axis_top && marks.axis_base"
        :x1="marks.axis_top[0]"
        :y1="marks.axis_top[1]"
        :x2="marks.axis_base[0]"
        :y2="marks.axis_base[1]"
        class="axis"
        :stroke-width="size / 4"
      />
      <line
        v-if="marks.known_from && marks.known_to"
        :x1="marks.known_from[0]"
        :y1="marks.known_from[1]"
        :x2="marks.known_to[0]"
        :y2="marks.known_to[1]"
        class="known-line"
        :stroke-width="size / 4"
      />
      <circle
        v-for="(point, mark) in marks"
        :key="mark"
        :cx="point![0]"
        :cy="point![1]"
        :r="size"
        :class="mark.startsWith('axis') ? 'axis-mark' : 'known-mark'"
        :stroke-width="size / 3"
      />
    </svg>
  </div>
</template>

<style scoped>
.trace {
  position: absolute;
  inset: 0;
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  background: var(--mat, #e1e7e2);
  z-index: 4;
}
.words {
  padding: 10px 14px;
  background: var(--card);
  border-bottom: 1.5px dashed #cfc6b3;
}
.words p {
  margin: 0 0 8px;
}
svg {
  width: 100%;
  height: 100%;
  touch-action: none;
  cursor: crosshair;
}
.axis {
  stroke: #b3324c;
  stroke-dasharray: 30 10 6 10;
}
.known-line {
  stroke: #3c7a57;
}
.axis-mark {
  fill: rgba(179, 50, 76, 0.3);
  stroke: #b3324c;
}
.known-mark {
  fill: rgba(60, 122, 87, 0.3);
  stroke: #3c7a57;
}
</style>
