<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'

import type { Carton, CartonPack, FlatBlank } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'

/** The windows of one panel of a carton, and cutting another. */
const props = defineProps<{
  pack: CartonPack
  panel: FlatBlank['panels'][number]
  /** What windows call the panel. */
  name: string
  badPlace: string
  edit: (change: (document: CartonPack) => void) => void
}>()

type Window = NonNullable<Carton['windows']>[number]
const SHARE = 0.5
const FILM = { kind: 'clear', refractive_index: 1.46, colour: '#ffffff', depth: 5, frost: 0, density: 1.3 } as const
const FIELDS = [
  { field: 'across', words: 'wide', min: 2 },
  { field: 'high', words: 'high', min: 2 },
  { field: 'x', words: 'to the right', min: -2000 },
  { field: 'y', words: 'up from the middle', min: -2000 },
] as const
const own = computed(() =>
  (props.pack.form.windows ?? []).flatMap((window, index) => (window.panel === props.name ? [{ window, index }] : [])),
)
function cut(): void {
  const span = (k: 0 | 1) => {
    const values = props.panel.outline.map((point) => point[k]!)
    return Math.max(Math.round(SHARE * (Math.max(...values) - Math.min(...values))), 2)
  }
  const fresh: Window = {
    panel: props.name,
    x: 0,
    y: 0,
    across: span(0),
    high: span(1),
    rounding: 0.2,
    film: { ...FILM },
  }
  props.edit((d) => (d.form.windows = [...(d.form.windows ?? []), fresh]))
}
const set = (index: number, change: Partial<Window>) =>
  props.edit((d) => Object.assign(d.form.windows![index]!, change))
</script>

<template>
  <p v-for="({ window, index }, number) in own" :key="index" class="sentence">
    A window
    <template v-for="one in FIELDS" :key="one.field">
      <QuantityInput
        :label="`Window ${number + 1} ${one.words}`"
        unit="mm"
        :value="window[one.field] ?? 0"
        :min="one.min"
        :max="2000"
        :refused="badPlace.startsWith(`windows.${index}`)"
        @change="(v) => set(index, { [one.field]: v })"
      />
      {{ one.words }},
    </template>
    its corners
    <QuantityInput
      :label="`Window ${number + 1} rounding`"
      unit="%"
      :value="(window.rounding ?? 0) * 100"
      :min="0"
      :max="100"
      :step="10"
      :digits="0"
      @change="(v) => set(index, { rounding: v / 100 })"
    />
    round,
    <label
      ><input
        type="checkbox"
        :checked="Boolean(window.film)"
        @change="set(index, { film: window.film ? null : { ...FILM } })"
      />
      with film behind</label
    >.
    <Button size="small" @click="edit((d) => d.form.windows!.splice(index, 1))">Close it</Button>
  </p>
  <Button size="small" data-test="cut-window" @click="cut">Cut a window in it</Button>
</template>
