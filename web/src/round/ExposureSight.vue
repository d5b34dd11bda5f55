<script setup lang="ts">
import { ref, watch } from 'vue'

import { over, type Share } from '@/composables/proofSize'
import { byBrightness, cutOff, type Sight, sightOf } from '@/composables/sight'

/** What is told of a proof by its pixels, and seen over it: its brightness in colours, or what is cut off. */
const props = defineProps<{
  proof: string | null
  /** What of the picture it shows, if not all. */
  part: Share | null
  shows: 'nothing' | 'brightness' | 'cut off'
}>()
const emit = defineEmits<{ told: [sight: Sight | null] }>()

const canvas = ref<HTMLCanvasElement>()
let turn = 0
async function look(): Promise<void> {
  const mine = ++turn
  if (!props.proof) {
    emit('told', null)
    canvas.value?.getContext('2d')?.clearRect(0, 0, canvas.value.width, canvas.value.height)
    return
  }
  const image = new Image()
  image.src = props.proof
  try {
    await image.decode()
  } catch {
    return // another proof has taken its place
  }
  if (mine !== turn || !canvas.value) return
  const { naturalWidth: width, naturalHeight: height } = image
  Object.assign(canvas.value, { width, height })
  const context = canvas.value.getContext('2d', { willReadFrequently: true })!
  context.drawImage(image, 0, 0)
  const { data } = context.getImageData(0, 0, width, height)
  emit('told', sightOf(data))
  context.clearRect(0, 0, width, height)
  if (props.shows === 'nothing') return
  const shown = props.shows === 'brightness' ? byBrightness(data) : cutOff(data, width)
  context.putImageData(new ImageData(shown, width, height), 0, 0)
}
watch(() => [props.proof, props.shows], look, { flush: 'post' })
</script>

<template>
  <canvas ref="canvas" class="sight" :style="over(part)" data-test="sight" :data-shows="shows" />
</template>

<style scoped>
.sight {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
</style>
