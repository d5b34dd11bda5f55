<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, onMounted, ref } from 'vue'

import { answer, api, type Layer, type Palette, type Panel, type StartingRun, wordsFor } from '@/api/client'
import ColourInput from '@/components/ColourInput.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { added, moved, PLAIN, shaped, startFrom, without } from './run'
import FoilSentence from './FoilSentence.vue'
import StockSentence from './StockSentence.vue'

/** What a panel is printed on and with, in the order of the press; `own` says whether the stock is its own;
 * `chosen` is what the selected artwork is called. */
const props = defineProps<{
  panel: Panel
  own: boolean
  selected: number
  chosen: string
  deepest: string | null
  palette: Palette
  edit: (change: (panel: Panel) => void) => void
}>()

const starts = ref<StartingRun[]>([])
const problem = ref('')
onMounted(async () => {
  try {
    starts.value = await answer(api.GET('/api/starting-runs'))
  } catch (error) {
    problem.value = wordsFor(error)
  }
})
const layers = computed<readonly Layer[]>(() => (props.panel.run?.length ? props.panel.run : PLAIN))
/** Metals of the job's palette. */
const entries = computed(() =>
  Object.entries(props.palette.entries).flatMap(([name, made]) => (made.kind === 'metal' ? [name] : [])),
)
const COVERS = { whole: 'all over', ink: 'under and over ink', placed: 'where artwork says' } as const
const KINDS = {
  white: 'White',
  ink: 'Ink',
  foil: 'Foil',
  varnish: 'Varnish',
  emboss: 'Emboss',
  cut: 'Die-cut',
} as const
/** What can be added: only labels on a stock are cut. */
const kinds = computed(() =>
  Object.entries(KINDS).filter(([kind]) => kind !== 'cut' || (props.own && props.panel.stock?.kind !== 'bare')),
)
/** Mm of a slit where a label is perforated first. */
const SLIT = 1.2
const unplaced = (layer: Layer) =>
  layer.covers === 'placed' &&
  !(layer.kind === 'ink' && !layer.material) &&
  !props.panel.placements.some((one) => one.areas?.[layer.name])
function set(index: number, change: object): void {
  props.edit((p) => {
    if (!p.run?.length) p.run = JSON.parse(JSON.stringify(PLAIN)) as Layer[]
    Object.assign(p.run[index]!, change)
  })
}
function begin(name: string): void {
  const start = starts.value.find((one) => one.name === name)
  if (start) props.edit((p) => startFrom(p, start, props.own))
}
const says = (name: string) => starts.value.find((one) => one.name === name)?.says ?? ''
</script>

<template>
  <details open data-test="slip-run">
    <summary>How it is printed</summary>
    <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
    <p class="sentence">
      <select
        aria-label="Start from a run"
        data-test="start-run"
        @change="(e) => begin((e.target as HTMLSelectElement).value)"
      >
        <option value="">Start from …</option>
        <option v-for="one in starts" :key="one.name" :value="one.name" :title="says(one.name)">{{ one.name }}</option>
      </select>
    </p>
    <StockSentence v-if="own" :panel="panel" :deepest="deepest" :edit="edit" />
    <ol class="press">
      <li v-for="(layer, index) in layers" :key="layer.name" :data-test="`layer-${index}`">
        <p class="sentence">
          <b>{{ layer.name }}</b>:
          <template v-if="layer.kind === 'ink'">
            <template v-if="!layer.material">artwork in its own colours,</template>
            <ColourInput
              v-else-if="layer.material.kind === 'opaque'"
              :label="`Colour of the ${layer.name}`"
              :value="layer.material.colour"
              @change="(v) => set(index, { material: { ...layer.material, colour: v } })"
            />
            <template v-else>in the palette’s “{{ layer.material.entry }}”,</template>
          </template>
          <template v-if="layer.kind === 'white' || layer.kind === 'ink'">
            hiding
            <QuantityInput
              :label="`How far the ${layer.name} hides`"
              unit="%"
              :value="layer.hiding * 100"
              :min="0"
              :max="100"
              :step="5"
              :digits="0"
              @change="(v) => set(index, { hiding: v / 100 })"
            />
          </template>
          <FoilSentence v-if="layer.kind === 'foil'" :layer="layer" :entries="entries" :set="(v) => set(index, v)" />
          <template v-if="layer.kind === 'varnish'">
            <QuantityInput
              :label="`Gloss of the ${layer.name}`"
              unit="%"
              :value="layer.gloss * 100"
              :min="0"
              :max="100"
              :step="5"
              :digits="0"
              @change="(v) => set(index, { gloss: v / 100 })"
            />
            gloss, raised
            <QuantityInput
              :label="`Height of the ${layer.name}`"
              unit="mm"
              :value="layer.height"
              :min="0"
              :max="0.5"
              :step="0.01"
              :digits="2"
              @change="(v) => set(index, { height: v })"
            />
          </template>
          <template v-if="layer.kind === 'emboss'">
            out by
            <QuantityInput
              :label="`Height of the ${layer.name}`"
              unit="mm"
              :value="layer.height"
              :min="-1.5"
              :max="1.5"
              :step="0.05"
              :digits="2"
              @change="(v) => set(index, { height: v })"
            />, its slope
            <QuantityInput
              :label="`Slope of the ${layer.name}`"
              unit="mm"
              :value="layer.flank"
              :min="0.05"
              :max="5"
              :step="0.05"
              :digits="2"
              @change="(v) => set(index, { flank: v })"
            />
            wide
          </template>
          <template v-if="layer.kind === 'cut'">
            <select
              :value="layer.slit ? 'slits' : 'all'"
              :aria-label="`How the ${layer.name} is cut`"
              :data-test="`cut-${index}`"
              @change="(e) => set(index, { slit: (e.target as HTMLSelectElement).value === 'slits' ? SLIT : null })"
            >
              <option value="all">all of it out</option>
              <option value="slits">along its lines</option>
            </select>
            <template v-if="layer.slit">
              in slits of
              <QuantityInput
                :label="`Slits of the ${layer.name}`"
                unit="mm"
                :value="layer.slit"
                :min="0.1"
                :max="50"
                :step="0.1"
                :digits="2"
                @change="(v) => set(index, { slit: v })"
              />
              with
              <QuantityInput
                :label="`Ties of the ${layer.name}`"
                unit="mm"
                :value="layer.tie"
                :min="0.1"
                :max="50"
                :step="0.1"
                :digits="2"
                @change="(v) => set(index, { tie: v })"
              />
              between</template
            >, where artwork says
          </template>
          <select
            v-else-if="!(layer.kind === 'ink' && !layer.material)"
            :value="layer.covers"
            :aria-label="`Where the ${layer.name} is`"
            :data-test="`covers-${index}`"
            @change="(e) => set(index, { covers: (e.target as HTMLSelectElement).value })"
          >
            <option v-for="(words, covers) in COVERS" :key="covers" :value="covers">{{ words }}</option>
          </select>
        </p>
        <p v-if="unplaced(layer)" class="caution">
          No artwork says where yet.
          <Button
            v-if="chosen"
            size="small"
            :data-test="`take-${index}`"
            @click="edit((p) => shaped(p, selected, layer))"
            >It is where {{ chosen }} is</Button
          >
        </p>
        <div class="buttons">
          <button v-if="index" type="button" class="aside" @click="edit((p) => moved(p, index, -1))">earlier</button>
          <button v-if="index < layers.length - 1" type="button" class="aside" @click="edit((p) => moved(p, index, 1))">
            later
          </button>
          <button v-if="panel.run?.length" type="button" class="aside" @click="edit((p) => without(p, index))">
            leave out
          </button>
        </div>
      </li>
    </ol>
    <p v-if="own && layers.length > 1" class="sentence">
      Shown
      <QuantityInput
        label="Layers off register"
        unit="mm"
        :value="panel.registration ?? 0"
        :min="0"
        :max="2"
        :step="0.1"
        :digits="2"
        @change="(v) => edit((p) => Object.assign(p, { registration: v }))"
      />
      out of register.
    </p>
    <div class="buttons" role="group" aria-label="Add a layer">
      <Button
        v-for="[kind, words] in kinds"
        :key="kind"
        size="small"
        :data-test="`add-${kind}`"
        @click="edit((p) => added(p, kind as Layer['kind']))"
        >{{ words }}</Button
      >
    </div>
  </details>
</template>

<style scoped>
.press {
  margin: 0 0 8px;
  padding-left: 20px;
}
.press .sentence {
  margin: 0;
}
</style>
