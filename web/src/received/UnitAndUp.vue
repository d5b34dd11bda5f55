<script setup lang="ts">
import type { Received } from '@/api/client'
import { showNumber } from '@/composables/quantity'
import { UNITS, UPS } from './words'

/** The unit of a model's file, and which of its axes points up. */
defineProps<{ model: Received }>()
const emit = defineEmits<{ unit: [mm: number]; up: [axis: Received['up']] }>()
const chosen = (event: Event) => (event.target as HTMLSelectElement).value
</script>

<template>
  <select
    :value="model.unit_mm"
    aria-label="Unit of the file"
    data-test="model-unit"
    @change="emit('unit', Number(chosen($event)))"
  >
    <option v-for="[words, mm] in UNITS" :key="words" :value="mm">a {{ words }}</option>
    <option v-if="!UNITS.some(([, mm]) => mm === model.unit_mm)" :value="model.unit_mm">
      {{ showNumber(model.unit_mm) }} mm
    </option></select
  >, its
  <select
    :value="model.up"
    aria-label="Axis of the file that points up"
    data-test="model-up"
    @change="emit('up', chosen($event) as Received['up'])"
  >
    <option v-for="up in UPS" :key="up" :value="up">{{ up }}</option>
  </select>
  <span>points up</span>
</template>
