import { useResizeObserver } from '@vueuse/core'
import { computed, onMounted, type Ref, ref } from 'vue'

/** A box in mm; y grows upwards. */
export interface Box {
  left: number
  right: number
  bottom: number
  top: number
}

const GRID_STEPS = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000]
const GRID_LEAST_PX = 9

/** A drawing surface in mm that keeps a box in view: scale, grid and conversion from the pointer. */
export function useBoard(holder: Ref<HTMLElement | undefined>, box: () => Box, margin = 44) {
  const size = ref({ width: 600, height: 600 })
  // the observer speaks only once a frame is drawn, which a busy page may put off
  onMounted(() => {
    const frame = holder.value?.getBoundingClientRect()
    if (frame?.width) size.value = { width: frame.width, height: frame.height }
  })
  useResizeObserver(holder, ([entry]) => {
    if (entry) size.value = { width: entry.contentRect.width, height: entry.contentRect.height }
  })
  const scale = computed(() => {
    const { left, right, bottom, top } = box()
    const { width, height } = size.value
    return Math.max(Math.min((width - 2 * margin) / (right - left), (height - 2 * margin) / (top - bottom)), 0.02)
  })
  const origin = computed(() => {
    const { left, right, bottom, top } = box()
    const { width, height } = size.value
    return { x: width / 2 - ((left + right) / 2) * scale.value, y: height / 2 + ((bottom + top) / 2) * scale.value }
  })
  const gridStep = computed(() => GRID_STEPS.find((s) => s * scale.value >= GRID_LEAST_PX) ?? 2000)

  const x = (mm: number) => origin.value.x + mm * scale.value
  const y = (mm: number) => origin.value.y - mm * scale.value

  /** Where in mm a pointer is. */
  function toMm(event: PointerEvent | DragEvent): { x: number; y: number } {
    const frame = holder.value!.getBoundingClientRect()
    return {
      x: (event.clientX - frame.left - origin.value.x) / scale.value,
      y: -(event.clientY - frame.top - origin.value.y) / scale.value,
    }
  }

  function line(points: (readonly number[])[], flip = 1): string {
    return points.map(([px, py], i) => `${i ? 'L' : 'M'}${x(flip * px!).toFixed(2)} ${y(py!).toFixed(2)}`).join('')
  }

  /** Numbered ticks for a ruler between two lengths in mm. */
  function ticks(from: number, to: number, leastPx = 46): number[] {
    const step = GRID_STEPS.find((s) => s * scale.value >= leastPx) ?? 2000
    const found = []
    for (let at = Math.ceil(from / step) * step; at <= to + 1e-6; at += step) found.push(at)
    return found
  }

  return { size, scale, origin, gridStep, x, y, toMm, line, ticks }
}

/** Round to a step, for dragging. */
export function snap(value: number, step = 0.5): number {
  return Math.round(value / step) * step
}
