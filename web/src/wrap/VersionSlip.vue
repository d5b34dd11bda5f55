<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Artwork, Palette } from '@/api/client'
import { versionsOf } from './versions'

/** Which of its files an artwork prints, everywhere in the job. */
const props = defineProps<{ named: string; palette: Palette; artwork: Artwork[] }>()
const emit = defineEmits<{ show: [sha256: string]; newer: [file: File] }>()

const chooser = ref<HTMLInputElement>()
const versions = computed(() => versionsOf(props.named, props.palette))
const place = computed(() => versions.value.files.indexOf(versions.value.shown))
const words = (sha256: string, index: number) =>
  `${index + 1}: ${props.artwork.find((one) => one.sha256 === sha256)?.filename ?? 'missing file'}`
function choose(): void {
  const file = chooser.value?.files?.[0]
  if (file) emit('newer', file)
  if (chooser.value) chooser.value.value = ''
}
const step = (by: number) => emit('show', versions.value.files[place.value + by]!)
</script>

<template>
  <input
    ref="chooser"
    class="unseen"
    type="file"
    accept=".pdf,.svg,.png,.jpg,.jpeg,.tif,.tiff,.webp,application/pdf,image/*"
    aria-label="A newer version of the artwork"
    data-test="newer-file"
    @change="choose"
  />
  <p v-if="versions.files.length > 1" class="sentence">
    Version
    <select
      :value="versions.shown"
      aria-label="Version of the artwork"
      data-test="version"
      @change="(e) => emit('show', (e.target as HTMLSelectElement).value)"
    >
      <option v-for="(sha256, index) in versions.files" :key="sha256" :value="sha256">
        {{ words(sha256, index) }}
      </option>
    </select>
    <button v-if="place > 0" type="button" class="aside" data-test="older" @click="step(-1)">before</button>
    <button v-if="place < versions.files.length - 1" type="button" class="aside" data-test="later" @click="step(1)">
      after
    </button>
  </p>
  <Button size="small" title="It is printed in its place everywhere in the job" @click="chooser?.click()"
    >Newer version …</Button
  >
</template>
