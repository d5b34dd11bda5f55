<script setup lang="ts">
import { Checkbox, Slider } from 'ant-design-vue'
import { computed } from 'vue'

import type { PhotoSet, Softbox } from '@/api/client'
import ColourInput from '@/components/ColourInput.vue'
import QuantityInput from '@/components/QuantityInput.vue'

/** `shown` is the set as it has grown or shrunk with what stands. */
const props = defineProps<{ set: PhotoSet; shown: PhotoSet; selected: number }>()
const emit = defineEmits<{
  select: [index: number]
  edit: [change: (document: PhotoSet) => void]
  /** A change by hand: sweep and lights keep their places and sizes from now on. */
  arrange: [change: (document: PhotoSet) => void]
  follow: []
}>()

const PARTS: { value: Softbox['untouched'][number]; label: string }[] = [
  { value: 'sweep', label: 'the sweep' },
  { value: 'body', label: 'the glass' },
  { value: 'contents', label: 'the contents' },
  { value: 'closure', label: 'the closure' },
  { value: 'labels', label: 'the labels' },
]
const lights = computed(() => props.shown.lights)
const light = (index: number, change: (light: Softbox) => void) => emit('edit', (d) => change(d.lights[index]!))
const place = (index: number, change: (light: Softbox) => void) => emit('arrange', (d) => change(d.lights[index]!))
/** Power is said for the size that is shown. */
function power(index: number, watts: number): void {
  const [shown, own] = [lights.value[index]!, props.set.lights[index]!]
  const area = (l: Softbox) => l.width * l.height
  light(index, (l) => (l.power_w = Number(((watts * area(own)) / area(shown)).toFixed(4))))
}
/** Let the chosen light fall on a part, or not. */
function touch(part: Softbox['untouched'][number]): void {
  light(props.selected, (l) => {
    l.untouched = l.untouched.includes(part) ? l.untouched.filter((p) => p !== part) : [...l.untouched, part]
  })
}
</script>

<template>
  <h3>Lights</h3>
  <div
    v-for="(box, index) in lights"
    :key="index"
    class="light"
    :class="{ chosen: index === selected }"
    @focusin="emit('select', index)"
  >
    <div class="name">
      <Checkbox :checked="box.on" @change="light(index, (l) => (l.on = !l.on))">{{ box.name }}</Checkbox>
      <QuantityInput
        :label="`${box.name} strength`"
        unit="W"
        :value="box.power_w"
        :min="0"
        :max="10000"
        :step="0.5"
        :digits="2"
        @change="(v) => power(index, v)"
      />
    </div>
    <Slider
      :value="box.power_w"
      :min="0"
      :max="Math.max(30, box.power_w)"
      :step="0.1"
      :tooltip-open="false"
      :aria-label-for-handle="`${box.name} strength`"
      @change="(v) => power(index, Number(v))"
    />
  </div>
  <template v-if="lights[selected]">
    <details>
      <summary>{{ lights[selected]!.name }}: place and size</summary>
      <p class="sentence">
        A softbox
        <QuantityInput
          label="Light width"
          unit="mm"
          :value="lights[selected]!.width"
          :min="10"
          :max="4000"
          :step="50"
          :digits="0"
          @change="(v) => place(selected, (l) => (l.width = v))"
        />
        ×
        <QuantityInput
          label="Light height"
          unit="mm"
          :value="lights[selected]!.height"
          :min="10"
          :max="4000"
          :step="50"
          :digits="0"
          @change="(v) => place(selected, (l) => (l.height = v))"
        />,
        <QuantityInput
          label="Light distance"
          unit="mm"
          :value="lights[selected]!.distance"
          :min="50"
          :max="5000"
          :step="20"
          :digits="0"
          @change="(v) => place(selected, (l) => (l.distance = v))"
        />
        away,
        <QuantityInput
          label="Light turn"
          unit="°"
          :value="lights[selected]!.azimuth"
          :min="-360"
          :max="360"
          :step="5"
          @change="(v) => light(selected, (l) => (l.azimuth = v))"
        />
        to the right,
        <QuantityInput
          label="Light elevation"
          unit="°"
          :value="lights[selected]!.elevation"
          :min="-10"
          :max="90"
          :step="5"
          @change="(v) => light(selected, (l) => (l.elevation = v))"
        />
        up.
      </p>
      <Checkbox
        :checked="lights[selected]!.hidden_from_camera"
        @change="light(selected, (l) => (l.hidden_from_camera = !l.hidden_from_camera))"
        >The camera does not see it</Checkbox
      >
      <Checkbox
        :checked="lights[selected]!.hidden_from_reflections"
        @change="light(selected, (l) => (l.hidden_from_reflections = !l.hidden_from_reflections))"
        >Nothing reflects it</Checkbox
      >
      <fieldset class="untouched">
        <legend>It lights</legend>
        <Checkbox
          v-for="part in PARTS"
          :key="part.value"
          :checked="!lights[selected]!.untouched.includes(part.value)"
          @change="touch(part.value)"
          >{{ part.label }}</Checkbox
        >
      </fieldset>
    </details>
  </template>
  <h3>Surroundings</h3>
  <p class="sentence">
    The background is
    <ColourInput
      label="Background colour"
      :value="set.background"
      @change="(v) => emit('edit', (d) => (d.background = v))"
    />, the room around adds
    <QuantityInput
      label="Surround strength"
      unit="%"
      :value="set.surround.strength * 100"
      :min="0"
      :max="2000"
      :step="2"
      :digits="0"
      @change="(v) => emit('edit', (d) => (d.surround.strength = v / 100))"
    />
    of paper white.
  </p>
  <p class="sentence">
    <template v-if="set.scaled_for">Lights and sweep grow and shrink with what stands.</template>
    <Checkbox v-else :checked="false" data-test="lights-follow" @change="emit('follow')"
      >Lights and sweep grow and shrink with what stands</Checkbox
    >
  </p>
</template>

<style scoped>
.light {
  padding: 2px 0 0 8px;
  border-left: 3px solid transparent;
}
.light.chosen {
  border-color: var(--ribbon);
}
.name {
  display: flex;
  justify-content: space-between;
  align-items: center;
}
.light :deep(.ant-slider) {
  margin: 4px 6px 8px;
}
.untouched {
  border: 0;
  padding: 0;
  margin: 6px 0 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
}
.untouched legend {
  float: left;
  width: auto;
  margin: 0 10px 0 0;
  font: inherit;
  font-size: 14px;
}
</style>
