<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'

import type { Label, Panel } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import { showNumber } from '@/composables/quantity'
import CutSentence from './CutSentence.vue'
import type { Sheet } from './printed'

/** How large something printed is, and where it lies. */
const props = defineProps<{
  sheet: Sheet
  /** Parts of the pack's closure; what labels of a carton may lie on. */
  parts: string[]
  liesOn: string[]
  /** Where in the pack something is wrong. */
  badPlace: string
  picking: string
  edit: (change: (panel: Panel) => void) => void
}>()
defineEmits<{ pick: [how: 'move' | 'loop']; moveTo: [part: string] }>()

type Field = 'width' | 'height' | 'from_base' | 'centre_angle' | 'shift' | 'turn' | 'grow'
interface Asked {
  field: Field
  /** Words before and after it. */
  before?: string
  after: string
  label: string
  unit: 'mm' | '°'
  min: number
  max?: number
  step?: number
  digits?: number
}

const mm = (field: Field, label: string, after: string, min = 1): Asked => ({
  field,
  label,
  after,
  unit: 'mm',
  min,
  digits: 2,
})
const turn = (field: Field, after: string): Asked => ({
  field,
  after,
  label: 'Label turn',
  unit: '°',
  min: -360,
  max: 360,
  step: 5,
})
const FROM = mm('from_base', 'Label from base', 'above the foot, turned', 0)
const HOW: Record<Label['kind'], Asked[]> = {
  wrap: [
    mm('width', 'Label width', 'around and'),
    mm('height', 'Label height', 'tall,'),
    FROM,
    turn('centre_angle', 'to the right'),
  ],
  sleeve: [
    { ...mm('width', 'Label width', 'around and'), before: 'Film of' },
    mm('height', 'Label height', 'tall,'),
    FROM,
    turn('centre_angle', 'to the right.'),
  ],
  seal: [
    mm('width', 'Label width', 'wide and'),
    mm('height', 'Label height', 'long, its foot turned'),
    turn('centre_angle', 'to the right, moved'),
    mm('shift', 'Seal moved', 'over the top.', -500),
  ],
  picked: [
    mm('width', 'Label width', 'wide and'),
    mm('height', 'Label height', 'tall, turned'),
    turn('turn', 'to the right; it goes on over faces that turn by up to'),
    {
      field: 'grow',
      label: 'Edges that a label goes over',
      after: '.',
      unit: '°',
      min: 1,
      max: 180,
      step: 5,
      digits: 0,
    },
  ],
}
const asked = computed(() => (props.sheet.label ? HOW[props.sheet.label.kind] : []))
const values = computed(() => props.sheet.label as unknown as Record<Field, number | undefined>)
const set = (change: object) => props.edit((p) => Object.assign(p, change))
const refused = (field: string) => props.badPlace === `${props.sheet.place}.${field}`
const laid = computed(() => props.sheet.laid)
/** A label that lies around something leaves so much of it bare. */
const bare = computed(() =>
  props.sheet.label?.kind === 'wrap' && laid.value?.around ? laid.value.around - props.sheet.panel.width : null,
)
/** How far a sleeve shrinks: where it does most and least, shares and mm up the film. */
const shrink = computed(() => {
  const steps = laid.value?.shrink
  if (!steps?.length) return null
  const most = steps.reduce((one, other) => (other[1] > one[1] ? other : one))
  const least = steps.reduce((one, other) => (other[1] < one[1] ? other : one))
  return { most, least }
})
const percent = (share: number, digits = 1) => `${showNumber(100 * share, digits)} %`
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
      <template v-for="one in asked" :key="one.field">
        {{ one.before }}
        <QuantityInput
          :label="one.label"
          :unit="one.unit"
          :value="values[one.field] ?? 0"
          :min="one.min"
          :max="one.max ?? 2000"
          :step="one.step"
          :digits="one.digits"
          :refused="refused(one.field)"
          @change="(v) => set({ [one.field]: v })"
        />
        {{ one.after }}
      </template>
      <template v-if="sheet.label.kind === 'wrap'">
        <template v-if="laid?.tapers"
          >,
          <select
            :value="sheet.label.developed ? 'ring' : 'straight'"
            aria-label="How it lies on a wall that narrows"
            data-test="developed"
            @change="(e) => set({ developed: (e.target as HTMLSelectElement).value === 'ring' })"
          >
            <option value="ring">cut as a piece of a ring</option>
            <option value="straight">as a rectangle</option>
          </select></template
        >, on the
        <select
          :value="sheet.label.part"
          aria-label="Part that it lies on"
          data-test="label-part"
          @change="(e) => set({ part: (e.target as HTMLSelectElement).value, from_base: 0 })"
        >
          <option v-for="part in ['body', ...parts]" :key="part" :value="part">{{ part }}</option></select
        >.
      </template>
      <template v-if="sheet.label.kind === 'picked'">
        It lies on the
        <select
          v-if="liesOn.length"
          :value="sheet.label.part"
          aria-label="Part that it lies on"
          data-test="picked-part"
          @change="(e) => $emit('moveTo', (e.target as HTMLSelectElement).value)"
        >
          <option v-for="part in liesOn" :key="part" :value="part">{{ part }}</option></select
        ><template v-else>{{ sheet.label.part }}</template
        >.
      </template>
    </p>
    <CutSentence v-if="sheet.label.kind !== 'sleeve'" :label="sheet.label" :refused="refused" :set="set" />
    <p v-if="bare !== null" class="hint">
      It is {{ showNumber(laid!.around!) }} mm around here: {{ showNumber(bare) }} mm stay bare at the back.
    </p>
    <p v-if="shrink" class="hint" data-test="sleeve-shrink">
      <template v-if="shrink.most[1] > 0"
        >It shrinks by {{ percent(shrink.most[1], 0) }} at {{ showNumber(shrink.most[0], 0) }} mm up the film, where it
        does most, and by {{ percent(shrink.least[1], 0) }} at {{ showNumber(shrink.least[0], 0) }} mm.</template
      >
      <template v-else>It is stretched by {{ percent(-shrink.least[1], 0) }} where it is widest.</template>
    </p>
    <p v-if="laid && !shrink" class="hint" data-test="label-stretch">
      Where it lies it is stretched by {{ percent(laid.mean, 2) }} on average, {{ percent(laid.worst, 2) }} at the most.
    </p>
    <div v-if="sheet.label.kind === 'picked'" class="buttons">
      <Button size="small" data-test="move-label" @click="$emit('pick', 'move')">{{
        picking === 'move' ? 'Click on the pack where its middle goes' : 'Move it …'
      }}</Button>
      <Button size="small" data-test="lasso-label" @click="$emit('pick', 'loop')">{{
        picking === 'loop' ? 'Draw around its place on the pack' : 'Cut it to a loop …'
      }}</Button>
    </div>
  </template>
</template>
