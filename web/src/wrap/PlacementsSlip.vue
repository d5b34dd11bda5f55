<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Artwork, Palette, Panel } from '@/api/client'
import FieldTexts from '@/components/FieldTexts.vue'
import QuantityInput from '@/components/QuantityInput.vue'
import { without } from '@/composables/records'
import { aspectOf, centred, filling } from './laying'
import TreatmentSlip from './TreatmentSlip.vue'
import { shownOf } from './versions'
import VersionSlip from './VersionSlip.vue'

/** The artwork on a sheet: what, how wide and where. */
const props = defineProps<{
  panel: Panel
  artwork: Artwork[]
  palette: Palette
  selected: number
  edit: (change: (panel: Panel) => void) => void
}>()
const emit = defineEmits<{
  select: [index: number]
  files: [files: FileList | null]
  move: [index: number, x: number, y: number]
  show: [named: string, sha256: string]
  newer: [named: string, file: File]
}>()

const chooser = ref<HTMLInputElement>()
const placement = computed(() => props.panel.placements[props.selected])
const fileOf = (named: string | undefined) => shownOf(named, props.palette, props.artwork)
const file = computed(() => fileOf(placement.value?.artwork))
const set = (change: object) => props.edit((p) => Object.assign(p.placements[props.selected]!, change))
function choose(): void {
  emit('files', chooser.value?.files ?? null)
  if (chooser.value) chooser.value.value = ''
}
/** Fill a field of the artwork, or leave it as it stands there. */
function fill(field: string, text: string | null): void {
  const rest = without(placement.value?.texts, field)
  set({ texts: text === null ? rest : { ...rest, [field]: text } })
}
function remove(): void {
  props.edit((p) => p.placements.splice(props.selected, 1))
  emit('select', Math.max(props.selected - 1, 0))
}
</script>

<template>
  <h3>Artwork</h3>
  <input
    ref="chooser"
    class="unseen"
    type="file"
    accept=".pdf,.svg,.png,.jpg,.jpeg,.tif,.tiff,.webp,application/pdf,image/*"
    multiple
    aria-label="Artwork files"
    data-test="artwork-file"
    @change="choose"
  />
  <Button size="small" type="primary" @click="chooser?.click()">Place artwork …</Button>
  <p class="hint">or drop a file on the panel</p>
  <ul v-if="panel.placements.length" class="list">
    <li v-for="(item, index) in panel.placements" :key="index">
      <button :class="{ chosen: index === selected }" @click="emit('select', index)">
        {{ fileOf(item.artwork)?.filename ?? 'missing file' }}
      </button>
    </li>
  </ul>
  <template v-if="placement">
    <p class="sentence">
      <QuantityInput
        label="Artwork width"
        unit="mm"
        :value="placement.width"
        :min="0.5"
        :max="2000"
        :digits="2"
        @change="(v) => set({ width: v })"
      />
      wide, its lower left corner
      <QuantityInput
        label="Artwork from left"
        unit="mm"
        :value="placement.x"
        :digits="2"
        :min="-2000"
        :max="2000"
        @change="(v) => emit('move', selected, v, placement!.y)"
      />
      from the left and
      <QuantityInput
        label="Artwork from bottom"
        unit="mm"
        :value="placement.y"
        :digits="2"
        :min="-2000"
        :max="2000"
        @change="(v) => emit('move', selected, placement!.x, v)"
      />
      up.
    </p>
    <VersionSlip
      :named="placement.artwork"
      :palette="palette"
      :artwork="artwork"
      @show="(sha256) => emit('show', placement!.artwork, sha256)"
      @newer="(newer) => emit('newer', placement!.artwork, newer)"
    />
    <details v-if="Object.keys(file?.fields ?? {}).length" open data-test="slip-texts">
      <summary>Texts</summary>
      <FieldTexts :fields="file!.fields" :texts="placement.texts ?? {}" @fill="fill" />
    </details>
    <TreatmentSlip :panel="panel" :file="file" :selected="selected" :edit="edit" />
    <div class="buttons">
      <Button size="small" @click="set(centred(placement, panel, aspectOf(placement, file)))">Centre it</Button>
      <Button size="small" @click="file && set(filling(panel, aspectOf(placement, file)))">Fill the panel</Button>
      <Button size="small" @click="remove">Take it off</Button>
    </div>
  </template>
</template>

<style scoped>
.list {
  list-style: none;
  margin: 8px 0;
  padding: 0;
}
.list button {
  border: 0;
  background: none;
  padding: 2px 0 2px 10px;
  border-left: 3px solid transparent;
  cursor: pointer;
  text-align: left;
  word-break: break-all;
}
.list .chosen {
  border-color: var(--ribbon);
  font-weight: 600;
}
.hint {
  margin: 4px 0;
}
</style>
