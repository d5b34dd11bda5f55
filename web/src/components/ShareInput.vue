<script setup lang="ts">
import QuantityInput from './QuantityInput.vue'

/** A share between 0 and 1, said in per cent. */
withDefaults(defineProps<{ value: number; label: string; most?: number }>(), { most: 100 })
const emit = defineEmits<{ change: [value: number] }>()
</script>

<template>
  <QuantityInput
    :label="label"
    unit="%"
    :value="value * 100"
    :min="0"
    :max="most"
    :step="5"
    :digits="0"
    @change="(v) => emit('change', v / 100)"
  />
</template>
