<script setup lang="ts">
import { Button } from 'ant-design-vue'

import type { Camera, Plan, Shot } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'

defineProps<{ shot: Shot; camera: Camera; fit: Plan['fit'] | null }>()
const emit = defineEmits<{
  /** A change that leaves the framing as it is: lens and direction. */
  look: [change: (camera: Camera) => void]
  /** A change by hand: the camera stays where it is put from now on. */
  stand: [change: (camera: Camera) => void]
  expose: [stops: number]
  fit: []
}>()
</script>

<template>
  <h2>Camera</h2>
  <p v-if="fit === 'cropped' || fit === 'small'" class="caution" role="status" data-test="fit-says">
    {{ fit === 'cropped' ? 'What stands is cropped by the picture.' : 'What stands is lost in the picture.' }}
    <Button size="small" type="primary" data-test="fit" @click="emit('fit')">Fit it</Button>
  </p>
  <p class="sentence">
    An
    <QuantityInput
      label="Lens"
      unit="mm"
      :value="camera.lens_mm"
      :min="8"
      :max="1200"
      :step="5"
      @change="(v) => emit('look', (c) => (c.lens_mm = v))"
    />
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
