<script setup lang="ts">
import { ref } from 'vue'

import { type Pack, wordsFor } from '@/api/client'
import { download } from '@/api/download'
import ModelButton from './ModelButton.vue'
import { useJob } from '@/stores/job'

/** Files in and out at Form: what the form takes by itself in the slot, then models and the pack itself. */
const props = defineProps<{ pack: Pack }>()
const emit = defineEmits<{ problem: [words: string] }>()

const SOLID = { stl: 'Save its solids as STL', '3mf': 'Save its solids as 3MF' }
const job = useJob()
const menu = ref<HTMLDetailsElement>()
const busy = ref(false)

function close(): void {
  if (menu.value) menu.value.open = false
}
async function save(form: 'glb' | 'stl' | '3mf'): Promise<void> {
  if (busy.value) return
  busy.value = true
  emit('problem', '')
  try {
    const key = job.pack!.saved.key
    await download(`/api/pack.${form}`, `${key}.${form}`, { pack: props.pack, key, palette: job.palette })
  } catch (error) {
    emit('problem', wordsFor(error))
  }
  busy.value = false
}
</script>

<template>
  <details ref="menu" class="files" data-test="files">
    <summary>Files</summary>
    <div @click="close">
      <slot />
      <ModelButton @chosen="close" />
      <button type="button" data-test="save-glb" @click="save('glb')">Save the pack as GLB</button>
      <template v-if="pack.form.kind !== 'carton'">
        <button
          v-for="(words, form) in SOLID"
          :key="form"
          type="button"
          :data-test="`save-${form}`"
          @click="save(form)"
        >
          {{ words }}
        </button>
      </template>
    </div>
  </details>
</template>

<style scoped>
.files {
  position: relative;
  margin-left: auto;
  font-size: 13px;
  display: flex;
}
summary {
  list-style: none;
  white-space: nowrap;
  cursor: pointer;
  padding: 0 10px;
  display: flex;
  align-items: center;
}
summary::after {
  content: ' ▾';
  white-space: pre;
}
.files > div {
  position: absolute;
  right: 0;
  top: 36px;
  background: #fffdf8;
  border: 1px solid #cfc6b3;
  display: grid;
  min-width: 210px;
  z-index: 8;
}
.files > div :deep(button) {
  border: 0;
  background: none;
  text-align: left;
  padding: 7px 12px;
  font: inherit;
  font-size: 13px;
  color: var(--ink);
  cursor: pointer;
}
.files > div :deep(button:hover),
.files > div :deep(button:focus-visible) {
  background: #efe9dc;
}
</style>
