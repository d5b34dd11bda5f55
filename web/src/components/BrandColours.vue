<script setup lang="ts">
import { computed, ref } from 'vue'

import { answer, api, type BrandColour, send } from '@/api/client'
import { download } from '@/api/download'
import type { PaletteUse } from '@/composables/palette'
import { beyond, unkept, useStudioColours } from '@/composables/studioColours'

import ColourList from './ColourList.vue'

/** The colours of the job's brand, and those that every job has. `tried` says what went wrong where it did. */
const props = defineProps<{
  value: string
  palette: PaletteUse
  tried: <T>(work: Promise<T>) => Promise<T | null>
}>()
const emit = defineEmits<{ change: [value: string]; problem: [words: string] }>()

const { all, keep, takeAway } = useStudioColours()
const name = ref('')
const brand = computed(() => props.palette.colours())
const artwork = computed(() => props.palette.artwork())
const studio = computed(() => beyond(brand.value, all.value))
const lacking = computed(() => unkept(brand.value, all.value))

const setBrand = (colours: BrandColour[]) => props.palette.setColours(colours)
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
  const response = await props.tried(send('/api/brand-colours/file', { method: 'POST', body: form }))
  if (response) add(asColours((await response.json()) as BrandColour[]))
}
async function readOutOf(event: Event): Promise<void> {
  const select = event.target as HTMLSelectElement
  const id = Number(select.value)
  select.value = ''
  const path = { artwork_id: id }
  const found = await props.tried(answer(api.GET('/api/artwork/{artwork_id}/colours', { params: { path } })))
  if (found) add(asColours(found))
  if (found && !found.length) emit('problem', 'There is no flat colour in it.')
}
const asColours = (found: BrandColour[]) => found.map(({ name, hex, spot }) => ({ name, hex, spot }))
const handOn = (form: 'csv' | 'json') =>
  props.tried(download(`/api/brand-colours.${form}`, `brand-colours.${form}`, brand.value))
</script>

<template>
  <h3>The brand</h3>
  <ColourList
    :colours="brand"
    group="brand"
    away="out of the brand"
    @change="(one) => emit('change', one.hex)"
    @away="(gone) => setBrand(brand.filter((one) => one !== gone))"
  />
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
      <button
        v-if="lacking.length"
        type="button"
        class="aside"
        data-test="keep-colours"
        title="Every job of the studio has them at hand then"
        @click="tried(keep(lacking))"
      >
        Keep for every job
      </button>
    </template>
    <select v-if="artwork.length" class="kind" aria-label="Read colours out of artwork" @change="readOutOf">
      <option value="">out of …</option>
      <option v-for="one in artwork" :key="one.id" :value="one.id">{{ one.filename }}</option>
    </select>
  </p>
  <template v-if="studio.length">
    <h3>Every job</h3>
    <ColourList
      :colours="studio"
      group="studio"
      away="away from every job"
      @change="(one) => emit('change', one.hex)"
      @away="(gone) => tried(takeAway(gone))"
    />
  </template>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin: 0 0 6px;
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
h3 {
  margin: 8px 0 4px;
  font-size: 13px;
}
</style>
