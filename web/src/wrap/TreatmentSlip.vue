<script setup lang="ts">
import { computed } from 'vue'

import type { Artwork, Panel } from '@/api/client'
import ColourInput from '@/components/ColourInput.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { told } from './run'

/** What is done to a placed artwork, and which layers of the run it says the place of. */
const props = defineProps<{
  panel: Panel
  file: Artwork | undefined
  selected: number
  edit: (change: (panel: Panel) => void) => void
}>()
/** What of it can say where a layer is: its spot inks too. */
const channels = computed(() => ({
  shape: 'all of it',
  dark: 'what is dark',
  light: 'what is light',
  ...Object.fromEntries((props.file?.inks ?? []).map((ink) => [`ink:${ink}`, `its ink “${ink}”`])),
}))
const SIDES = ['left', 'right', 'top', 'bottom'] as const
const placement = computed(() => props.panel.placements[props.selected]!)
const layers = computed(() => told(props.panel))
const set = (change: object) => props.edit((p) => Object.assign(p.placements[props.selected]!, change))
function say(layer: string, channel: string): void {
  props.edit((p) => {
    const one = p.placements[props.selected]!
    const others = Object.entries(one.areas ?? {}).filter(([name]) => name !== layer)
    one.areas = Object.fromEntries([...others, ...(channel ? [[layer, channel] as const] : [])]) as typeof one.areas
  })
}
function show(layer: string, shown: boolean): void {
  const others = (placement.value.without ?? []).filter((name) => name !== layer)
  set({ without: shown ? others : [...others, layer] })
}
function cut(side: (typeof SIDES)[number], share: number): void {
  const crop = { left: 0, right: 0, top: 0, bottom: 0, ...placement.value.crop, [side]: share }
  set({ crop: SIDES.some((one) => crop[one]) ? crop : null })
}
const checked = (event: Event) => (event.target as HTMLInputElement).checked
</script>

<template>
  <p v-if="(file?.pages.length ?? 0) > 1" class="sentence">
    Page
    <QuantityInput
      label="Page of the artwork"
      :unit="`of ${file!.pages.length}`"
      :value="placement.page ?? 1"
      :min="1"
      :max="file!.pages.length"
      :digits="0"
      @change="(v) => set({ page: Math.round(v) })"
    />
  </p>
  <details v-if="file?.layers.length" data-test="slip-layers">
    <summary>Layers of the file</summary>
    <p v-for="layer in file.layers" :key="layer" class="sentence">
      <label
        ><input
          type="checkbox"
          :checked="!placement.without?.includes(layer)"
          @change="(e) => show(layer, checked(e))"
        />
        {{ layer }}</label
      >
    </p>
  </details>
  <p v-for="layer in layers" :key="layer.name" class="sentence">
    {{ layer.name }}:
    <select
      :value="placement.areas?.[layer.name] ?? ''"
      :aria-label="`What of it says where the ${layer.name} is`"
      :data-test="`area-${layer.name.toLowerCase().replaceAll(' ', '-')}`"
      @change="(e) => say(layer.name, (e.target as HTMLSelectElement).value)"
    >
      <option value="">not here</option>
      <option v-for="(words, channel) in channels" :key="channel" :value="channel">{{ words }}</option>
    </select>
  </p>
  <p v-if="layers.length" class="sentence">
    <label
      ><input
        type="checkbox"
        :checked="placement.printed ?? true"
        data-test="printed"
        @change="(e) => set({ printed: checked(e) })"
      />
      printed in ink as well</label
    >
  </p>
  <details data-test="slip-treatment">
    <summary>Turn, crop and colour</summary>
    <p class="sentence">
      Turned
      <QuantityInput
        label="Turn of the artwork"
        unit="°"
        :value="placement.turn ?? 0"
        :min="-360"
        :max="360"
        :step="15"
        @change="(v) => set({ turn: v })"
      />
      to the right.
    </p>
    <p class="sentence">
      White up to
      <QuantityInput
        label="White knocked out"
        unit="%"
        :value="(placement.knock_out ?? 0) * 100"
        :min="0"
        :max="100"
        :step="2"
        :digits="0"
        @change="(v) => set({ knock_out: v / 100 })"
      />
      off is knocked out.
    </p>
    <p class="sentence">
      <label
        ><input
          type="checkbox"
          :checked="Boolean(placement.colour)"
          data-test="one-colour"
          @change="(e) => set({ colour: checked(e) ? '#23262b' : null })"
        />
        in one colour</label
      >
      <ColourInput
        v-if="placement.colour"
        label="Colour of the artwork"
        :value="placement.colour"
        @change="(v) => set({ colour: v })"
      />
      <label
        ><input type="checkbox" :checked="placement.invert ?? false" @change="(e) => set({ invert: checked(e) })" />
        inverted</label
      >
    </p>
    <p class="sentence">
      Cut off
      <template v-for="(side, k) in SIDES" :key="side">
        <QuantityInput
          :label="`Cut off ${side}`"
          unit="%"
          :value="(placement.crop?.[side] ?? 0) * 100"
          :min="0"
          :max="98"
          :step="1"
          @change="(v) => cut(side, v / 100)"
        />
        {{ side }}{{ k < 3 ? ', ' : '.' }}
      </template>
    </p>
    <p class="sentence">
      <label
        ><input
          type="checkbox"
          :checked="placement.repeat !== null && placement.repeat !== undefined"
          data-test="repeat"
          @change="(e) => set({ repeat: checked(e) ? 2 : null })"
        />
        as a pattern all over</label
      >
      <template v-if="placement.repeat !== null && placement.repeat !== undefined"
        >,
        <QuantityInput
          label="Between copies"
          unit="mm"
          :value="placement.repeat"
          :min="0"
          :max="500"
          :digits="2"
          @change="(v) => set({ repeat: v })"
        />
        apart</template
      >
    </p>
  </details>
</template>
