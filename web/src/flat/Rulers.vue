<script setup lang="ts">
import type { useBoard } from '@/composables/board'

/** Rulers below and on the left of something that lies with its lower left corner at 0; its size in mm. */
defineProps<{ board: ReturnType<typeof useBoard>; width: number; height: number }>()
</script>

<template>
  <g class="ruler" aria-hidden="true">
    <template v-for="t in board.ticks(0, width)" :key="`x${t}`">
      <line :x1="board.x(t)" :x2="board.x(t)" :y1="board.y(0) + 4" :y2="board.y(0) + 11" />
      <text :x="board.x(t)" :y="board.y(0) + 23" text-anchor="middle">{{ t }}</text>
    </template>
    <template v-for="t in board.ticks(0, height)" :key="`y${t}`">
      <line :x1="board.x(0) - 11" :x2="board.x(0) - 4" :y1="board.y(t)" :y2="board.y(t)" />
      <text :x="board.x(0) - 14" :y="board.y(t) + 4" text-anchor="end">{{ t }}</text>
    </template>
  </g>
</template>

<style scoped>
text {
  font: 11px var(--mono);
  fill: var(--ink);
}
line {
  stroke: var(--ink);
}
</style>
