<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Carton, FlatBlank } from '@/api/client'
import GrainArrow from '@/components/GrainArrow.vue'
import type { Place2 } from '@/composables/grain'
import QuantityInput from '@/components/QuantityInput.vue'
import { useBoard } from '@/composables/board'
import { showNumber } from '@/composables/quantity'
import BlankLines from './BlankLines.vue'
import Mat from './Mat.vue'
import Rulers from './Rulers.vue'

type Size = 'length' | 'width' | 'depth'
const props = defineProps<{
  blank: FlatBlank
  picture: string | null
  printed: boolean
  selected: string
  carton: Carton
  /** Where a grain runs on it, mm, and how a mm to the right and up on its pattern lies there. */
  grain: { at: Place2; right: Place2; up: Place2 } | null
}>()
const emit = defineEmits<{ select: [panel: string]; point: [panel: string]; size: [field: Size, mm: number] }>()
/** The size that is being typed. */
const typing = ref<Size | ''>('')

const holder = ref<HTMLElement>()
const size = computed(() => ({ width: props.blank.size[0], height: props.blank.size[1] }))
/** How far covering paper stands out beyond the board. */
const beyond = computed(() => Math.max(0, ...props.blank.paper.flat().map(([x]) => -x)))
const board = useBoard(holder, () => ({
  left: -14 - beyond.value,
  right: size.value.width + 6 + beyond.value,
  bottom: -14 - beyond.value,
  top: size.value.height + 6 + beyond.value,
}))
</script>

<template>
  <div ref="holder" class="draft" data-test="blank-draft">
    <svg width="100%" height="100%" role="group" aria-label="The blank laid flat, in millimetres">
      <Mat :step="board.gridStep.value" :scale="board.scale.value" :origin="board.origin.value" />
      <clipPath id="blank-board">
        <path clip-rule="evenodd" :d="blank.cuts.map((ring) => `${board.line(ring)}Z`).join('')" />
      </clipPath>
      <image
        v-if="picture"
        clip-path="url(#blank-board)"
        :href="picture"
        :x="board.x(0)"
        :y="board.y(size.height)"
        :width="size.width * board.scale.value"
        :height="size.height * board.scale.value"
        preserveAspectRatio="none"
      />
      <path
        v-for="panel in blank.panels"
        :key="panel.name"
        class="panel"
        :class="{ chosen: panel.name === selected, board: !picture }"
        :d="`${board.line(panel.outline)}Z`"
        tabindex="0"
        role="button"
        :aria-label="panel.name"
        :data-test="`flat-${panel.name.replaceAll(' ', '-')}`"
        @click="emit('select', panel.name)"
        @pointerenter="emit('point', panel.name)"
        @pointerleave="emit('point', '')"
        @keydown.enter="emit('select', panel.name)"
      >
        <title>{{ panel.name }}</title>
      </path>
      <BlankLines :blank="blank" :board="board" :selected="selected" :quiet="printed" />
      <g class="sizes" aria-hidden="true">
        <path v-for="one in blank.dimensions" :key="one.field" :d="board.line([one.start, one.end])" />
      </g>
      <GrainArrow
        v-if="grain"
        :at="[board.x(grain.at[0]), board.y(grain.at[1])]"
        :right="[grain.right[0], -grain.right[1]]"
        :up="[grain.up[0], -grain.up[1]]"
      />
      <Rulers :board="board" :width="size.width" :height="size.height" />
      <text class="size" :x="board.x(size.width / 2)" :y="board.y(size.height) - 8" text-anchor="middle">
        {{ showNumber(size.width) }} × {{ showNumber(size.height) }} mm
      </text>
    </svg>
    <div
      v-for="one in grain ? [] : blank.dimensions"
      :key="one.field"
      class="dimension"
      :style="{
        left: `${board.x((one.start[0] + one.end[0]) / 2)}px`,
        top: `${board.y((one.start[1] + one.end[1]) / 2)}px`,
      }"
    >
      <QuantityInput
        v-if="typing === one.field"
        :label="`Inside ${one.field} on the blank`"
        unit="mm"
        :value="carton[one.field]"
        :min="5"
        :max="2000"
        @change="(v) => emit('size', one.field, v)"
      />
      <button
        v-else
        type="button"
        :title="`Inside ${one.field}: click to type it`"
        :data-test="`dimension-${one.field}`"
        @click="typing = one.field"
      >
        {{ showNumber(carton[one.field]) }}
      </button>
    </div>
    <p class="key" aria-hidden="true">
      <i class="cut"></i> cut <i class="crease"></i> crease
      <template v-if="blank.perforations.length"><i class="tear"></i> perforation</template>
      <template v-if="blank.embossed.length"><i class="emboss"></i> embossing</template>
      <i class="glue"></i> glue
      <template v-if="blank.paper.length"><i class="paper"></i> paper</template>
      <b>{{ blank.grain ? '↕' : '↔' }}</b> grain
    </p>
  </div>
</template>

<style scoped>
.draft {
  position: absolute;
  inset: 0;
  background: var(--mat);
}
.panel {
  fill: transparent;
  cursor: pointer;
  outline: none;
}
.panel.board {
  fill: #fbf8f1;
}
.panel:hover {
  fill: #b3324c14;
}
.panel.chosen,
.panel:focus-visible {
  fill: #b3324c26;
}
.sizes path {
  stroke: #5d6a62;
  stroke-width: 1;
  stroke-dasharray: 1 3;
  fill: none;
}
.dimension {
  position: absolute;
  transform: translate(-50%, -50%);
}
.dimension button {
  border: 1px solid #cfc6b3;
  background: #fffdf8;
  padding: 0 5px;
  font: 11px var(--mono);
  color: var(--ink);
  cursor: text;
}
.dimension button:hover,
.dimension button:focus-visible {
  border-color: var(--ribbon);
}
.size {
  font:
    11px 'Spline Sans Mono',
    monospace;
  fill: #5d6a62;
}
.key {
  position: absolute;
  right: 12px;
  bottom: 8px;
  margin: 0;
  font-size: 12px;
  display: flex;
  align-items: center;
  gap: 6px;
}
.key i {
  width: 22px;
  border-top: 1.5px solid var(--ink);
}
.key i.crease {
  border-top: 1.5px dashed var(--ribbon);
}
.key i.tear {
  border-top: 1.6px dashed #a8641f;
}
.key i.emboss {
  border-top: 1.5px solid #4a5a8a;
}
.key i.paper {
  border-top: 1.5px solid var(--kraft);
}
.key i.glue {
  border-top: 2px dotted var(--fine);
}
</style>
