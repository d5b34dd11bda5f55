<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, inject, onBeforeUnmount, onMounted, ref, watch } from 'vue'

import { answer, api, type BrandColour, send, wordsFor } from '@/api/client'
import { download } from '@/api/download'
import type { Live } from '@/composables/live'
import { usePalette } from '@/composables/palette'
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
const name = ref('')
const source = ref(-1)
const canvas = ref<HTMLCanvasElement>()
const under = ref('')
const brand = computed(() => palette?.colours() ?? [])
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

const setBrand = (colours: BrandColour[]) => palette?.setColours(colours)
/** Add colours to the brand's; of the same name, the later one counts. */
function add(colours: BrandColour[]): void {
  const names = new Set(colours.map((one) => one.name))
  setBrand([...brand.value.filter((one) => !names.has(one.name)), ...colours])
}
function addThis(): void {
  add([{ name: name.value.trim() || props.value, hex: props.value, spot: '' }])
  name.value = ''
}
async function bring(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  const form = new FormData()
  form.append('file', file)
  const response = await tried(send('/api/brand-colours/file', { method: 'POST', body: form }))
  if (response) add(asColours(await response.json()))
}
async function readOutOf(event: Event): Promise<void> {
  const select = event.target as HTMLSelectElement
  const id = Number(select.value)
  select.value = ''
  const path = { artwork_id: id }
  const found = await tried(answer(api.GET('/api/artwork/{artwork_id}/colours', { params: { path } })))
  if (found) add(asColours(found))
  if (found && !found.length) problem.value = 'There is no flat colour in it.'
}
const asColours = (found: BrandColour[]) => found.map(({ name, hex, spot }) => ({ name, hex, spot }))
async function handOn(form: 'csv' | 'json'): Promise<void> {
  await tried(download(`/api/brand-colours.${form}`, `brand-colours.${form}`, brand.value))
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
      <template v-if="palette">
        <h3>The brand</h3>
        <ul v-if="brand.length" class="brand">
          <li v-for="one in brand" :key="one.name">
            <button
              type="button"
              :title="`${one.hex}${one.spot ? ` · ${one.spot}` : ''}`"
              :data-test="`brand-${one.name}`"
              @click="emit('change', one.hex)"
            >
              <i class="chip" :style="{ background: one.hex }" />{{ one.name }}
            </button>
            <button
              type="button"
              class="away"
              :aria-label="`Take ${one.name} out of the brand`"
              @click="setBrand(brand.filter((other) => other !== one))"
            >
              ✕
            </button>
          </li>
        </ul>
        <form class="row" @submit.prevent="addThis">
          <input v-model="name" maxlength="120" placeholder="name of this colour" aria-label="Name of this colour" />
          <button type="submit" class="aside" data-test="add-colour">Add it</button>
        </form>
        <p class="row">
          <label class="aside"
            >Bring …<input type="file" accept=".csv,.json" data-test="bring-colours" @change="bring"
          /></label>
          <template v-if="brand.length">
            <button type="button" class="aside" @click="handOn('csv')">CSV</button>
            <button type="button" class="aside" @click="handOn('json')">JSON</button>
          </template>
          <select v-if="artwork.length" class="kind" aria-label="Read colours out of artwork" @change="readOutOf">
            <option value="">out of …</option>
            <option v-for="one in artwork" :key="one.id" :value="one.id">{{ one.filename }}</option>
          </select>
        </p>
      </template>
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
.brand {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px 8px;
  max-height: 120px;
  overflow-y: auto;
  margin: 0 0 6px;
  padding: 0;
  list-style: none;
}
.brand li {
  display: flex;
  min-width: 0;
}
.brand button {
  display: flex;
  gap: 5px;
  align-items: center;
  min-width: 0;
  overflow: hidden;
  border: 0;
  background: none;
  padding: 1px;
  font: inherit;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: pointer;
}
.brand .away {
  margin-left: auto;
  color: #97213a;
}
.row input {
  width: 140px;
  border: 0;
  border-bottom: 1.5px solid var(--kraft);
  background: #fffdf8;
  font: inherit;
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
