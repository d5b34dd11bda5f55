<script setup lang="ts">
import { computed } from 'vue'

import type { Layer } from '@/api/client'
import ColourInput from '@/components/ColourInput.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { METALS } from './run'

/** What a foil is made of, and how it is put on; `entries` are metals of the palette. */
const props = defineProps<{
  layer: Extract<Layer, { kind: 'foil' }>
  entries: string[]
  set: (change: object) => void
}>()

const PLAIN = { kind: 'metal', metal: 'gold', tint: '#ffffff', gloss: 0.85, density: 2.7 } as const
const LINKED = 'palette: '
const made = computed(() => props.layer.material)
const chosen = computed(() => (made.value.kind === 'metal' ? made.value.metal : `${LINKED}${made.value.entry}`))
function choose(value: string): void {
  if (value.startsWith(LINKED)) {
    props.set({ material: { kind: 'linked', entry: value.slice(LINKED.length) } })
    return
  }
  const metal = made.value.kind === 'metal' ? made.value : PLAIN
  props.set({ material: { ...metal, metal: value } })
}
</script>

<template>
  <select
    :value="chosen"
    :aria-label="`Metal of the ${layer.name}`"
    @change="(e) => choose((e.target as HTMLSelectElement).value)"
  >
    <option v-for="metal in METALS" :key="metal" :value="metal">{{ metal }}</option>
    <option v-for="entry in entries" :key="entry" :value="`${LINKED}${entry}`">“{{ entry }}” of the palette</option>
  </select>
  <template v-if="made.kind === 'metal'">
    tinted
    <ColourInput
      :label="`Tint of the ${layer.name}`"
      :value="made.tint"
      @change="(v) => set({ material: { ...made, tint: v } })"
    />,
    <QuantityInput
      :label="`Gloss of the ${layer.name}`"
      unit="%"
      :value="made.gloss * 100"
      :min="0"
      :max="100"
      :step="5"
      :digits="0"
      @change="(v) => set({ material: { ...made, gloss: v / 100 } })"
    />
    gloss,
  </template>
  <select
    :value="layer.holographic ? 'holographic' : 'plain'"
    :aria-label="`Face of the ${layer.name}`"
    :data-test="`holographic-${layer.name}`"
    @change="(e) => set({ holographic: (e.target as HTMLSelectElement).value === 'holographic' })"
  >
    <option value="plain">plain</option>
    <option value="holographic">holographic</option></select
  >,
  <select
    :value="layer.hot ? 'hot' : 'cold'"
    :aria-label="`How the ${layer.name} is put on`"
    @change="(e) => set({ hot: (e.target as HTMLSelectElement).value === 'hot' })"
  >
    <option value="hot">stamped hot</option>
    <option value="cold">glued on cold</option>
  </select>
</template>
