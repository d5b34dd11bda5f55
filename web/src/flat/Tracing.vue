<script setup lang="ts">
import { computed } from 'vue'

import type { Tracing } from '@/api/client'
import type { useBoard } from '@/composables/board'

const props = defineProps<{ tracing: Tracing; board: ReturnType<typeof useBoard> }>()

/** Turned upright about its own middle, then laid with its axis and base on the drawing's. */
const transform = computed(() => {
  const { width_px, height_px, angle, axis_px, base_px, mm_per_px } = props.tracing
  const scale = mm_per_px * props.board.scale.value
  const [x, y] = [props.board.x(0) - axis_px * scale, props.board.y(0) - base_px * scale]
  return `translate(${x} ${y}) scale(${scale}) rotate(${angle} ${width_px / 2} ${height_px / 2})`
})
</script>

<template>
  <image
    :href="`/api/photos/${tracing.picture}.jpg`"
    :width="tracing.width_px"
    :height="tracing.height_px"
    :transform="transform"
    :opacity="tracing.strength"
    data-test="traced-photo"
  />
</template>
