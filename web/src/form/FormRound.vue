<script setup lang="ts">
import { Button } from 'ant-design-vue'
import type * as THREE from 'three'
import { ref } from 'vue'

import type { AnyShape, Pack } from '@/api/client'
import type { Offer } from '@/composables/materialInHand'
import { usePalette } from '@/composables/palette'
import type { Lit } from '@/round/packInTheRound'
import RoundView from '@/round/RoundView.vue'
import { useJob } from '@/stores/job'
import { useBenchProof } from '@/stores/proof'
import { faceOf } from './materials'
import { answerTo, takeOffer } from './offers'
import { panelAt } from './panels'

/** What is formed in the round: drawn while the hand moves, in real light when it rests, or turning. */
defineProps<{
  shape: AnyShape
  pictures: THREE.Texture[]
  label: string
  /** A place on a part's print that is lit up, its outline 0 to 1. */
  lit?: Lit | null
}>()
defineEmits<{ pick: [part: string, on: [number, number] | null] }>()

const { view, proof } = useBenchProof()
const job = useJob()
const palette = usePalette()
/** A material that is carried over the pack: said what it would do, and done once it is let go. */
function offered(met: string, offer: Offer, taken: boolean, on: [number, number] | null): void {
  const draft = job.pack
  if (!draft) return
  const pack = draft.document as Pack
  const panel = panelAt(job.shape, met, on)
  const part = panel ? faceOf(panel.key) : met
  const chosen = answerTo(offer, pack, job.shape?.parts ?? [], part)
  if (taken && chosen) takeOffer(offer, pack, part, chosen, palette, (change) => draft.edit(change))
}
const turning = ref(false)
</script>

<template>
  <RoundView
    :shape="shape"
    :pictures="pictures"
    :turning="turning"
    :label="label"
    :lit="lit ?? null"
    :proof="proof?.address ?? null"
    @rest="view = $event"
    @held="turning = false"
    @offer="offered"
    @pick="(part, _, on) => $emit('pick', part, on)"
  />
  <Button class="turn" size="small" @click="turning = !turning">{{ turning ? 'Hold still' : 'Turn it' }}</Button>
</template>

<style scoped>
.turn {
  position: absolute;
  right: 12px;
  bottom: 12px;
}
</style>
