<script setup lang="ts">
import { Button, Checkbox, Segmented, Select } from 'ant-design-vue'

import { ref } from 'vue'

import type { Camera, Plan, Shot } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import { showNumber } from '@/composables/quantity'
import { keepingCrop } from './views'

/** `sharp` is what is sharp; `focusing`: whether the hand says what is to be; `everything`: seen sharp for now. */
const props = defineProps<{
  shot: Shot
  camera: Camera
  fit: Plan['fit'] | null
  sharp: Plan['sharp'] | null
  focusing: boolean
  everything: boolean
}>()
const emit = defineEmits<{
  /** A change that leaves the framing as it is: lens and direction. */
  look: [change: (camera: Camera) => void]
  /** A change by hand: the camera stays where it is put from now on. */
  stand: [change: (camera: Camera) => void]
  expose: [stops: number]
  fit: []
  focusing: [on: boolean]
  everything: [on: boolean]
}>()

const OPEN = 8
const STOPS = [1.4, 2, 2.8, 4, 5.6, 8, 11, 16, 22, 32]
const BLADES = [
  { value: 0, label: 'a round diaphragm' },
  ...[5, 6, 7, 8, 9].map((value) => ({ value, label: `${value} blades` })),
]
/** Whether another lens takes in the same, from elsewhere, or looks from the same place. */
const keeps = ref<string | number>('crop')
const KEEPS = [
  { value: 'crop', label: 'keeps the crop' },
  { value: 'place', label: 'keeps its place' },
]
function takeLens(lens: number): void {
  if (props.shot.framed_by_hand && keeps.value === 'crop') emit('stand', (c) => Object.assign(c, keepingCrop(c, lens)))
  else emit('look', (c) => (c.lens_mm = lens))
}
const KINDS = [
  { value: 'perspective', label: 'through a lens' },
  { value: 'orthographic', label: 'in parallel, as drawn' },
]
/** One whole stop further open or shut. */
function stopped(from: number, by: number): number {
  const at = STOPS.findIndex((stop) => stop >= from - 0.01)
  return STOPS[Math.min(Math.max((at < 0 ? STOPS.length - 1 : at) + by, 0), STOPS.length - 1)]!
}
</script>

<template>
  <h2>Camera</h2>
  <p v-if="fit === 'cropped' || fit === 'small'" class="caution" role="status" data-test="fit-says">
    {{ fit === 'cropped' ? 'What stands is cropped by the picture.' : 'What stands is lost in the picture.' }}
    <Button size="small" type="primary" data-test="fit" @click="emit('fit')">Fit it</Button>
  </p>
  <p class="sentence">
    An
    <QuantityInput label="Lens" unit="mm" :value="camera.lens_mm" :min="8" :max="1200" :step="5" @change="takeLens" />
    lens
    <QuantityInput
      label="Camera distance"
      unit="mm"
      :value="camera.distance"
      :min="50"
      :max="5000"
      :step="20"
      :digits="0"
      @change="(v) => emit('stand', (c) => (c.distance = v))"
    />
    away and
    <QuantityInput
      label="Camera height"
      unit="mm"
      :value="camera.height"
      :min="-2000"
      :max="5000"
      :step="10"
      @change="(v) => emit('stand', (c) => (c.height = v))"
    />
    up, turned
    <QuantityInput
      label="Camera turn"
      unit="°"
      :value="camera.azimuth"
      :min="-360"
      :max="360"
      :step="5"
      @change="(v) => emit('look', (c) => (c.azimuth = v))"
    />
    to the right, aimed
    <QuantityInput
      label="Aim height"
      unit="mm"
      :value="camera.aim_height"
      :min="-2000"
      :max="5000"
      :step="5"
      @change="(v) => emit('stand', (c) => (c.aim_height = v))"
    />
    above the table.
  </p>
  <p class="sentence" data-test="sharpness">
    <template v-if="camera.f_number == null">
      Everything is sharp.
      <Button size="small" data-test="open-lens" @click="emit('look', (c) => (c.f_number = OPEN))"
        >Open the lens</Button
      >
    </template>
    <template v-else>
      At f/
      <QuantityInput
        label="f-number"
        unit=""
        :value="camera.f_number"
        :min="0.7"
        :max="128"
        :step="1"
        @change="(v) => emit('look', (c) => (c.f_number = v))"
      />
      <Button
        size="small"
        aria-label="One stop further open"
        @click="emit('look', (c) => (c.f_number = stopped(c.f_number!, -1)))"
        >◯</Button
      >
      <Button
        size="small"
        aria-label="One stop further shut"
        @click="emit('look', (c) => (c.f_number = stopped(c.f_number!, 1)))"
        >•</Button
      >
      <template v-if="sharp">
        it is sharp from <b data-test="sharp-from">{{ showNumber(sharp.near, 0) }}</b> to
        <b data-test="sharp-to">{{ sharp.far == null ? 'the end' : `${showNumber(sharp.far, 0)} mm` }}</b>, most at
        {{ showNumber(sharp.focus, 0) }} mm.
      </template>
      <Button
        size="small"
        :type="focusing ? 'primary' : 'default'"
        :aria-pressed="focusing"
        data-test="focus"
        @click="emit('focusing', !focusing)"
        >{{ focusing ? 'Point at what is to be sharp …' : 'Focus by pointing' }}</Button
      >
      <Button size="small" data-test="shut-lens" @click="emit('look', (c) => (c.f_number = null))"
        >Everything sharp</Button
      >
      <Checkbox :checked="everything" data-test="everything" @change="emit('everything', !everything)"
        >See it all sharp while working</Checkbox
      >
    </template>
  </p>
  <details>
    <summary>Lens, verticals, shift and diaphragm</summary>
    <p class="sentence">
      It looks
      <Select
        size="small"
        aria-label="Projection"
        :value="camera.projection ?? 'perspective'"
        :options="KINDS"
        :dropdown-match-select-width="false"
        data-test="projection"
        @change="(v) => emit('look', (c) => (c.projection = v as Camera['projection']))"
      /><template v-if="camera.projection === 'orthographic' && shot.framed_by_hand"
        >, taking in
        <QuantityInput
          label="Width of what is taken in"
          unit="mm"
          :value="camera.orthographic_width ?? 200"
          :min="1"
          :max="5000"
          :step="10"
          @change="(v) => emit('stand', (c) => (c.orthographic_width = v))" /></template
      >.
      <template v-if="shot.framed_by_hand && camera.projection !== 'orthographic'">
        Another lens <Segmented v-model:value="keeps" size="small" :options="KEEPS" data-test="lens-keeps" />
      </template>
    </p>
    <p class="sentence">
      <Checkbox :checked="camera.upright" data-test="upright" @change="emit('look', (c) => (c.upright = !c.upright))"
        >What is upright stays upright</Checkbox
      >
      The frame is moved
      <QuantityInput
        label="Rise"
        unit="mm"
        :value="camera.rise_mm ?? 0"
        :min="-50"
        :max="50"
        :step="0.5"
        @change="(v) => emit('look', (c) => (c.rise_mm = v))"
      />
      up and
      <QuantityInput
        label="Shift"
        unit="mm"
        :value="camera.shift_mm ?? 0"
        :min="-50"
        :max="50"
        :step="0.5"
        @change="(v) => emit('look', (c) => (c.shift_mm = v))"
      />
      to the right, rolled
      <QuantityInput
        label="Roll"
        unit="°"
        :value="camera.roll ?? 0"
        :min="-360"
        :max="360"
        :step="1"
        @change="(v) => emit('look', (c) => (c.roll = v))"
      />
      to the right. What is not sharp has the shape of
      <Select
        size="small"
        aria-label="Diaphragm"
        :value="camera.blades ?? 0"
        :options="BLADES"
        :dropdown-match-select-width="false"
        @change="(v) => emit('look', (c) => (c.blades = Number(v) || null))"
      />.
    </p>
  </details>
  <p class="sentence">
    <template v-if="!shot.framed_by_hand">It frames what stands by itself.</template>
    <template v-else
      >Framed by hand.
      <Button v-if="fit === 'fits'" size="small" data-test="follow" @click="emit('fit')"
        >Let it follow</Button
      ></template
    >
    Exposed by
    <QuantityInput
      label="Exposure"
      unit="stops"
      :value="shot.grade.exposure_ev"
      :min="-10"
      :max="10"
      :step="0.25"
      :digits="2"
      @change="(v) => emit('expose', v)"
    />.
  </p>
</template>
