<script setup lang="ts">
import type { useBoard } from '@/composables/board'
import type { Page } from '@/composables/page'
import { showNumber } from '@/composables/quantity'

/** How long a mm across a page is on the pack, in cells from its lower left corner, row by row. */
defineProps<{ cells: (number | null)[][]; page: Page; board: ReturnType<typeof useBoard> }>()

/** Only so many cells say their number that these do not touch. */
const said = (i: number, j: number) => i % 4 === 1 && j % 2 === 1
</script>

<template>
  <g class="cells">
    <template v-for="(row, j) in cells" :key="j">
      <template v-for="(cell, i) in row" :key="i">
        <rect
          v-if="cell !== null"
          :x="board.x(page.left + (i / row.length) * page.width)"
          :y="board.y(page.foot + ((j + 1) / cells.length) * page.height)"
          :width="(page.width / row.length) * board.scale.value"
          :height="(page.height / cells.length) * board.scale.value"
          :class="{ wider: cell > 1 }"
          :style="{ fillOpacity: Math.min(4 * Math.abs(cell - 1), 0.75) }"
        />
      </template>
    </template>
    <template v-for="(row, j) in cells" :key="j">
      <template v-for="(cell, i) in row" :key="i">
        <text
          v-if="cell !== null && said(i, j)"
          :x="board.x(page.left + ((i + 0.5) / row.length) * page.width)"
          :y="board.y(page.foot + ((j + 0.5) / cells.length) * page.height) + 4"
        >
          {{ cell > 1 ? '+' : '' }}{{ showNumber(100 * (cell - 1), 1) }}
        </text>
      </template>
    </template>
  </g>
</template>

<style scoped>
.cells {
  pointer-events: none;
}
rect {
  fill: #2f5d8a;
}
.wider {
  fill: var(--ribbon);
}
text {
  font: 10.5px var(--mono);
  text-anchor: middle;
  fill: var(--ink);
  paint-order: stroke;
  stroke: var(--card);
  stroke-width: 3px;
}
</style>
