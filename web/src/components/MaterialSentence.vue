<script setup lang="ts">
import { inject, type Ref } from 'vue'

import type { Made, Material, StartingMaterials } from '@/api/client'
import ColourInput from './ColourInput.vue'
import QuantityInput from './QuantityInput.vue'

const props = defineProps<{ material: Made; kinds: Material['kind'][]; label: string }>()
const emit = defineEmits<{ change: [material: Material] }>()

const WORDS: Record<Material['kind'], string> = { clear: 'clear', cloudy: 'cloudy', opaque: 'opaque', metal: 'metal' }
/** What each kind begins as, and the metals there are, by the core. */
const starting = inject<Ref<StartingMaterials | null>>('materials')!
/** The same material with one thing changed. */
function set(change: object): void {
  emit('change', { ...props.material, ...change } as Material)
}
const chosen = (event: Event) => (event.target as HTMLSelectElement).value
/** Another kind, keeping the colour where both have one. */
function turnInto(kind: Material['kind']): void {
  if (!starting.value) return
  const made = { ...starting.value[kind] } as Material
  if ('colour' in made && 'colour' in props.material) made.colour = props.material.colour
  emit('change', made)
}
</script>

<template>
  <template v-if="material.kind === 'linked'">whatever the palette has as “{{ material.entry }}”, or else </template>
  <select
    class="kind"
    :value="material.kind"
    :aria-label="`${label}: what kind`"
    @change="turnInto(chosen($event) as Material['kind'])"
  >
    <option v-if="material.kind === 'linked'" value="linked" disabled>of its own</option>
    <option v-for="kind in kinds" :key="kind" :value="kind">{{ WORDS[kind] }}</option>
  </select>
  {{ ' ' }}
  <template v-if="material.kind === 'clear'">
    coloured
    <ColourInput :label="`${label} colour`" :value="material.colour" @change="(v) => set({ colour: v })" /> through
    <QuantityInput
      :label="`${label} colour depth`"
      unit="mm"
      :value="material.depth"
      :min="0.1"
      :max="5000"
      :step="5"
      @change="(v) => set({ depth: v })"
    />,
    <QuantityInput
      :label="`${label} frost`"
      unit="%"
      :value="material.frost * 100"
      :min="0"
      :max="100"
      :step="5"
      :digits="0"
      @change="(v) => set({ frost: v / 100 })"
    />
    frosted.
  </template>
  <template v-else-if="material.kind === 'opaque'">
    in <ColourInput :label="`${label} colour`" :value="material.colour" @change="(v) => set({ colour: v })" />,
    <QuantityInput
      :label="`${label} gloss`"
      unit="%"
      :value="material.gloss * 100"
      :min="0"
      :max="100"
      :step="5"
      :digits="0"
      @change="(v) => set({ gloss: v / 100 })"
    />
    gloss.
  </template>
  <template v-else-if="material.kind === 'metal'">
    <select
      class="kind"
      :value="material.metal"
      :aria-label="`${label}: which metal`"
      @change="set({ metal: chosen($event) })"
    >
      <option v-for="metal in starting?.metals" :key="metal" :value="metal">{{ metal }}</option>
    </select>
    tinted <ColourInput :label="`${label} tint`" :value="material.tint" @change="(v) => set({ tint: v })" />,
    <QuantityInput
      :label="`${label} gloss`"
      unit="%"
      :value="material.gloss * 100"
      :min="0"
      :max="100"
      :step="5"
      :digits="0"
      @change="(v) => set({ gloss: v / 100 })"
    />
    gloss.
  </template>
  <template v-else-if="material.kind === 'cloudy'">
    in <ColourInput :label="`${label} colour`" :value="material.colour" @change="(v) => set({ colour: v })" />, light
    wandering
    <QuantityInput
      :label="`${label} wander`"
      unit="mm"
      :value="material.wander"
      :min="0.02"
      :max="50"
      :step="0.1"
      :digits="2"
      @change="(v) => set({ wander: v })"
    />
    in it,
    <QuantityInput
      :label="`${label} gloss`"
      unit="%"
      :value="material.gloss * 100"
      :min="0"
      :max="100"
      :step="5"
      :digits="0"
      @change="(v) => set({ gloss: v / 100 })"
    />
    gloss.
  </template>
  <template v-if="material.kind !== 'linked'">
    It weighs
    <QuantityInput
      :label="`${label} density`"
      unit="g/cm³"
      :value="material.density"
      :min="0.01"
      :max="25"
      :step="0.05"
      :digits="3"
      @change="(v) => set({ density: v })"
    />.
  </template>
</template>

<style scoped>
.kind {
  border: 0;
  border-bottom: 1.5px solid var(--kraft);
  background: #fffdf8;
  font: inherit;
  font-size: 13px;
  height: 22px;
  padding: 0 2px;
  color: var(--ink);
}
</style>
