<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, inject, onBeforeUnmount, onMounted, ref, watch } from 'vue'

import { answer, api, wordsFor } from '@/api/client'
import type { Live } from '@/composables/live'
import { usePalette } from '@/composables/palette'
import BrandColours from './BrandColours.vue'
import QuantityInput from './QuantityInput.vue'

/** A colour by Lab, by the brand's names, or picked from a picture; `at` is where on the page it opens. */
const props = defineProps<{ value: string; label: string; at: DOMRect }>()
const emit = defineEmits<{ change: [value: string]; close: [done: boolean] }>()

interface Dropper {
  open(): Promise<{ sRGBHex: string }>
}
const palette = usePalette()
const live = inject<Live | null>('live', null)
const problem = ref('')
const lab = ref<[number, number, number]>([0, 0, 0])
/** How far the colour is from the Lab that was asked for. */
const off = ref({ code: '', by: 0 })
const source = ref(-1)
const canvas = ref<HTMLCanvasElement>()
const under = ref('')
const artwork = computed(() => palette?.artwork() ?? [])
/** What a colour can be picked from. */
const pictures = computed(() => {
  const proof = live?.proof.value
  return [
    ...(proof ? [{ name: 'the proof as it is now', address: proof.address }] : []),
    ...(palette?.pictures() ?? []),
    ...artwork.value.map((one) => ({ name: one.filename, address: `/api/artwork/${one.id}/preview.png?width=1600` })),
  ]
})
const screen = (window as unknown as { EyeDropper?: new () => Dropper }).EyeDropper

async function tried<T>(work: Promise<T>): Promise<T | null> {
  try {
    problem.value = ''
    return await work
  } catch (error) {
    problem.value = wordsFor(error)
    return null
  }
}
watch(
  () => props.value,
  async (hex) => {
    const found = await tried(answer(api.POST('/api/brand-colours/lab', { body: [{ name: hex, hex, spot: '' }] })))
    if (found?.[0] && hex === props.value) lab.value = found[0].lab as [number, number, number]
  },
  { immediate: true },
)
async function toLab(axis: number, value: number): Promise<void> {
  const [lightness, a, b] = lab.value.map((own, i) => (i === axis ? value : own)) as [number, number, number]
  const found = await tried(answer(api.GET('/api/colour-of-lab', { params: { query: { lightness, a, b } } })))
  if (!found) return
  off.value = { code: found.code, by: found.off }
  emit('change', found.code)
}

function lookAtChosen(): void {
  const chosen = pictures.value[source.value]
  if (chosen) void look(chosen.address)
}
/** Show a picture to pick from, in its own pixels. */
async function look(address: string): Promise<void> {
  const image = new Image()
  image.src = address
  const there = await tried(image.decode().then(() => true))
  if (!there || !canvas.value) return
  canvas.value.width = image.naturalWidth
  canvas.value.height = image.naturalHeight
  canvas.value.getContext('2d', { willReadFrequently: true })!.drawImage(image, 0, 0)
}
function ofFile(event: Event): void {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  source.value = -1
  const address = URL.createObjectURL(file)
  look(address)
    .finally(() => URL.revokeObjectURL(address))
    .catch((error) => (problem.value = wordsFor(error)))
}
function colourAt(event: MouseEvent): string {
  const { width, height } = canvas.value!
  const box = canvas.value!.getBoundingClientRect()
  const x = Math.min(Math.floor(((event.clientX - box.left) / box.width) * width), width - 1)
  const y = Math.min(Math.floor(((event.clientY - box.top) / box.height) * height), height - 1)
  const [red, green, blue] = canvas.value!.getContext('2d')!.getImageData(Math.max(x, 0), Math.max(y, 0), 1, 1).data
  return `#${[red, green, blue].map((v) => v!.toString(16).padStart(2, '0')).join('')}`
}
async function fromScreen(): Promise<void> {
  try {
    emit('change', (await new screen!().open()).sRGBHex)
  } catch {
    // whoever looks away picks nothing
  }
}

const place = computed(() => ({
  left: `${Math.max(Math.min(props.at.left, window.innerWidth - 330), 8)}px`,
  top: `${Math.max(Math.min(props.at.bottom + 4, window.innerHeight - 430), 8)}px`,
}))
const box = ref<HTMLElement>()
const leave = (event: KeyboardEvent) => event.key === 'Escape' && emit('close', false)
const pressed = (event: PointerEvent) => !box.value?.contains(event.target as Node) && emit('close', false)
onMounted(() => {
  window.addEventListener('keydown', leave)
  window.addEventListener('pointerdown', pressed)
})
onBeforeUnmount(() => {
  window.removeEventListener('keydown', leave)
  window.removeEventListener('pointerdown', pressed)
})
</script>

<template>
  <Teleport to="body">
    <div ref="box" class="colours" :style="place" role="dialog" :aria-label="`${label}: colours`" data-test="colours">
      <p class="row">
        <i class="chip" :style="{ background: value }" />
        <span class="lab">
          <QuantityInput
            v-for="(axis, i) in ['L', 'a', 'b']"
            :key="axis"
            :label="`${label} ${axis}*`"
            :unit="axis"
            :value="lab[i]!"
            :min="i ? -128 : 0"
            :max="i ? 128 : 100"
            @change="(v) => toLab(i, v)"
          />
        </span>
      </p>
      <p v-if="off.by > 1 && off.code === value" class="hint" data-test="off-screen">
        No screen shows that: this is the nearest, ΔE₀₀ {{ off.by.toFixed(1) }} away.
      </p>
      <BrandColours
        v-if="palette"
        :value="value"
        :palette="palette"
        :tried="tried"
        @change="(hex) => emit('change', hex)"
        @problem="problem = $event"
      />
      <h3>From a picture</h3>
      <p class="row">
        <select
          v-model="source"
          class="kind"
          aria-label="Picture to pick from"
          data-test="pick-from"
          @change="lookAtChosen"
        >
          <option :value="-1">choose one …</option>
          <option v-for="(one, i) in pictures" :key="one.name + i" :value="i">{{ one.name }}</option>
        </select>
        <label class="aside"
          >a file …<input type="file" accept="image/*" data-test="pick-from-file" @change="ofFile"
        /></label>
        <button v-if="screen" type="button" class="aside" @click="fromScreen">the screen</button>
      </p>
      <canvas
        ref="canvas"
        width="1"
        height="1"
        data-test="pick-canvas"
        @mousemove="under = colourAt($event)"
        @mouseleave="under = ''"
        @click="emit('change', colourAt($event))"
      />
      <p v-if="under" class="hint"><i class="chip" :style="{ background: under }" /> {{ under }}</p>
      <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
      <Button size="small" data-test="close-colours" @click="emit('close', true)">Done</Button>
    </div>
  </Teleport>
</template>

<style scoped>
.colours {
  position: fixed;
  z-index: 40;
  width: 322px;
  max-height: 430px;
  overflow-y: auto;
  padding: 10px 12px;
  border: 1.5px solid var(--kraft);
  background: var(--card);
  font-size: 13px;
}
.row,
.lab {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin: 0 0 6px;
}
.lab {
  margin: 0;
}
h3 {
  margin: 8px 0 4px;
  font-size: 13px;
}
.chip {
  display: inline-block;
  width: 18px;
  height: 18px;
  border: 1px solid var(--kraft);
  vertical-align: middle;
}
label input[type='file'] {
  display: none;
}
.row .kind {
  max-width: 150px;
}
canvas {
  display: block;
  max-width: 296px;
  max-height: 200px;
  cursor: crosshair;
}
</style>
