<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, AS_IT_IS, type AnyShape, type CartonPack, wordsFor } from '@/api/client'
import QuantityInput from '@/components/QuantityInput.vue'
import { useJob } from '@/stores/job'

const props = defineProps<{
  pack: CartonPack
  badPlace: string
  edit: (change: (document: CartonPack) => void) => void
}>()

/** Mm of air around what stands in a hole, at either side. */
const AIR = 0.5
const FIELDS = [
  { field: 'x', words: 'to the right', least: -1000 },
  { field: 'y', words: 'back', least: -1000 },
  { field: 'across', words: 'wide', least: 5 },
  { field: 'deep', words: 'deep', least: 5 },
] as const

const job = useJob()
const problem = ref('')
const insert = computed(() => props.pack.form.insert ?? null)
const others = computed(() => job.packs.filter((one) => one.document.form.kind === 'vessel'))

const put = () => props.edit((d) => (d.form.insert = { height: Number((d.form.depth / 3).toFixed(1)), holes: [] }))
const takeOut = () => props.edit((d) => (d.form.insert = null))
/** A hole that a pack of the job stands in, in the middle. */
async function holeFor(event: Event): Promise<void> {
  const select = event.target as HTMLSelectElement
  const pack = others.value.find((one) => one.saved.key === select.value)
  select.value = ''
  if (!pack) return
  problem.value = ''
  try {
    const body = { pack: pack.document, key: pack.saved.key, palette: job.palette, colourway: AS_IT_IS }
    const shape = (await answer(api.POST('/api/shape', { body }))) as unknown as AnyShape
    if (shape.kind !== 'vessel') return
    const [across, deep] = [shape.facts.diameter, shape.facts.depth].map((mm) => Number((mm + 2 * AIR).toFixed(1)))
    props.edit((d) => d.form.insert?.holes?.push({ x: 0, y: 0, across: across!, deep: deep!, rounding: 1 }))
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
</script>

<template>
  <Button v-if="!insert" size="small" data-test="put-insert" @click="put">Put an insert in</Button>
  <template v-else>
    <p class="sentence">
      Its deck is
      <QuantityInput
        label="Height of the insert"
        unit="mm"
        :value="insert.height"
        :min="5"
        :max="2000"
        :refused="badPlace === 'insert.height'"
        @change="(v) => edit((d) => d.form.insert && (d.form.insert.height = v))"
      />
      above the floor.
    </p>
    <p v-for="(hole, index) in insert.holes" :key="index" class="sentence" :data-test="`hole-${index}`">
      Hole {{ index + 1 }}:
      <template v-for="one in FIELDS" :key="one.field">
        <QuantityInput
          :label="`Hole ${index + 1} ${one.words}`"
          unit="mm"
          :value="hole[one.field]"
          :min="one.least"
          :max="2000"
          :refused="badPlace.startsWith(`insert.holes.${index}`)"
          @change="(v) => edit((d) => (d.form.insert!.holes![index]![one.field] = v))"
        />
        {{ one.words }},
      </template>
      rounded
      <QuantityInput
        :label="`Hole ${index + 1} rounded`"
        unit="%"
        :value="hole.rounding * 100"
        :min="0"
        :max="100"
        :step="10"
        :digits="0"
        @change="(v) => edit((d) => (d.form.insert!.holes![index]!.rounding = v / 100))"
      />.
      <Button size="small" @click="edit((d) => d.form.insert!.holes!.splice(index, 1))">Close it</Button>
    </p>
    <p class="buttons">
      <select class="plain" value="" aria-label="A hole for a pack" data-test="hole-for" @change="holeFor">
        <option value="">A hole for …</option>
        <option v-for="one in others" :key="one.saved.key" :value="one.saved.key">{{ one.saved.name }}</option>
      </select>
      <Button size="small" @click="takeOut">Take the insert out</Button>
    </p>
    <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
  </template>
</template>
