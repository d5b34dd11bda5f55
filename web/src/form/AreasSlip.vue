<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { type Carton, type CartonPack, type FlatBlank, send, wordsFor } from '@/api/client'
import { clear } from '@/composables/made'
import QuantityInput from '@/components/QuantityInput.vue'

/** What is done to areas of one panel of a carton: windows, embossing and perforations. */
const props = defineProps<{
  pack: CartonPack
  panel: FlatBlank['panels'][number]
  /** What areas call the panel. */
  name: string
  badPlace: string
  edit: (change: (document: CartonPack) => void) => void
}>()

type Window = NonNullable<Carton['windows']>[number]
type Embossing = NonNullable<Carton['embossings']>[number]
type Perforation = NonNullable<Carton['perforations']>[number]
type Area = 'windows' | 'embossings'

const SHARE = 0.5
const FILM = clear({ refractive_index: 1.46, colour: '#ffffff', depth: 5, density: 1.3 })
const FIELDS = [
  { field: 'across', words: 'wide', min: 2 },
  { field: 'high', words: 'high', min: 2 },
  { field: 'x', words: 'to the right', min: -2000 },
  { field: 'y', words: 'up from the middle', min: -2000 },
] as const
const TEAR = [
  { field: 'length', words: 'long', unit: 'mm', min: 2, most: 2000 },
  { field: 'x', words: 'to the right', unit: 'mm', min: -2000, most: 2000 },
  { field: 'y', words: 'up from the middle', unit: 'mm', min: -2000, most: 2000 },
  { field: 'angle', words: 'turned', unit: '°', min: -180, most: 180 },
  { field: 'cut', words: 'cut', unit: 'mm', min: 0.3, most: 50 },
  { field: 'tie', words: 'left in turns', unit: 'mm', min: 0.3, most: 50 },
] as const
const KINDS = [
  { kind: 'windows', title: 'Window', what: 'A window', away: 'Close it' },
  { kind: 'embossings', title: 'Embossing', what: 'Embossed', away: 'Press it flat' },
] as const

const problem = ref('')
const chooser = ref<HTMLInputElement>()
let shaping: { kind: Area; index: number } | null = null

const ownOf = <One extends { panel: string }>(all: One[] | undefined) =>
  (all ?? []).flatMap((one, index) => (one.panel === props.name ? [{ one, index }] : []))
const areas = computed(() => ({
  windows: ownOf<Window>(props.pack.form.windows),
  embossings: ownOf<Embossing>(props.pack.form.embossings),
}))
const tears = computed(() => ownOf<Perforation>(props.pack.form.perforations))
const span = (k: 0 | 1) => {
  const values = props.panel.outline.map((point) => point[k]!)
  return Math.max(...values) - Math.min(...values)
}
const fresh = () => ({
  panel: props.name,
  x: 0,
  y: 0,
  across: Math.max(Math.round(SHARE * span(0)), 2),
  high: Math.max(Math.round(SHARE * span(1)), 2),
  rounding: 0.2,
})
const cut = () => props.edit((d) => (d.form.windows = [...(d.form.windows ?? []), { ...fresh(), film: { ...FILM } }]))
const emboss = () =>
  props.edit((d) => (d.form.embossings = [...(d.form.embossings ?? []), { ...fresh(), height: 0.4 }]))
const perforate = () =>
  props.edit((d) => {
    const line = { panel: props.name, x: 0, y: 0, length: Math.ceil(span(0)), angle: 0, cut: 3, tie: 1 }
    d.form.perforations = [...(d.form.perforations ?? []), line]
  })
const set = (kind: Area, index: number, change: Partial<Window & Embossing>) =>
  props.edit((d) => Object.assign(d.form[kind]![index]!, change))
const setTear = (index: number, change: Partial<Perforation>) =>
  props.edit((d) => Object.assign(d.form.perforations![index]!, change))

function chooseShape(kind: Area, index: number): void {
  shaping = { kind, index }
  chooser.value?.click()
}
/** The area takes the shape of a drawing's outline, as large as it was. */
async function shapeFrom(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file || !shaping) return
  problem.value = ''
  const { kind, index } = shaping
  try {
    const body = new FormData()
    body.append('file', file)
    const { shape, across, high } = await (await send('/api/blank/outline', { method: 'POST', body })).json()
    const area = props.pack.form[kind]?.[index]
    const fits = Math.min(1, (area?.across ?? across) / across, (area?.high ?? high) / high)
    const mm = (value: number) => Math.max(Number((value * fits).toFixed(2)), 2)
    set(kind, index, { shape, across: mm(across), high: mm(high) })
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
</script>

<template>
  <template v-for="one of KINDS" :key="one.kind">
    <p v-for="({ one: area, index }, number) in areas[one.kind]" :key="index" class="sentence">
      {{ one.what }}
      <template v-if="one.kind === 'embossings'">
        by
        <QuantityInput
          :label="`Embossing ${number + 1} height`"
          unit="mm"
          :value="(area as Embossing).height ?? 0.4"
          :min="-3"
          :max="3"
          :step="0.1"
          :digits="2"
          :refused="badPlace === `embossings.${index}.height`"
          @change="(v) => set('embossings', index, { height: v })"
        />,
      </template>
      <template v-for="field in FIELDS" :key="field.field">
        <QuantityInput
          :label="`${one.title} ${number + 1} ${field.words}`"
          unit="mm"
          :value="area[field.field] ?? 0"
          :min="field.min"
          :max="2000"
          :refused="badPlace.startsWith(`${one.kind}.${index}`) && !badPlace.endsWith('height')"
          @change="(v) => set(one.kind, index, { [field.field]: v })"
        />
        {{ field.words }},
      </template>
      <template v-if="area.shape">
        shaped as drawn. <Button size="small" @click="set(one.kind, index, { shape: null })">Plain again</Button>
      </template>
      <template v-else>
        its corners
        <QuantityInput
          :label="`${one.title} ${number + 1} rounding`"
          unit="%"
          :value="(area.rounding ?? 0) * 100"
          :min="0"
          :max="100"
          :step="10"
          :digits="0"
          @change="(v) => set(one.kind, index, { rounding: v / 100 })"
        />
        round.
        <Button size="small" @click="chooseShape(one.kind, index)">Shape from a drawing …</Button>
      </template>
      <label v-if="one.kind === 'windows'"
        ><input
          type="checkbox"
          :checked="Boolean((area as Window).film)"
          @change="set('windows', index, { film: (area as Window).film ? null : { ...FILM } })"
        />
        with film behind</label
      >
      <Button size="small" @click="edit((d) => d.form[one.kind]!.splice(index, 1))">{{ one.away }}</Button>
    </p>
  </template>
  <p v-for="({ one: tear, index }, number) in tears" :key="`tear-${index}`" class="sentence">
    A perforation
    <template v-for="field in TEAR" :key="field.field">
      <QuantityInput
        :label="`Perforation ${number + 1} ${field.words}`"
        :unit="field.unit"
        :value="tear[field.field] ?? 0"
        :min="field.min"
        :max="field.most"
        :refused="badPlace === `perforations.${index}.length`"
        @change="(v) => setTear(index, { [field.field]: v })"
      />
      {{ field.words }},
    </template>
    <Button size="small" @click="edit((d) => d.form.perforations!.splice(index, 1))">Take it out</Button>
  </p>
  <p v-if="problem" class="caution" role="alert">{{ problem }}</p>
  <div class="buttons">
    <Button size="small" data-test="cut-window" @click="cut">Cut a window</Button>
    <Button size="small" data-test="emboss" @click="emboss">Emboss it</Button>
    <Button size="small" data-test="perforate" @click="perforate">Perforate it</Button>
  </div>
  <input
    ref="chooser"
    class="unseen"
    type="file"
    accept=".svg,.dxf,.pdf"
    tabindex="-1"
    aria-label="Drawing of a shape"
    data-test="area-shape"
    @change="shapeFrom"
  />
</template>
