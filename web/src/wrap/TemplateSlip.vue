<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref } from 'vue'

import { type Panel, wordsFor } from '@/api/client'
import { download } from '@/api/download'
import QuantityInput from '@/components/QuantityInput.vue'
import type { Outline } from '@/composables/page'

/** A label's template, to draw artwork on. */
const props = defineProps<{ panel: Panel; outline: Outline | null; name: string }>()
const FORMS = ['pdf', 'svg', 'png', 'dxf'] as const
const bleed = ref(3)
const safe = ref(3)
const problem = ref('')
async function save(form: (typeof FORMS)[number]): Promise<void> {
  problem.value = ''
  try {
    const how = `bleed=${bleed.value}&safe=${safe.value}`
    await download(`/api/template.${form}?${how}`, `${props.name}-template.${form}`, {
      panel: props.panel,
      outline: props.outline,
    })
  } catch (error) {
    problem.value = wordsFor(error)
  }
}
</script>

<template>
  <details data-test="slip-template">
    <summary>Template to draw on</summary>
    <p class="sentence">
      At 1:1 with
      <QuantityInput
        label="Bleed"
        unit="mm"
        :value="bleed"
        :min="0"
        :max="20"
        :step="0.5"
        @change="(v) => (bleed = v)"
      />
      bleed and
      <QuantityInput label="Safe" unit="mm" :value="safe" :min="0" :max="50" :step="0.5" @change="(v) => (safe = v)" />
      to the knife.
    </p>
    <p v-if="problem" class="refused" role="alert">{{ problem }}</p>
    <div class="buttons">
      <Button v-for="form in FORMS" :key="form" size="small" :data-test="`template-${form}`" @click="save(form)">{{
        form.toUpperCase()
      }}</Button>
    </div>
    <p class="hint">Placed here again, what is drawn on it lies where it was drawn.</p>
  </details>
</template>
