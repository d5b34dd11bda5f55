<script setup lang="ts">
import { Button } from 'ant-design-vue'

import type { Label, Panel } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import { showNumber } from '@/composables/quantity'
import type { Sheet } from './printed'

/** How large something printed is, and where it lies. */
const props = defineProps<{
  sheet: Sheet
  /** mm around the pack where a label is wrapped. */
  around: number | null
  /** Where in the pack something is wrong. */
  badPlace: string
  picking: string
  edit: (change: (panel: Panel) => void) => void
}>()
defineEmits<{ pick: [how: 'move' | 'loop'] }>()

type PickedLabel = Extract<Label, { kind: 'picked' }>

const SIDES = ['width', 'height'] as const
const setLabel = (change: Partial<Record<string, number>>) => props.edit((p) => Object.assign(p as Label, change))
const refused = (field: string) => props.badPlace === `${props.sheet.place}.${field}`
</script>

<template>
  <p v-if="sheet.kind === 'blank'" class="sentence">
    {{ showNumber(sheet.panel.width) }} by {{ showNumber(sheet.panel.height) }} mm, printed whole: what crosses a crease
    goes around it.
  </p>
  <p v-else-if="!sheet.label" class="sentence">
    {{ showNumber(sheet.panel.width) }} by {{ showNumber(sheet.panel.height) }} mm, laid as the model has it.
  </p>
  <template v-else>
    <p class="sentence">
      <template v-for="(side, index) in SIDES" :key="side">
        <template v-if="index">{{ sheet.label.kind === 'wrap' ? ' around and ' : ' wide and ' }}</template>
        <QuantityInput
          :label="`Label ${side}`"
          unit="mm"
          :value="sheet.panel[side]"
          :min="1"
          :max="2000"
          :digits="2"
          :refused="refused(side)"
          @change="(v) => setLabel({ [side]: v })"
        />
      </template>
      tall,
      <template v-if="sheet.label.kind === 'wrap'">
        <QuantityInput
          label="Label from base"
          unit="mm"
          :value="sheet.label.from_base"
          :min="0"
          :max="2000"
          :digits="2"
          :refused="refused('from_base')"
          @change="(v) => setLabel({ from_base: v })"
        />
        above the base, turned
        <QuantityInput
          label="Label turn"
          unit="°"
          :value="sheet.label.centre_angle ?? 0"
          :min="-360"
          :max="360"
          :step="5"
          @change="(v) => setLabel({ centre_angle: v })"
        />
        to the right<template v-if="sheet.tapers"
          >,
          <select
            :value="sheet.label.developed ? 'ring' : 'straight'"
            aria-label="How it lies on a wall that narrows"
            data-test="developed"
            @change="
              (e) => edit((p) => Object.assign(p, { developed: (e.target as HTMLSelectElement).value === 'ring' }))
            "
          >
            <option value="ring">cut as a piece of a ring</option>
            <option value="straight">as a rectangle</option>
          </select></template
        >.
      </template>
      <template v-else>
        on {{ sheet.label.part }}, turned
        <QuantityInput
          label="Label turn"
          unit="°"
          :value="sheet.label.turn ?? 0"
          :min="-360"
          :max="360"
          :step="5"
          @change="(v) => setLabel({ turn: v })"
        />
        to the right; it goes on over faces that turn by up to
        <QuantityInput
          label="Edges that a label goes over"
          unit="°"
          :value="sheet.label.grow ?? 30"
          :min="1"
          :max="180"
          :step="5"
          :digits="0"
          @change="(v) => setLabel({ grow: v })"
        />.
      </template>
    </p>
    <p v-if="around !== null" class="hint">
      The pack is {{ showNumber(around) }} mm around here: {{ showNumber(around - sheet.panel.width) }} mm stay bare at
      the back.
    </p>
    <p v-if="sheet.stretch !== null" class="hint" data-test="label-stretch">
      Laid flat it is stretched by {{ showNumber(100 * sheet.stretch, 2) }} % at the most.
    </p>
    <template v-if="sheet.label.kind === 'picked'">
      <p v-if="sheet.label.outline" class="sentence">
        It is cut to a loop. <Button size="small" @click="edit((p) => delete (p as PickedLabel).outline)">Uncut</Button>
      </p>
      <div class="buttons">
        <Button size="small" data-test="move-label" @click="$emit('pick', 'move')">{{
          picking === 'move' ? 'Click on the pack where its middle goes' : 'Move it …'
        }}</Button>
        <Button size="small" data-test="lasso-label" @click="$emit('pick', 'loop')">{{
          picking === 'loop' ? 'Draw around its place on the pack' : 'Cut it to a loop …'
        }}</Button>
      </div>
    </template>
  </template>
</template>
