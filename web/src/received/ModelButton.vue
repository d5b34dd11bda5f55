<script setup lang="ts">
import { ref } from 'vue'

import { useJob } from '@/stores/job'
import { MODEL_FILES, useReading } from '@/stores/reading'

/** Chooses a model to read: one file, or it and the files that it needs. */
const emit = defineEmits<{ chosen: [] }>()

const job = useJob()
const reading = useReading()
const input = ref<HTMLInputElement>()

function choose(): void {
  reading.bring(job.slug, [...(input.value?.files ?? [])])
  if (input.value) input.value.value = ''
  emit('chosen')
}
</script>

<template>
  <button type="button" title="Read a model: GLB, glTF, OBJ, PLY, STL, 3MF or STEP" @click="input?.click()">
    <slot>Read a model …</slot>
    <input
      ref="input"
      class="unseen"
      type="file"
      multiple
      tabindex="-1"
      :accept="MODEL_FILES"
      aria-label="Model files"
      data-test="model-file"
      @click.stop
      @change="choose"
    />
  </button>
</template>
