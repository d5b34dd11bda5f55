<script setup lang="ts">
import { Button } from 'ant-design-vue'
import type * as THREE from 'three'
import { ref } from 'vue'

import type { AnyShape } from '@/api/client'
import type { Lit } from '@/round/packInTheRound'
import RoundView from '@/round/RoundView.vue'
import { useBenchProof } from '@/stores/proof'

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
