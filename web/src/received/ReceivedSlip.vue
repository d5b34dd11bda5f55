<script setup lang="ts">
import { computed, ref } from 'vue'

import { answer, api, type Pack, type Received, type ReceivedPack, type ReceivedShape, wordsFor } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import { showNumber } from '@/composables/quantity'
import UnitAndUp from './UnitAndUp.vue'

/** How a received model stands: its unit, which way it is up, how it is shaded, how full it is. */
const props = defineProps<{
  pack: ReceivedPack
  shape: ReceivedShape | null
  badPlace: string
  edit: (change: (document: ReceivedPack) => void) => void
}>()

const problem = ref('')
const model = computed(() => props.pack.form)
const facts = computed(() => props.shape?.facts ?? null)
const contents = computed(() => model.value.parts.find((part) => part.role === 'contents'))
const set = (change: Partial<Received>) => props.edit((d) => Object.assign(d.form, change))
async function resize(unit_mm: number): Promise<void> {
  problem.value = ''
  try {
    const made = await answer(api.POST('/api/received/resize', { body: { pack: props.pack as Pack, unit_mm } }))
    props.edit((d) => Object.assign(d, made))
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
const chosen = (event: Event) => (event.target as HTMLSelectElement).value
/** The level of the contents, as it is or as somebody said. */
const level = computed(() => model.value.fill_height ?? facts.value?.fill_height ?? 0)
</script>

<template>
  <p v-if="facts" class="sentence">
    It takes up
    <b class="figures" data-test="received-size"
      >{{ showNumber(facts.size[0]) }} × {{ showNumber(facts.size[1]) }} × {{ showNumber(facts.size[2]) }} mm</b
    >
    and stands on the table.
  </p>
  <p class="sentence">
    One unit of {{ model.file || 'its file' }} is <UnitAndUp :model="model" @unit="resize" @up="(up) => set({ up })" />,
    turned
    <QuantityInput
      label="Turn of the model"
      unit="°"
      :value="model.turn ?? 0"
      :min="-360"
      :max="360"
      :step="15"
      :digits="1"
      @change="(v) => set({ turn: v })"
    />
    to the right.
  </p>
  <p class="sentence">
    Shaded
    <select
      :value="model.smooth === null ? 'file' : 'angle'"
      aria-label="How it is shaded"
      @change="set({ smooth: chosen($event) === 'file' ? null : 35 })"
    >
      <option value="file">as the file has it</option>
      <option value="angle">by angle:</option>
    </select>
    <template v-if="model.smooth !== null && model.smooth !== undefined">
      what turns by more than
      <QuantityInput
        label="Angle of edges"
        unit="°"
        :value="model.smooth"
        :min="0"
        :max="180"
        :step="5"
        :digits="0"
        @change="(v) => set({ smooth: v })"
      />
      is an edge.</template
    >
  </p>
  <p v-if="contents && facts" class="sentence">
    Filled to
    <QuantityInput
      label="Fill height"
      unit="mm"
      :value="level"
      :min="0"
      :max="3000"
      :step="1"
      :digits="1"
      :refused="badPlace === 'fill_height'"
      @change="(v) => set({ fill_height: v })"
    /><template v-if="facts.contents_ml !== null">
      with <b class="figures" data-test="received-ml">{{ showNumber(facts.contents_ml) }} ml</b></template
    >.
  </p>
  <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
  <p v-for="caution in facts?.cautions ?? []" :key="caution" class="caution">{{ caution }}</p>
</template>
