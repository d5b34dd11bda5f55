<script setup lang="ts">
import { Select } from 'ant-design-vue'
import { computed } from 'vue'

import type { Light } from '@/api/client'
import ColourInput from '@/components/ColourInput.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { useJob } from '@/stores/job'

/** Of what colour a light is, and how its face fades. */
const props = defineProps<{ light: Light }>()
const emit = defineEmits<{ change: [change: (light: Light) => void] }>()

type Falloff = Extract<Light, { kind: 'softbox' }>['across']
const job = useJob()
const NEUTRAL_K = 6500
const colours = [
  { value: 'neutral', label: 'neutral' },
  { value: 'warmth', label: 'of a temperature' },
  { value: 'gel', label: 'behind a gel' },
]
const colour = computed(() =>
  props.light.kind === 'card' ? '' : props.light.gel ? 'gel' : props.light.temperature_k ? 'warmth' : 'neutral',
)
function colourBy(how: string): void {
  emit('change', (l) =>
    Object.assign(l, { temperature_k: how === 'warmth' ? NEUTRAL_K : null, gel: how === 'gel' ? '#f2b36b' : null }),
  )
}
const TOWARDS: Record<'across' | 'up', { value: Falloff['towards']; label: string }[]> = {
  across: [
    { value: 'start', label: 'its left' },
    { value: 'end', label: 'its right' },
    { value: 'edges', label: 'both sides' },
    { value: 'middle', label: 'its middle' },
  ],
  up: [
    { value: 'start', label: 'its foot' },
    { value: 'end', label: 'its top' },
    { value: 'edges', label: 'foot and top' },
    { value: 'middle', label: 'its middle' },
  ],
}
const CURVES = [
  { value: 0.5, label: 'early' },
  { value: 1, label: 'evenly' },
  { value: 2, label: 'late' },
  { value: 4, label: 'at the very end' },
]
function fade(name: 'across' | 'up', change: Partial<Falloff>): void {
  emit('change', (l) => l.kind === 'softbox' && Object.assign(l[name], change))
}
const nearest = (curve: number) =>
  CURVES.reduce((a, b) => (Math.abs(Math.log(b.value / curve)) < Math.abs(Math.log(a.value / curve)) ? b : a)).value
const pictures = computed(() => [
  { value: '', label: 'nothing' },
  ...job.artwork.map((one) => ({ value: one.sha256, label: one.filename })),
])
</script>

<template>
  <p v-if="light.kind === 'card'" class="sentence">
    It is
    <ColourInput
      label="Card colour"
      :value="light.colour"
      @change="(v) => emit('change', (l) => Object.assign(l, { colour: v }))"
    />: white gives back light, black takes it.
  </p>
  <p v-else class="sentence">
    Its light is
    <Select
      size="small"
      aria-label="Colour of the light"
      :value="colour"
      :options="colours"
      :dropdown-match-select-width="false"
      data-test="light-colour"
      @change="(v) => colourBy(String(v))"
    />
    <QuantityInput
      v-if="light.temperature_k"
      label="Temperature"
      unit="K"
      :value="light.temperature_k"
      :min="1667"
      :max="25000"
      :step="100"
      :digits="0"
      @change="(v) => emit('change', (l) => Object.assign(l, { temperature_k: v }))"
    />
    <ColourInput
      v-if="light.gel"
      label="Gel"
      :value="light.gel"
      @change="(v) => emit('change', (l) => Object.assign(l, { gel: v }))"
    />.
  </p>
  <template v-if="light.kind === 'softbox'">
    <p v-for="way in ['across', 'up'] as const" :key="way" class="sentence">
      It fades by
      <QuantityInput
        :label="way === 'across' ? 'Fade across' : 'Fade upwards'"
        unit="%"
        :value="light[way].by * 100"
        :min="0"
        :max="100"
        :step="10"
        :digits="0"
        @change="(v) => fade(way, { by: v / 100 })"
      />
      towards
      <Select
        size="small"
        :aria-label="way === 'across' ? 'Fades towards which side' : 'Fades towards which end'"
        :value="light[way].towards"
        :options="TOWARDS[way]"
        :dropdown-match-select-width="false"
        @change="(v) => fade(way, { towards: v as Falloff['towards'] })"
      />,
      <Select
        size="small"
        :aria-label="way === 'across' ? 'How it fades across' : 'How it fades upwards'"
        :value="nearest(light[way].curve)"
        :options="CURVES"
        :dropdown-match-select-width="false"
        @change="(v) => fade(way, { curve: Number(v) })"
      />.
    </p>
    <p class="sentence">
      A dark frame of
      <QuantityInput
        label="Dark frame"
        unit="mm"
        :value="light.frame"
        :min="0"
        :max="2000"
        :step="5"
        @change="(v) => emit('change', (l) => Object.assign(l, { frame: v }))"
      />
      is around it; on its face is
      <Select
        size="small"
        aria-label="Picture on the light"
        :value="light.picture ?? ''"
        :options="pictures"
        :dropdown-match-select-width="false"
        data-test="light-picture"
        @change="(v) => emit('change', (l) => Object.assign(l, { picture: v || null }))"
      />.
    </p>
  </template>
  <p v-if="light.kind === 'window'" class="sentence">
    <QuantityInput
      label="Panes across"
      unit=""
      :value="light.columns"
      :min="1"
      :max="20"
      :digits="0"
      @change="(v) => emit('change', (l) => Object.assign(l, { columns: Math.round(v) }))"
    />
    ×
    <QuantityInput
      label="Panes upwards"
      unit=""
      :value="light.rows"
      :min="1"
      :max="20"
      :digits="0"
      @change="(v) => emit('change', (l) => Object.assign(l, { rows: Math.round(v) }))"
    />
    panes between bars of
    <QuantityInput
      label="Bars"
      unit="mm"
      :value="light.bar"
      :min="0"
      :max="1000"
      :step="5"
      @change="(v) => emit('change', (l) => Object.assign(l, { bar: v }))"
    />.
  </p>
</template>
