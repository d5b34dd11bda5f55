<script setup lang="ts">
import { computed } from 'vue'

import type { Contents, Facts, Pack, VesselPack } from '@/api/client'
import { clear, opaque } from '@/composables/made'
import MaterialSentence from '@/components/MaterialSentence.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { kindsOf } from './materials'

const props = defineProps<{
  pack: VesselPack
  facts: Facts | null
  edit: (change: (document: VesselPack) => void) => void
}>()

const KINDS: { kind: Contents['kind']; title: string; material: Contents['material']; relief: number }[] = [
  {
    kind: 'liquid',
    title: 'a liquid',
    relief: 4,
    material: clear({ refractive_index: 1.35, colour: '#e7a13c', depth: 60, density: 1 }),
  },
  {
    kind: 'gel',
    title: 'a gel',
    relief: 1,
    material: clear({ refractive_index: 1.34, colour: '#cfe3c4', depth: 60, density: 1.01 }),
  },
  {
    kind: 'cream',
    title: 'a cream',
    relief: 5,
    material: { kind: 'cloudy', colour: '#f1e3c4', wander: 0.4, gloss: 0.5, refractive_index: 1.45, density: 0.95 },
  },
  {
    kind: 'powder',
    title: 'a powder',
    relief: 4,
    material: opaque({ colour: '#f2e9e4', gloss: 0.05, density: 1.2 }),
  },
]
const contents = computed(() => props.pack.form.contents)
const chosen = (event: Event) => (event.target as HTMLSelectElement).value

function choose(kind: string): void {
  if (kind === 'none') return props.edit((d) => (d.form.contents = null))
  const made = KINDS.find((k) => k.kind === kind)!
  const facts = props.facts
  const middle = ((facts?.floor_height ?? 5) + (facts?.rim_height ?? 100)) / 2
  const level = props.pack.form.contents?.fill_height ?? facts?.nominal_fill_height ?? middle
  props.edit((d) => {
    const material =
      d.form.contents && d.form.contents.material.kind === made.material.kind ? d.form.contents.material : made.material
    d.form.contents = { kind: made.kind, fill_height: Number(level.toFixed(2)), relief: made.relief, material }
  })
}
</script>

<template>
  <p class="row">
    <span>Filled with</span>
    <select aria-label="Contents: what kind" :value="contents?.kind ?? 'none'" @change="choose(chosen($event))">
      <option value="none">nothing</option>
      <option v-for="k in KINDS" :key="k.kind" :value="k.kind">{{ k.title }}</option>
    </select>
  </p>
  <template v-if="contents">
    <p v-if="contents.kind === 'cream' || contents.kind === 'powder'" class="row">
      <span>{{ contents.kind === 'cream' ? 'Its swirl stands up' : 'It is heaped up' }}</span>
      <QuantityInput
        label="Relief of the top"
        unit="mm"
        :value="contents.relief"
        :min="0"
        :max="40"
        :step="0.5"
        @change="(v) => edit((d) => d.form.contents && (d.form.contents.relief = v))"
      />
    </p>
    <p class="sentence">
      It is
      <MaterialSentence
        label="Contents"
        :material="contents.material"
        :kinds="kindsOf(pack as Pack, 'contents')"
        @change="(m) => edit((d) => d.form.contents && (d.form.contents.material = m as Contents['material']))"
      />
    </p>
  </template>
</template>

<style scoped>
.row {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 8px;
  margin: 4px 0;
  font-size: 13px;
}
select {
  max-width: 160px;
}
</style>
