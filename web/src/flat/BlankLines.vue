<script setup lang="ts">
import { computed } from 'vue'

import type { FlatBlank } from '@/api/client'
import type { useBoard } from '@/composables/board'

const props = defineProps<{
  blank: FlatBlank
  board: ReturnType<typeof useBoard>
  selected?: string
  quiet?: boolean
}>()

const LETTER_PX = 6
type FlatPanel = FlatBlank['panels'][number]

/** Names that find room on their panels, turned upright where there is more of it; none over a print. */
const names = computed(() => (props.quiet ? [] : props.blank.panels.flatMap((panel) => written(panel) ?? [])))
function written(panel: FlatPanel): { name: string; x: number; y: number; turn: number } | null {
  const scale = props.board.scale.value
  const span = (k: 0 | 1) => {
    const values = panel.outline.map((point) => point[k])
    return (Math.max(...values) - Math.min(...values)) * scale
  }
  const long = panel.name.length * LETTER_PX
  const [x, y] = [props.board.x(panel.at[0]), props.board.y(panel.at[1])]
  if (long < span(0)) return { name: panel.name, x, y, turn: 0 }
  return long < span(1) ? { name: panel.name, x, y, turn: -90 } : null
}
</script>

<template>
  <g class="lines" aria-hidden="true">
    <path v-for="(ring, i) in blank.cuts" :key="`cut${i}`" class="cut" :d="board.line(ring)" />
    <path v-for="(ring, i) in blank.paper" :key="`paper${i}`" class="paper" :d="board.line(ring)" />
    <path v-for="(ring, i) in blank.glue" :key="`glue${i}`" class="glue" :d="board.line(ring)" />
    <path v-for="(ring, i) in blank.embossed" :key="`emboss${i}`" class="emboss" :d="board.line(ring)" />
    <path v-for="(line, i) in blank.perforations" :key="`tear${i}`" class="tear" :d="board.line(line)" />
    <path
      v-for="crease in blank.creases"
      :key="crease.name"
      class="crease"
      :class="{ chosen: crease.name === selected }"
      :d="board.line(crease.line)"
    />
    <text
      v-for="one in names"
      :key="one.name"
      class="name"
      :x="one.x"
      :y="one.y"
      :transform="`rotate(${one.turn} ${one.x} ${one.y})`"
      text-anchor="middle"
      dominant-baseline="middle"
    >
      {{ one.name }}
    </text>
  </g>
</template>

<style scoped>
.lines {
  pointer-events: none;
}
.cut {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.4;
}
.crease {
  fill: none;
  stroke: var(--ribbon);
  stroke-width: 1.4;
  stroke-dasharray: 6 4;
}
.crease.chosen {
  stroke-width: 3;
}
.paper {
  fill: none;
  stroke: var(--kraft);
  stroke-width: 1.2;
}
.emboss {
  fill: #4a5a8a14;
  stroke: #4a5a8a;
  stroke-width: 1.2;
}
.tear {
  fill: none;
  stroke: #a8641f;
  stroke-width: 1.6;
  stroke-dasharray: 5 2;
}
.glue {
  fill: none;
  stroke: var(--fine);
  stroke-width: 1.6;
  stroke-dasharray: 1.5 4;
}
.name {
  font-size: 11px;
  fill: #6a6458;
  paint-order: stroke;
  stroke: #fbf8f1cc;
  stroke-width: 3px;
}
</style>
