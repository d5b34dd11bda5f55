<script setup lang="ts">
import { ref } from 'vue'

import { type Corner, type VesselPack, send, wordsFor } from '@/api/client'
import { download } from '@/api/download'

const props = defineProps<{ pack: VesselPack; slug: string }>()
const emit = defineEmits<{ photo: [file: File]; profile: [profile: Corner[]]; problem: [words: string] }>()

const photoInput = ref<HTMLInputElement>()
const drawingInput = ref<HTMLInputElement>()

function picked(event: Event): File | null {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0] ?? null
  input.value = ''
  return file
}
function photo(event: Event): void {
  const file = picked(event)
  if (file) emit('photo', file)
}
async function drawing(event: Event): Promise<void> {
  const file = picked(event)
  if (!file) return
  emit('problem', '')
  try {
    const form = new FormData()
    form.append('file', file)
    const response = await send('/api/profile/read', { method: 'POST', body: form })
    const found = (await response.json()) as { profile: Corner[]; notes: string[] }
    emit('profile', found.profile)
    if (found.notes.length) emit('problem', found.notes.join(' '))
  } catch (error) {
    emit('problem', wordsFor(error))
  }
}
async function save(kind: 'svg' | 'dxf'): Promise<void> {
  try {
    await download(`/api/profile.${kind}`, `${props.slug}-half-profile.${kind}`, props.pack.form.body)
  } catch (error) {
    emit('problem', wordsFor(error))
  }
}
</script>

<template>
  <button type="button" @click="photoInput!.click()">Trace a photo …</button>
  <button type="button" @click="drawingInput!.click()">Read a profile (SVG, DXF) …</button>
  <button type="button" data-test="save-svg" @click="save('svg')">Save the profile as SVG</button>
  <button type="button" data-test="save-dxf" @click="save('dxf')">Save the profile as DXF</button>
  <input ref="photoInput" type="file" accept="image/*" hidden data-test="photo-file" @click.stop @change="photo" />
  <input
    ref="drawingInput"
    type="file"
    accept=".svg,.dxf"
    hidden
    data-test="drawing-file"
    @click.stop
    @change="drawing"
  />
</template>
