<script setup lang="ts">
import { computed } from 'vue'

import type { Artwork, Panel, Placement } from '@/api/client'
import { showNumber } from '@/composables/quantity'
import { aspectOf } from './laying'
import type { Spot } from './pointing'

/** What is read off at Wrap: sizes, resolution, where the hand is, and how long the tape is. */
const props = defineProps<{
  panel: Panel
  placement: Placement | undefined
  file: Artwork | undefined
  /** mm. */
  tape: number | null
  pointed: Spot | null
  /** What a label that is dragged was drawn to. */
  drawnTo: string[]
}>()

const MM_PER_INCH = 25.4
const LEAST_PPI = 250
/** Share of an artwork's width that is left. */
const kept = (crop: Placement['crop']) => (crop ? 1 - crop.left - crop.right : 1)
const ppi = computed(() => {
  const { file, placement } = props
  if (!file?.width_px || !placement) return null
  return ((file.width_px * kept(placement.crop)) / placement.width) * MM_PER_INCH
})
</script>

<template>
  <span
    >Panel <b>{{ showNumber(panel.width) }} × {{ showNumber(panel.height) }} mm</b></span
  >
  <template v-if="placement">
    <span
      >Artwork
      <b>{{ showNumber(placement.width) }} × {{ showNumber(placement.width / aspectOf(placement, file)) }} mm</b></span
    >
    <span
      >Resolution <b>{{ ppi ? `${Math.round(ppi)} ppi` : 'outlines' }}</b></span
    >
  </template>
  <span v-if="tape !== null" data-test="tape"
    >Tape <b>{{ showNumber(tape, 2) }} mm</b></span
  >
  <span v-else-if="pointed" data-test="pointed"
    >At <b>{{ showNumber(pointed.x) }}, {{ showNumber(pointed.y) }} mm</b></span
  >
  <span v-if="drawnTo.length">to {{ drawnTo.join(' and ') }}</span>
  <span v-if="ppi && ppi < LEAST_PPI" class="caution">below {{ LEAST_PPI }} ppi: it will look soft in print</span>
</template>
