<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref, watch } from 'vue'

import { answer, api, AS_IT_IS, type Pack, type Palette, send, type StretchMap, wordsFor } from '@/api/client'
import { download } from '@/api/download'
import { showNumber } from '@/composables/quantity'

/** What becomes of a label where it lies: a map of it, and artwork drawn so that it comes out as it was meant. */
const props = defineProps<{
  pack: Pack
  palette: Palette
  number: number
  /** Whether it is pulled narrower or wider somewhere. */
  pulled: boolean
  /** The print as it is, for comparison. */
  picture: string | null
  map: StretchMap | null
}>()
const emit = defineEmits<{ map: [map: StretchMap | null] }>()

const problem = ref('')
const drawn = ref('')
const busy = ref(false)
const body = () => ({
  pack: props.pack,
  palette: props.palette,
  key: '',
  colourway: AS_IT_IS,
  panel: props.number,
})
watch(
  () => JSON.stringify([props.pack.panels, props.number]),
  () => {
    emit('map', null)
    drop()
  },
)
function drop(): void {
  if (drawn.value) URL.revokeObjectURL(drawn.value)
  drawn.value = ''
}
async function asked(what: () => Promise<void>): Promise<void> {
  ;[busy.value, problem.value] = [true, '']
  try {
    await what()
  } catch (error) {
    problem.value = wordsFor(error)
  }
  busy.value = false
}
const show = () =>
  props.map
    ? emit('map', null)
    : asked(async () => emit('map', await answer(api.POST('/api/distortion', { body: body() }))))
const compare = () =>
  asked(async () => {
    const response = await send('/api/compensated.png?preview=true', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(body()),
    })
    drop()
    drawn.value = URL.createObjectURL(await response.blob())
  })
const save = () => asked(() => download('/api/compensated.png', 'compensated.png', body()))
</script>

<template>
  <details data-test="slip-stretch">
    <summary>Stretch on the pack</summary>
    <div class="buttons">
      <Button size="small" :loading="busy" data-test="stretch-map" @click="show">{{
        map ? 'Hide the map' : 'Map it on the label'
      }}</Button>
      <Button v-if="pulled" size="small" data-test="compensate" @click="compare">Draw it compensated</Button>
    </div>
    <p v-if="map" class="hint">
      By {{ showNumber(100 * map.mean, 2) }} % on average, {{ showNumber(100 * map.worst, 2) }} % at the most. Each cell
      says how many per cent wider or narrower it comes out.
    </p>
    <template v-if="drawn">
      <figure class="pair">
        <div>
          <img v-if="picture" :src="picture" alt="" />
          <figcaption>as it is</figcaption>
        </div>
        <div>
          <img :src="drawn" alt="The artwork drawn so that it comes out as it was meant" data-test="compensated" />
          <figcaption>compensated</figcaption>
        </div>
      </figure>
      <p class="hint">From its middle on, everything comes out as wide as it was drawn.</p>
      <Button size="small" data-test="save-compensated" @click="save">Save it as PNG, 300 ppi</Button>
    </template>
    <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
  </details>
</template>

<style scoped>
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  margin: 8px 0;
}
.pair img {
  width: 100%;
  border: 1px solid #ddd4c0;
  background: #fff;
}
figcaption {
  font-size: 12px;
}
</style>
