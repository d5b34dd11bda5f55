<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'

export interface Pin {
  x: number
  y: number
  /** What stands in it. */
  mark: string
  words: string
}

const props = defineProps<{
  src: string
  alt: string
  width: number
  height: number
  pins: Pin[]
  /** Whether a click says a place. */
  asking?: boolean
}>()
const emit = defineEmits<{ point: [x: number, y: number] }>()

const holder = ref<HTMLElement>()
const room = useElementSize(holder)
const size = computed(() => {
  const scale = Math.min(room.width.value / props.width, room.height.value / props.height, 1)
  return { width: `${props.width * scale}px`, height: `${props.height * scale}px` }
})
function point(event: MouseEvent): void {
  if (!props.asking) return
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const share = (at: number, from: number, whole: number) => Math.min(Math.max((at - from) / whole, 0), 1)
  emit('point', share(event.clientX, box.left, box.width), share(event.clientY, box.top, box.height))
}
</script>

<template>
  <div ref="holder" class="holder">
    <div class="picture" :class="{ asking }" :style="size" data-test="pinned-picture" @click="point">
      <img :src="src" :alt="alt" />
      <span
        v-for="pin in pins"
        :key="pin.mark"
        class="pin"
        :style="{ left: `${100 * pin.x}%`, top: `${100 * pin.y}%` }"
        :title="pin.words"
        data-test="pin"
        >{{ pin.mark }}</span
      >
    </div>
  </div>
</template>

<style scoped>
.holder {
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
}
.picture {
  position: relative;
}
.asking {
  cursor: crosshair;
}
img {
  width: 100%;
  height: 100%;
  display: block;
}
.pin {
  position: absolute;
  translate: -50% -50%;
  min-width: 22px;
  height: 22px;
  border-radius: 50% 50% 50% 0;
  background: var(--ribbon);
  border: 1.5px solid #fff;
  color: #fff;
  font: 600 12px/20px var(--sans);
  text-align: center;
}
</style>
