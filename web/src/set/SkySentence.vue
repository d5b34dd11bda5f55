<script setup lang="ts">
import { Checkbox, Slider } from 'ant-design-vue'

import type { Surround } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'

/** The place, the day and the hour of a sky, and how clear it is. */
type Sky = Extract<Surround, { kind: 'sky' }>
defineProps<{ sky: Sky }>()
const emit = defineEmits<{ put: [fields: Partial<Sky>] }>()
const put = (fields: Partial<Sky>) => emit('put', fields)
</script>

<template>
  <p class="sentence">
    It is the sky at
    <QuantityInput
      label="Latitude"
      unit="°"
      :value="sky.latitude ?? 0"
      :min="-90"
      :max="90"
      @change="(v) => put({ latitude: v })"
    />
    north,
    <QuantityInput
      label="Longitude"
      unit="°"
      :value="sky.longitude ?? 0"
      :min="-180"
      :max="180"
      @change="(v) => put({ longitude: v })"
    />
    east, on
    <input
      type="date"
      aria-label="Day"
      :value="sky.day"
      data-test="sky-day"
      @change="(e) => (e.target as HTMLInputElement).value && put({ day: (e.target as HTMLInputElement).value })"
    />
    at
    <QuantityInput
      label="Hour"
      unit="h"
      :value="sky.hour ?? 12"
      :min="0"
      :max="24"
      :step="0.5"
      :digits="2"
      @change="(v) => put({ hour: v })"
    />, the clock
    <QuantityInput
      label="Ahead of universal time"
      unit="h"
      :value="sky.zone ?? 0"
      :min="-12"
      :max="14"
      @change="(v) => put({ zone: v })"
    />
    ahead of universal time.
  </p>
  <Slider
    :value="sky.hour ?? 12"
    :min="0"
    :max="24"
    :step="0.1"
    :tooltip-open="false"
    aria-label-for-handle="Hour of the day"
    @change="(v) => put({ hour: Number(v) })"
  />
  <p class="sentence">
    Its haze is
    <QuantityInput
      label="Haze"
      unit=""
      :value="sky.haze ?? 3"
      :min="2"
      :max="10"
      :step="0.5"
      @change="(v) => put({ haze: v })"
    />
    (2 is the clearest air, 10 a white sky).
    <Checkbox :checked="sky.sun ?? true" data-test="sky-sun" @change="put({ sun: !(sky.sun ?? true) })"
      >The sun is there</Checkbox
    >
  </p>
</template>
